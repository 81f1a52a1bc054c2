<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { navigateTo, useHead, useRoute } from '#imports'
import { TASK_KINDS, capitalized } from '#core/enumerations'
import { listUsers } from '#shared/api/settings/settings'
import { assignCalls, teamCalls } from '#shared/api/team'
import { call } from '~/api/call'
import { useAnswer } from '~/composables/answer'
import { useOptions } from '~/composables/options'
import { useTimes } from '~/composables/times'
import { useNotices } from '~/stores/notices'
import { useSession } from '~/stores/session'

/** All open calls of the team, for a manager to see who has too many, and to assign them. */
useHead({ title: 'Team calls' })
const PAGE = 100
const route = useRoute()
const notices = useNotices()
const session = useSession()
const times = useTimes()
const limit = ref(PAGE)
const selected = ref<string[]>([])
const to = ref('')
const busy = ref(false)
const users = useOptions(() => call(listUsers).then((answer) => answer.users.filter((user) => user.active)))
const ownerId = computed(() => (typeof route.query.owner === 'string' ? route.query.owner : ''))
const overdue = computed(() => route.query.overdue === 'yes')
// Reps see their own calls on the Desk.
if (!session.manages) void navigateTo('/team', { replace: true })
const {
  answer: found,
  isLoading,
  lastError,
  readAgain,
} = useAnswer(
  teamCalls,
  () =>
    session.manages
      ? {
          query: {
            limit: limit.value,
            overdue: overdue.value ? ('yes' as const) : ('no' as const),
            ...(ownerId.value && { ownerId: ownerId.value }),
          },
        }
      : null,
  { failed: 'The calls could not be read', showsLast: true },
)
watch(found, (now) => {
  const there = new Set(now?.calls.map(({ id }) => id))
  selected.value = selected.value.filter((id) => there.has(id))
})
const narrow = (change: Record<string, string | undefined>) =>
  navigateTo({ query: { ...route.query, ...change } }, { replace: true })
const allSelected = computed({
  get: () => selected.value.length > 0 && selected.value.length === found.value?.calls.length,
  set: (on: boolean) => {
    selected.value = on ? (found.value?.calls ?? []).map(({ id }) => id) : []
  },
})
const several = (count: number) => `${count.toLocaleString('en-US')} ${count === 1 ? 'call' : 'calls'}`
async function assign(): Promise<void> {
  const name = users.value.find(({ id }) => id === to.value)?.name
  if (!name || !found.value) return
  const before = found.value.calls.filter(({ id }) => selected.value.includes(id))
  busy.value = true
  try {
    const { assigned, left } = await call(assignCalls, { body: { taskIds: selected.value, to: to.value } })
    const done = `${several(assigned)} assigned to ${name}.`
    notices.say(left ? `${done} ${several(left)} had been done or were theirs already.` : done, {
      label: 'Undo',
      run: () => void giveBack(before),
    })
    selected.value = []
    await readAgain()
  } catch (error) {
    notices.error(error)
  }
  busy.value = false
}
/** Assigns calls to those again who had them. */
async function giveBack(calls: NonNullable<typeof found.value>['calls']): Promise<void> {
  try {
    for (const owner of new Set(calls.flatMap((one) => one.owner?.id ?? []))) {
      const taskIds = calls.filter((one) => one.owner?.id === owner).map(({ id }) => id)
      await call(assignCalls, { body: { taskIds, to: owner } })
    }
    notices.say('Assigned as before.')
  } catch (error) {
    notices.error(error)
  }
  await readAgain()
}
</script>

<template>
  <div class="page">
    <p class="dim small"><NuxtLink to="/team">Team</NuxtLink></p>
    <h1 class="mb-1">Team calls</h1>
    <p class="dim mb-4">
      Every open call, oldest due date first. Assign them to anyone; the prospects keep their owners.
    </p>
    <p v-if="lastError" class="notice clay" role="alert">{{ lastError }}</p>
    <div v-if="found" class="picks mb-3" role="group" aria-label="Owner">
      <button class="chip" :class="{ on: !ownerId }" :aria-pressed="!ownerId" @click="narrow({ owner: undefined })">
        Everyone
      </button>
      <button
        v-for="owner in found.owners"
        :key="owner.id"
        class="chip"
        :class="{ on: ownerId === owner.id }"
        :aria-pressed="ownerId === owner.id"
        @click="narrow({ owner: owner.id })"
      >
        {{ owner.name }} <span class="num">{{ owner.open.toLocaleString('en-US') }}</span><span
          v-if="owner.overdue"
          class="num late"
          >, {{ owner.overdue.toLocaleString('en-US') }} overdue</span
        >
      </button>
      <CheckBox
        :model-value="overdue"
        label="Only overdue"
        @update:model-value="narrow({ overdue: $event ? 'yes' : undefined })"
      />
    </div>
    <form v-if="selected.length" class="row mb-2" @submit.prevent="assign">
      <label
        ><span class="mr-2">Assign {{ several(selected.length) }} to</span
        ><select v-model="to" required>
          <option value="" disabled>Choose a user</option>
          <option v-for="user in users" :key="user.id" :value="user.id">{{ user.name }}</option>
        </select></label
      >
      <v-btn size="small" type="submit" color="primary" :disabled="!to" :loading="busy">Assign</v-btn
      ><button type="button" class="link small" @click="selected = []">Clear selection</button>
    </form>
    <p v-if="found && !found.calls.length" class="panel">
      No open calls{{ ownerId || overdue ? ' that fit' : '' }}. Calls of cadences and planned calls show up here when
      they are due.
    </p>
    <div v-if="found?.calls.length" class="scroll">
      <table class="sheet" aria-label="Open calls" :aria-busy="isLoading">
        <thead>
          <tr>
            <th><input v-model="allSelected" type="checkbox" aria-label="Select all shown" /></th>
            <th>Due</th>
            <th>Prospect</th>
            <th>What</th>
            <th>Cadence</th>
            <th>Owner</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="one in found.calls" :key="one.id">
            <td>
              <input
                v-model="selected"
                type="checkbox"
                :value="one.id"
                :aria-label="`Select the call with ${one.name}`"
              />
            </td>
            <td class="num nowrap" :class="{ late: one.overdue }">{{ times.moment(one.dueAt) }}</td>
            <td>
              <NuxtLink :to="`/prospects/${one.prospectId}`">{{ one.name }}</NuxtLink><br v-if="one.company" /><span
                class="dim small"
                >{{ one.company }}</span
              >
            </td>
            <td>{{ one.kind === 'call' ? one.title : capitalized(TASK_KINDS[one.kind]) }}</td>
            <td class="dim">{{ one.cadence }}</td>
            <td>{{ one.owner?.name ?? 'Nobody' }}</td>
          </tr>
        </tbody>
      </table>
    </div>
    <p v-if="found && found.total > found.calls.length" class="dim mt-3">
      {{ found.calls.length.toLocaleString('en-US') }} of {{ found.total.toLocaleString('en-US') }}
      <button v-if="limit < 1_000" class="link ml-2" @click="limit = Math.min(1_000, limit + 300)">Show more</button>
    </p>
  </div>
</template>

<style scoped>
.late {
  color: var(--clay-deep);
}
.scroll {
  overflow-x: auto;
}
.nowrap {
  white-space: nowrap;
}
select {
  font: inherit;
  color: inherit;
  border: 0;
  border-bottom: 1px solid var(--line);
  background: none;
  padding: 2px 0;
}
</style>
