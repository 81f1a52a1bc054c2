<script setup lang="ts">
import { nextTick, ref, shallowRef } from 'vue'
import type { Field } from '#core/filter/fields'
import type { Filter } from '#core/filter/filter'
import { MOST_PRIORITIES, type QueuePriority } from '#core/queue/priorities'
import { filterFields, listLists } from '#shared/api/lists'
import { editQueuePriorities, getQueuePriorities, type QueuePriorities } from '#shared/api/settings/queue'
import { ApiError, call } from '~/api/call'
import { useNotices } from '~/stores/notices'
import { useSession } from '~/stores/session'

/** What the team works before the rest of the queue: who fits a filter, or a list in its order. */
const session = useSession()
const notices = useNotices()
/** A priority as it is edited, with a key that stays when it moves. */
type Draft = QueuePriority & { key: number }
const rows = ref<Draft[]>([])
const read = shallowRef<QueuePriorities['priorities']>([])
const fields = shallowRef<readonly Field[]>([])
const lists = shallowRef<{ id: string; name: string }[]>([])
const formError = ref<ApiError | null>(null)
const changed = ref(false)
const root = ref<HTMLElement | null>(null)
let keys = 0

function take(answer: QueuePriorities): void {
  read.value = answer.priorities
  rows.value = answer.priorities.map(({ inWords: _words, problem: _problem, ...one }) => ({ ...one, key: keys++ }))
  changed.value = false
  formError.value = null
}
function change(to: Draft[]): void {
  rows.value = to
  changed.value = true
}
const setFilter = (index: number, filter: Filter) =>
  change(rows.value.map((row, at) => (at === index ? { type: 'filter', filter, key: row.key } : row)))
const setList = (index: number, listId: string) =>
  change(rows.value.map((row, at) => (at === index ? { type: 'list', listId, key: row.key } : row)))
async function add(row: QueuePriority): Promise<void> {
  change([...rows.value, { ...row, key: keys++ }])
  await nextTick()
  root.value?.querySelector<HTMLElement>('.priority:last-of-type .what :is(button, select)')?.focus()
}
function move(index: number, by: number): void {
  const order = [...rows.value]
  const [one] = order.splice(index, 1)
  order.splice(index + by, 0, one!)
  change(order)
}
async function save(): Promise<void> {
  try {
    const priorities = rows.value.map(({ key: _key, ...priority }) => priority)
    take(await call(editQueuePriorities, { body: { priorities } }))
    notices.say('Saved. Every queue is in this order now.')
  } catch (error) {
    if (error instanceof ApiError && error.problems.length) formError.value = error
    else notices.error(error)
  }
}
const problemAt = (index: number) =>
  formError.value?.at(`priorities.${index}.filter`) ??
  formError.value?.at(`priorities.${index}.listId`) ??
  (changed.value ? undefined : (read.value[index]?.problem ?? undefined))
// The settings wait until all is there, so that nothing moves.
await Promise.all([
  call(getQueuePriorities).then(take, notices.error),
  call(filterFields).then((answer) => {
    fields.value = answer.fields
  }, notices.error),
  call(listLists).then((answer) => {
    lists.value = answer.lists.map(({ id, name }) => ({ id, name }))
  }, notices.error),
])
</script>

<template>
  <section ref="root">
    <h2>Queue</h2>
    <p class="dim mb-4">
      What everyone works first on the Desk. Call backs and answers always come before it; what is overdue, due and new
      follows. Reps who choose another order leave it out.
    </p>
    <ol class="order">
      <li class="fixed dim">Call backs</li>
      <li class="fixed dim">Answers</li>
      <li v-for="(row, index) in rows" :key="row.key" class="priority">
        <div class="what">
          <p v-if="!session.manages">{{ read[index]?.inWords }}</p>
          <FilterSentence
            v-else-if="row.type === 'filter'"
            :model-value="row.filter"
            :fields="fields"
            @update:model-value="setFilter(index, $event)"
          />
          <label v-else
            >On the list
            <select :value="row.listId" @change="setList(index, ($event.target as HTMLSelectElement).value)">
              <option v-for="list in lists" :key="list.id" :value="list.id">{{ list.name }}</option>
            </select>
            in its order</label
          >
          <p v-if="problemAt(index)" class="clay small" role="alert">{{ problemAt(index) }}</p>
        </div>
        <div v-if="session.manages" class="moves">
          <button
            class="link small"
            :disabled="index === 0"
            :aria-label="`Priority ${index + 1} up`"
            @click="move(index, -1)"
          >
            Up</button
          ><button
            class="link small"
            :disabled="index === rows.length - 1"
            :aria-label="`Priority ${index + 1} down`"
            @click="move(index, 1)"
          >
            Down</button
          ><button
            class="link small"
            :aria-label="`Remove priority ${index + 1}`"
            @click="change(rows.filter((one) => one !== row))"
          >
            Remove
          </button>
        </div>
      </li>
      <li class="fixed dim">Everything else: overdue, due now, new</li>
    </ol>
    <div v-if="session.manages" class="row mt-3">
      <v-btn
        variant="outlined"
        :disabled="rows.length >= MOST_PRIORITIES"
        @click="add({ type: 'filter', filter: { all: [] } })"
        >Add a condition</v-btn
      >
      <v-btn
        v-if="lists.length"
        variant="outlined"
        :disabled="rows.length >= MOST_PRIORITIES"
        @click="add({ type: 'list', listId: lists[0]!.id })"
        >Add a list</v-btn
      >
      <v-btn color="primary" :disabled="!changed" @click="save">Save</v-btn>
    </div>
  </section>
</template>

<style scoped>
section {
  margin-bottom: 34px;
}
.order {
  list-style: none;
  max-width: 760px;
}
.order {
  counter-reset: place;
}
.order li {
  counter-increment: place;
  display: flex;
  gap: 10px;
  align-items: center;
  min-height: 44px;
  border-bottom: 1px solid var(--line);
}
.order li::before {
  content: counter(place) '.';
  flex: 0 0 18px;
  color: var(--dim);
}
.what {
  flex: 1;
  min-width: 0;
  padding: 6px 0;
}
.moves {
  display: flex;
  gap: 12px;
}
.moves button:disabled {
  color: var(--bark);
  text-decoration: none;
  cursor: default;
}
select {
  border: 0;
  border-bottom: 1px solid var(--line);
  background: none;
  font: inherit;
  color: var(--ink);
  max-width: 260px;
}
</style>
