<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { computed, onMounted, ref, shallowRef, watch } from 'vue'
import { navigateTo } from '#imports'
import type { z } from 'zod'
import { readPersonLine } from '#core/imports/personLine'
import { findAnything } from '#shared/api/find'
import { call } from '~/api/call'
import { takeCharacter } from '~/composables/keys'

const open = defineModel<boolean>({ required: true })
const props = defineProps<{ /** What was typed before it was there to take it. */ begin?: string }>()
const emit = defineEmits<{ add: [line: string]; /** It takes what is typed from now on. */ ready: [] }>()
const text = ref('')
const hits = shallowRef<z.output<typeof findAnything.response>>({ people: [], companies: [], lists: [], cadences: [] })
const at = ref(0)
const line = computed(() => readPersonLine(text.value))
const ACTS = [
  { label: 'Go to the Desk', run: () => navigateTo('/') },
  { label: 'Go to Prospects', run: () => navigateTo('/prospects') },
  { label: 'Go to Cadences', run: () => navigateTo('/cadences') },
  { label: 'Go to Deals', run: () => navigateTo('/deals') },
  { label: 'Go to Team: the week by rep', run: () => navigateTo('/team') },
  { label: 'Go to Notifications', run: () => navigateTo('/notifications') },
  { label: 'Import prospects', run: () => navigateTo('/imports') },
  { label: 'Find possible duplicates', run: () => navigateTo('/duplicates') },
  { label: 'Add a person', run: () => emit('add', '') },
  { label: 'Go to Settings', run: () => navigateTo('/settings') },
  { label: 'Go to Settings: outcomes', run: () => navigateTo('/settings/outcomes') },
  { label: 'Go to Settings: stages and gates', run: () => navigateTo('/settings/stages') },
  { label: 'Go to Settings: custom fields', run: () => navigateTo('/settings/fields') },
  { label: 'Go to Settings: users', run: () => navigateTo('/settings/users') },
]
/** A company that is typed stands before everyone who is there, and behind those who are called so. */
const people = (atCompany: boolean) =>
  hits.value.people
    .filter((person) => person.atCompany === atCompany)
    .map((person) => ({
      label: person.name,
      more: [person.title, person.company].filter(Boolean).join(', '),
      run: () => navigateTo(`/prospects/${person.id}`),
    }))
const found = computed(() => [
  ...people(false),
  ...hits.value.companies.map((company) => ({
    label: company.name,
    more: `company, ${company.people} ${company.people === 1 ? 'person' : 'people'}`,
    run: () => navigateTo(`/companies/${company.id}`),
  })),
  ...people(true),
  ...hits.value.lists.map((list) => ({
    label: list.name,
    more: 'list',
    run: () => navigateTo(`/prospects?list=${list.id}`),
  })),
  ...hits.value.cadences.map((cadence) => ({
    label: cadence.name,
    more: 'cadence',
    run: () => navigateTo(`/cadences/${cadence.id}`),
  })),
  // What reads like someone with a number or an address can be added as it stands.
  ...(line.value.name && (line.value.phone || line.value.email)
    ? [
        {
          label: `Add ${line.value.name}`,
          more: [line.value.title, line.value.company, line.value.phone, line.value.email].filter(Boolean).join(', '),
          run: () => emit('add', text.value),
        },
      ]
    : []),
  ...ACTS.filter((act) => act.label.toLowerCase().includes(text.value.trim().toLowerCase())).map((act) => ({
    ...act,
    more: '',
  })),
])
let asked: AbortController | null = null
/** What is shown was found for this text. */
let shownFor = ''
/** Enter was pressed before the answer was there: it is for what is found, not for what was shown before. */
let entered = false
watch(text, async (search) => {
  at.value = 0
  entered = false
  asked?.abort()
  if (search.trim().length < 2) {
    hits.value = { people: [], companies: [], lists: [], cadences: [] }
    shownFor = search
    return
  }
  asked = new AbortController()
  const { signal } = asked
  const answer = await call(findAnything, { query: { text: search }, signal }).catch(() => null)
  if (signal.aborted) return
  if (answer) hits.value = answer
  shownFor = search
  if (entered) run(at.value)
})
function enter(): void {
  if (shownFor === text.value) run(at.value)
  else entered = true
}
watch(open, (now) => {
  entered = false
  if (now) text.value = ''
})
onMounted(() => {
  if (open.value) text.value = props.begin ?? ''
  emit('ready')
})
/** What is typed before the line is there to take it is not lost, nor taken for a key of the screen below. */
const box = ref<{ $el: HTMLElement } | null>(null)
function early(event: KeyboardEvent): void {
  const input = box.value?.$el.querySelector('input') ?? null
  const typed = !open.value || event.target === input ? null : takeCharacter(event)
  if (typed === null) return
  text.value += typed
  input?.focus()
}
useEventListener('keydown', early, true)
function run(index: number): void {
  open.value = false
  void found.value[index]?.run()
}
function move(by: number): void {
  at.value = (at.value + by + found.value.length) % Math.max(1, found.value.length)
}
</script>

<template>
  <v-dialog v-model="open" max-width="560" aria-label="Find or do anything">
    <v-card class="pa-3" role="search">
      <v-text-field
        ref="box"
        v-model="text"
        v-focus
        placeholder="Name, company, email or phone, or a command"
        aria-label="Find or do anything"
        role="combobox"
        aria-expanded="true"
        aria-controls="found"
        :aria-activedescendant="found.length ? `found-${at}` : undefined"
        @keydown.down.prevent="move(1)"
        @keydown.up.prevent="move(-1)"
        @keydown.enter.prevent="enter"
      />
      <ul id="found" class="found" role="listbox" aria-label="Found">
        <li
          v-for="(entry, index) in found"
          :id="`found-${index}`"
          :key="`${entry.label}${index}`"
          role="option"
          class="one"
          :class="{ on: index === at }"
          :aria-selected="index === at"
          @click="run(index)"
          @mousemove="at = index"
        >
          {{ entry.label }} <span class="dim">{{ entry.more }}</span>
        </li>
      </ul>
      <p v-if="!found.length" class="dim pa-3">Nothing found.</p>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.found {
  list-style: none;
  padding: 8px 0 0;
  margin: 0;
  max-height: 50vh;
  overflow: auto;
}
.one {
  padding: 7px 10px;
  border-radius: 6px;
  cursor: pointer;
}
.one.on {
  background: var(--pine-soft);
}
</style>
