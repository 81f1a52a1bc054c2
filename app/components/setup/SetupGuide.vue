<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { computed, onMounted, ref, shallowRef } from 'vue'
import type { z } from 'zod'
import { getSetup, hideSetup } from '#shared/api/settings/setup'
import { call } from '~/api/call'
import { useNotices } from '~/stores/notices'
import { useSession } from '~/stores/session'

/** What is left to set up, with the state of each step: the installation for managers, their first day for reps. */
defineProps<{ /** One line, for a Desk that has work on it. */ slim?: boolean }>()
type Setup = z.output<typeof getSetup.response>
type Step = Setup['steps'][number]
const session = useSession()
const notices = useNotices()
const setup = shallowRef<Setup | null>(null)
const taking = ref(false)
const read = () =>
  call(getSetup).then(
    (answer) => {
      setup.value = answer
    },
    () => {},
  )
onMounted(read)
useEventListener('focus', read)

interface StepText {
  title: string
  label: string
  to?: string
  action: string
}
const TEXTS: Record<Step['key'], StepText> = {
  company: {
    title: 'Company',
    label: 'Name, postal address, time zone and calling hours.',
    to: '/settings',
    action: 'Open settings',
  },
  email: { title: 'Email', label: 'A test email goes out and must come back.', action: 'Send test email' },
  users: { title: 'Reps', label: 'Invite them by email.', to: '/settings/users', action: 'Invite reps' },
  prospects: {
    title: 'Prospects',
    label: 'Any spreadsheet saved as CSV will do.',
    to: '/imports',
    action: 'Import a file',
  },
  lists: { title: 'Lists', label: 'Choose from the lists most teams use.', action: 'Choose lists and cadences' },
  cadence: {
    title: 'First cadence',
    label: 'Take one to start from, put in your words, and enroll people.',
    to: '/cadences',
    action: 'Open cadences',
  },
  timeZone: { title: 'Your time zone', label: '', to: '/account', action: 'Change' },
  signature: { title: 'Your signature', label: 'It ends the emails you send.', to: '/account', action: 'Write it' },
  goals: { title: 'Your goals', label: '', to: '/team', action: 'See your week' },
  call: {
    title: 'First call',
    label: 'Press C on a person here to call, a number to log what came of it, Z to undo.',
    action: '',
  },
}
const left = computed(() => setup.value?.steps.filter((step) => !step.done) ?? [])
const shown = computed(() => setup.value && !setup.value.hidden && left.value.length > 0)
const title = computed(() => (session.manages ? 'Set up Uphill' : 'Your first day'))
async function hide(): Promise<void> {
  await call(hideSetup, { body: { hidden: true } }).catch(notices.error)
  await read()
}
</script>

<template>
  <section v-if="shown && slim" class="slim row" :aria-label="title">
    <b>{{ title }}</b><span class="num dim"
      >{{ setup!.steps.length - left.length }} of {{ setup!.steps.length }} done</span
    >
    <span v-for="step in left" :key="step.key" class="row"
      ><NuxtLink v-if="TEXTS[step.key].to" :to="TEXTS[step.key].to!" class="link">{{ TEXTS[step.key].title }}</NuxtLink
      ><span v-else
        >{{ TEXTS[step.key].title }}: <span class="dim">{{ TEXTS[step.key].label }}</span></span
      ></span
    >
    <button class="link small end" @click="hide">Hide</button>
  </section>
  <section v-else-if="shown" class="guide" :aria-label="title">
    <div class="spread mb-2">
      <h1>{{ title }}</h1>
      <span class="num dim" role="status"
        >{{ setup!.steps.length - left.length }} of {{ setup!.steps.length }} done</span
      >
    </div>
    <ol>
      <li v-for="step in setup!.steps" :key="step.key" :class="{ done: step.done }">
        <span class="mark" aria-hidden="true">{{ step.done ? '✓' : '' }}</span>
        <span class="grow"
          ><b>{{ TEXTS[step.key].title }}</b
          ><span class="sr">{{ step.done ? ', done' : ', to do' }}</span>
          <span class="dim">{{ step.detail ?? (step.done ? '' : TEXTS[step.key].label) }}</span>
          <LazyRoundTrip v-if="step.key === 'email' && !step.done" @done="read" />
        </span>
        <NuxtLink v-if="TEXTS[step.key].to" :to="TEXTS[step.key].to!" class="link small">{{
          TEXTS[step.key].action
        }}</NuxtLink>
        <button v-else-if="step.key === 'lists'" class="link small" @click="taking = true">
          {{ TEXTS[step.key].action }}
        </button>
      </li>
    </ol>
    <button class="link small mt-2" @click="hide">Hide this</button>
    <LazyStarterDialog v-if="taking" v-model="taking" @done="read" />
  </section>
  <slot v-else-if="setup && !slim" />
</template>

<style scoped>
ol {
  list-style: none;
  padding: 0;
}
li {
  display: grid;
  grid-template-columns: 22px minmax(0, 1fr) auto;
  gap: 8px;
  align-items: start;
  padding: 7px 0;
  border-bottom: 1px solid var(--line);
}
li .link {
  min-height: 24px;
  line-height: 24px;
}
.mark {
  width: 18px;
  height: 18px;
  border: 1.5px solid var(--stone);
  border-radius: 50%;
  display: grid;
  place-items: center;
  font-size: 12px;
  margin-top: 1px;
}
.done .mark {
  background: var(--pine-soft);
  border-color: var(--pine);
  color: var(--pine-deep);
}
.grow b {
  margin-right: 8px;
}
.done b {
  font-weight: 500;
}
.slim {
  padding: 5px 16px;
  border-bottom: 1px solid var(--line);
  background: var(--card);
  flex-wrap: wrap;
  gap: 4px 14px;
}
.end {
  margin-left: auto;
}
</style>
