<script setup lang="ts">
import { ref, watch } from 'vue'
import { RESULT_FIELDS, type ResultContent, type ResultField } from '#core/dialing/resultRow'
import { editResult, listUnreadable, nameOutcome, removeResult, type CallResult } from '#shared/api/blocks/otherDialers'
import { listOutcomes } from '#shared/api/settings/outcomes'
import { call } from '~/api/call'
import { useOptions } from '~/composables/options'
import { useNotices } from '~/stores/notices'

/** Results of another dialer that could not be logged: corrected field by field, or discarded. */
const props = defineProps<{ exportId: string; count: number; dialer: string }>()
const emit = defineEmits<{ changed: [] }>()
const notices = useNotices()
interface Row extends Omit<CallResult, 'content'> {
  content: ResultContent
}
const rows = ref<Row[]>([])
const total = ref(0)
const outcomes = useOptions(() => call(listOutcomes).then((answer) => answer.outcomes))
async function read(): Promise<void> {
  const answer = await call(listUnreadable, { params: { id: props.exportId } })
  // What is being corrected stays as it is typed.
  const typed = new Map(rows.value.map((row) => [row.id, row]))
  rows.value = answer.results.map((row) => typed.get(row.id) ?? ({ ...row, content: { ...row.content } } as Row))
  total.value = answer.total
}
watch(
  () => props.count,
  () => void read().catch(notices.error),
  { immediate: true },
)
async function act(work: () => Promise<unknown>): Promise<void> {
  try {
    await work()
    await read()
  } catch (error) {
    notices.error(error)
  }
  emit('changed')
}
const again = (row: Row) =>
  act(async () => {
    const done = await call(editResult, { params: { id: row.id }, body: row.content })
    if (done.status === 'unreadable') Object.assign(row, { field: done.field, error: done.error })
    else notices.say('Logged.')
  })
const mean = (row: Row, outcomeId: string) =>
  act(async () => {
    const word = row.content.outcome
    rows.value = rows.value.filter((one) => one.content.outcome.toLowerCase() !== word.toLowerCase())
    await call(nameOutcome, { params: { id: props.exportId }, body: { word, outcomeId } })
    notices.say(
      `From now on “${word}” of ${props.dialer} is ${outcomes.value.find(({ id }) => id === outcomeId)?.name}.`,
    )
  })
const discard = (row: Row) => act(() => call(removeResult, { params: { id: row.id } }))
/** What a row says, but for the field that is corrected. */
const rest = (row: Row) =>
  (Object.keys(RESULT_FIELDS) as ResultField[])
    .filter((field) => field !== row.field && row.content[field])
    .map((field) => `${RESULT_FIELDS[field]}: ${row.content[field]}`)
    .join(' · ')
const isUnknownWord = (row: Row) => row.field === 'outcome' && row.content.outcome !== ''
</script>

<template>
  <div class="bad">
    <p class="small">
      <b>{{
        count === 1 ? '1 result could not be logged' : `${count.toLocaleString('en-US')} results could not be logged`
      }}</b>
    </p>
    <ul>
      <li v-for="row in rows" :key="row.id" :aria-label="`Row ${row.rowNumber}`">
        <p class="small">
          <span class="dim">{{ row.fileName ?? 'API' }}, row {{ row.rowNumber }}.</span> {{ row.error }}.
          <span class="dim">{{ rest(row) }}</span>
        </p>
        <form class="row small" novalidate @submit.prevent="again(row)">
          <label v-if="isUnknownWord(row)"
            >“{{ row.content.outcome }}” means
            <select @change="mean(row, ($event.target as HTMLSelectElement).value)">
              <option value="">choose an outcome</option>
              <option v-for="one in outcomes" :key="one.id" :value="one.id">{{ one.name }}</option>
            </select></label
          >
          <template v-else-if="row.field">
            <label
              >{{ RESULT_FIELDS[row.field] }}
              <input v-model="row.content[row.field]" maxlength="4000" />
            </label>
            <button class="plain chip pine" type="submit">Try again</button>
          </template>
          <button class="link" type="button" @click="discard(row)">Discard</button>
        </form>
      </li>
    </ul>
    <p v-if="total > rows.length" class="dim small">and {{ (total - rows.length).toLocaleString('en-US') }} more</p>
  </div>
</template>

<style scoped>
.bad {
  margin: 6px 0 4px;
  padding-left: 12px;
  border-left: 2px solid var(--clay-deep);
}
ul {
  list-style: none;
  padding: 0;
}
li {
  padding: 5px 0;
}
input,
select {
  font: inherit;
  border: 0;
  border-bottom: 1px solid var(--dim);
  background: none;
  padding: 2px 4px;
  margin-left: 6px;
}
</style>
