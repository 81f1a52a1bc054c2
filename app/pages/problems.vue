<script setup lang="ts">
import { computed, onMounted, ref, shallowRef } from 'vue'
import type { z } from 'zod'
import { useHead } from '#imports'
import { discardProblem, listProblems, retryProblem, settleEmails, type SetAside } from '#shared/api/problems'
import { call } from '~/api/call'
import { useTimes } from '~/composables/times'
import { useNotices } from '~/stores/notices'
import { useSession } from '~/stores/session'

/**
 * What waits for a person: emails whose delivery is unknown, settled together; blocked emails; and work that failed
 * three times.
 */
type Problems = z.output<typeof listProblems.response>

const session = useSession()
const notices = useNotices()
const times = useTimes()
const problems = shallowRef<Problems | null>(null)
const selected = ref<string[]>([])
const busy = ref(false)
const discarding = ref<SetAside | null>(null)
useHead({ title: 'Problems' })

const none = computed(
  () =>
    problems.value &&
    !problems.value.setAside.length &&
    !problems.value.unknown.length &&
    !problems.value.blocked.length,
)
const allSelected = computed({
  get: () => Boolean(problems.value?.unknown.length) && selected.value.length === problems.value!.unknown.length,
  set: (all: boolean) => {
    selected.value = all ? problems.value!.unknown.map((email) => email.messageId) : []
  },
})
const several = (count: number, one: string, many: string) => `${count.toLocaleString()} ${count === 1 ? one : many}`

async function read(): Promise<void> {
  problems.value = await call(listProblems)
  const there = new Set(problems.value.unknown.map((email) => email.messageId))
  selected.value = selected.value.filter((id) => there.has(id))
}
onMounted(() => read().catch(notices.error))

async function act(work: () => Promise<string>): Promise<void> {
  busy.value = true
  try {
    notices.say(await work())
  } catch (error) {
    notices.error(error)
  }
  await read().catch(notices.error)
  busy.value = false
}
const settle = (wentOut: boolean) =>
  act(async () => {
    const { settled, refused } = await call(settleEmails, { body: { messageIds: selected.value, wentOut } })
    selected.value = []
    const done = wentOut
      ? `${several(settled, 'email counts', 'emails count')} as sent.`
      : `${several(settled, 'email is', 'emails are')} sent again.`
    return refused.length ? `${done} ${refused.length} not: ${refused[0]!.reason}` : done
  })
const retry = (problem: SetAside) =>
  act(async () => {
    await call(retryProblem, { body: { kind: problem.kind, id: problem.id } })
    return 'Running again. If it fails, it comes back here.'
  })
const discard = () =>
  act(async () => {
    const problem = discarding.value!
    await call(discardProblem, { body: { kind: problem.kind, id: problem.id } })
    discarding.value = null
    return 'Discarded.'
  })
const WHAT_FOLLOWS: Record<SetAside['kind'], string> = {
  step: 'The person leaves the cadence.',
  email: 'The email is canceled, and the cadence goes on without it.',
  action: 'It is canceled: nothing follows.',
  incoming: 'The email is deleted unread.',
  job: 'What it has not done yet is not done.',
}
</script>

<template>
  <div class="page">
    <h1 class="mb-1">Problems</h1>
    <p class="dim mb-5">Work that needs a decision or a fix from you.</p>
    <p v-if="none" class="panel">
      No problems. Emails with unknown delivery, blocked emails and failed work show up here.
    </p>

    <section v-if="problems?.unknown.length">
      <h2>
        Delivery unknown <span class="dim num">{{ problems.unknownCount.toLocaleString() }}</span>
      </h2>
      <p class="dim mb-2">
        The connection broke while these were being sent. Check the sender’s mailbox, then select them and mark them as
        sent or send them again.
      </p>
      <div class="row mb-2">
        <label class="row"
          ><input v-model="allSelected" type="checkbox" />Select all
          {{ problems.unknown.length.toLocaleString() }}</label
        >
        <v-btn size="small" variant="outlined" :disabled="!selected.length || busy" @click="settle(true)"
          >Mark as sent</v-btn
        >
        <v-btn size="small" variant="outlined" :disabled="!selected.length || busy" @click="settle(false)"
          >Send again</v-btn
        >
        <span v-if="selected.length" class="dim">{{ selected.length.toLocaleString() }} selected</span>
      </div>
      <table class="sheet">
        <thead>
          <tr>
            <th><span class="sr">Select</span></th>
            <th>To</th>
            <th>Subject</th>
            <th>From</th>
            <th>When</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="email in problems.unknown" :key="email.messageId">
            <td>
              <input
                v-model="selected"
                type="checkbox"
                :value="email.messageId"
                :aria-label="`Select the email to ${email.person?.name}`"
              />
            </td>
            <td>
              <NuxtLink v-if="email.person" :to="`/prospects/${email.person.id}`">{{ email.person.name }}</NuxtLink>
            </td>
            <td>{{ email.subject }}</td>
            <td class="dim">{{ email.sender }}</td>
            <td class="num dim">{{ times.moment(email.at) }}</td>
          </tr>
        </tbody>
      </table>
    </section>

    <section v-if="problems?.blocked.length">
      <h2>
        Blocked emails <span class="dim num">{{ problems.blockedCount.toLocaleString() }}</span>
      </h2>
      <p class="dim mb-2">Each stays on its sender’s Desk until the missing detail is filled in.</p>
      <table class="sheet">
        <thead>
          <tr>
            <th>To</th>
            <th>Subject</th>
            <th>Error</th>
            <th>From</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="email in problems.blocked" :key="email.messageId">
            <td>
              <NuxtLink v-if="email.person" :to="`/prospects/${email.person.id}`">{{ email.person.name }}</NuxtLink>
            </td>
            <td>{{ email.subject }}</td>
            <td>{{ email.error }}</td>
            <td class="dim">{{ email.sender }}</td>
          </tr>
        </tbody>
      </table>
    </section>

    <section v-if="problems?.setAside.length">
      <h2>
        Failed three times <span class="dim num">{{ problems.setAside.length }}</span>
      </h2>
      <p class="dim mb-2">Set aside so that nothing else has to wait. Fix the cause, then run it again.</p>
      <table class="sheet">
        <thead>
          <tr>
            <th>Work</th>
            <th>Person</th>
            <th>Error</th>
            <th><span class="sr">Actions</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="problem in problems.setAside" :key="problem.kind + problem.id">
            <td>{{ problem.what }}</td>
            <td>
              <NuxtLink v-if="problem.person" :to="`/prospects/${problem.person.id}`">{{
                problem.person.name
              }}</NuxtLink>
            </td>
            <td class="error">{{ problem.error }}</td>
            <td v-if="session.manages" class="acts">
              <button class="link small mr-3" :disabled="busy" @click="retry(problem)">Run again</button
              ><button class="link small" :disabled="busy" @click="discarding = problem">Discard</button>
            </td>
          </tr>
        </tbody>
      </table>
    </section>

    <v-dialog
      :model-value="Boolean(discarding)"
      max-width="480"
      aria-label="Discard"
      @update:model-value="discarding = null"
    >
      <v-card v-if="discarding" class="pa-5">
        <h2 class="mb-2">Discard “{{ discarding.what }}”?</h2>
        <p class="mb-4">{{ WHAT_FOLLOWS[discarding.kind] }}</p>
        <FormFooter action="Discard" danger :busy="busy" @act="discard" @cancel="discarding = null" />
      </v-card>
    </v-dialog>
  </div>
</template>

<style scoped>
section {
  margin-bottom: 34px;
}
.acts {
  text-align: right;
  white-space: nowrap;
}
.error {
  overflow-wrap: anywhere;
  max-width: 34rem;
}
label.row {
  gap: 6px;
}
</style>
