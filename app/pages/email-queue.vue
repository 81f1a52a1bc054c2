<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { navigateTo, useHead, useRoute } from '#imports'
import { QUEUE_REASONS, type QueueReason } from '#core/enumerations'
import { cancelEmails, listEmailQueue } from '#shared/api/email/sending'
import { call } from '~/api/call'
import { useAnswer } from '~/composables/answer'
import { useTimes } from '~/composables/times'
import { useNotices } from '~/stores/notices'
import { useSession } from '~/stores/session'

/** All email that waits, in the order in which it leaves: when, and why not yet. */
useHead({ title: 'Email queue' })
const PAGE = 100
const route = useRoute()
const session = useSession()
const notices = useNotices()
const times = useTimes()
const limit = ref(PAGE)
const selected = ref<string[]>([])
const busy = ref(false)
const text = (value: unknown) => (typeof value === 'string' && value ? value : undefined)
const asked = computed(() => ({
  senderId: text(route.query.sender),
  cadenceId: text(route.query.cadence),
  why: text(route.query.why) as QueueReason | undefined,
}))
const {
  answer: queue,
  isLoading,
  lastError,
  readAgain,
} = useAnswer(listEmailQueue, () => ({ query: { ...asked.value, limit: limit.value } }), {
  failed: 'The email queue could not be read',
  showsLast: true,
})
watch(queue, (now) => {
  const there = new Set(now?.emails.map(({ id }) => id))
  selected.value = selected.value.filter((id) => there.has(id))
})
const reasons = computed(() => Object.entries(queue.value?.reasons ?? {}) as [QueueReason, number][])
const all = computed(() => reasons.value.reduce((sum, [, count]) => sum + count, 0))
const narrow = (change: Record<string, string | undefined>) =>
  navigateTo({ query: { ...route.query, ...change } }, { replace: true })
type Email = NonNullable<typeof queue.value>['emails'][number]
const mayCancel = (email: Email) => email.kind === 'email' && email.why !== 'detail' && email.why !== 'unknown'
const cancelable = computed(() => (queue.value?.emails ?? []).filter(mayCancel).map(({ id }) => id))
const allSelected = computed({
  get: () => cancelable.value.length > 0 && selected.value.length === cancelable.value.length,
  set: (on: boolean) => {
    selected.value = on ? cancelable.value : []
  },
})
async function cancel(): Promise<void> {
  busy.value = true
  try {
    const { cancelled, left } = await call(cancelEmails, { body: { messageIds: selected.value } })
    const emails = cancelled === 1 ? 'email' : 'emails'
    const done = `${cancelled.toLocaleString()} ${emails} canceled; the cadences go on without.`
    notices.say(left ? `${done} ${left.toLocaleString()} had left already.` : done)
    selected.value = []
    await readAgain()
  } catch (error) {
    notices.error(error)
  }
  busy.value = false
}
const filterName = computed(() => {
  const [email] = queue.value?.emails ?? []
  const parts = [
    asked.value.senderId && email?.sender ? `from ${email.sender.name}` : '',
    asked.value.cadenceId && email?.cadence ? `of “${email.cadence.name}”` : '',
  ]
  return parts.filter(Boolean).join(' ')
})
</script>

<template>
  <div class="page">
    <h1 class="mb-1">Email queue</h1>
    <p class="dim mb-4">
      {{ session.manages ? 'All email' : 'Your email' }} that waits to be sent, first what leaves first.
      <NuxtLink to="/settings/sending">Sending windows and senders</NuxtLink>
    </p>
    <div v-if="queue && (all || asked.why)" class="picks mb-3" role="group" aria-label="What it waits for">
      <button class="chip" :class="{ on: !asked.why }" :aria-pressed="!asked.why" @click="narrow({ why: undefined })">
        All
      </button>
      <button
        v-for="[why, count] in reasons"
        :key="why"
        class="chip"
        :class="{ on: asked.why === why }"
        :aria-pressed="asked.why === why"
        @click="narrow({ why })"
      >
        {{ QUEUE_REASONS[why] }} <span class="num">{{ count.toLocaleString() }}</span>
      </button>
    </div>
    <p v-if="asked.senderId || asked.cadenceId" class="mb-2">
      Only email {{ filterName }}
      <button class="link small ml-2" @click="narrow({ sender: undefined, cadence: undefined })">Show all</button>
    </p>
    <div v-if="selected.length" class="row mb-2">
      <v-btn size="small" variant="outlined" :loading="busy" @click="cancel"
        >Cancel {{ selected.length.toLocaleString() }} {{ selected.length === 1 ? 'email' : 'emails' }}</v-btn
      ><button class="link small" @click="selected = []">Clear selection</button>
    </div>
    <p v-if="lastError" class="notice clay" role="alert">{{ lastError }}</p>
    <p v-if="queue && !queue.emails.length" class="panel">
      Nothing is waiting. Cadence and bulk email shows up here until it is sent.
    </p>
    <table v-if="queue?.emails.length" class="sheet" :aria-busy="isLoading">
      <thead>
        <tr>
          <th>
            <input v-model="allSelected" type="checkbox" aria-label="Select all that can be canceled" />
          </th>
          <th>Leaves</th>
          <th>Waits for</th>
          <th>To</th>
          <th>Subject</th>
          <th>From</th>
          <th>Cadence</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="email in queue.emails" :key="email.id">
          <td>
            <input
              v-if="mayCancel(email)"
              v-model="selected"
              type="checkbox"
              :value="email.id"
              :aria-label="`Select the email to ${email.prospect.name}`"
            />
          </td>
          <td class="num nowrap">{{ email.at === null ? '' : times.moment(email.at) }}</td>
          <td>{{ email.why ? QUEUE_REASONS[email.why] : 'nothing: it leaves now' }}</td>
          <td>
            <NuxtLink :to="`/prospects/${email.prospect.id}`">{{ email.prospect.name }}</NuxtLink><br
              v-if="email.prospect.company"
            /><span class="dim small">{{ email.prospect.company }}</span>
          </td>
          <td class="subject">{{ email.subject }}</td>
          <td class="dim">{{ email.sender?.name }}</td>
          <td>
            <NuxtLink v-if="email.cadence" :to="`/cadences/${email.cadence.id}`">{{
              email.cadence.name
            }}</NuxtLink><span v-else class="dim">none</span>
          </td>
        </tr>
      </tbody>
    </table>
    <p v-if="queue && queue.total > queue.emails.length" class="dim mt-3">
      {{ queue.emails.length.toLocaleString() }} of {{ queue.total.toLocaleString() }}
      <button v-if="limit < 1_000" class="link ml-2" @click="limit = Math.min(1_000, limit + 300)">Show more</button>
    </p>
  </div>
</template>

<style scoped>
.nowrap {
  white-space: nowrap;
}
.subject {
  overflow-wrap: anywhere;
  max-width: 22rem;
}
</style>
