<script setup lang="ts">
import { watchDebounced } from '@vueuse/core'
import { computed, onMounted, ref, watch } from 'vue'
import { navigateTo, useRoute } from '#imports'
import { conditionsOf, EVERYONE, normalize, withoutEmptyGroups, type Filter } from '#core/filter/filter'
import { forReading, print } from '#core/filter/sentence'
import type { List } from '#shared/api/lists'
import type ListFilter from '~/components/lists/ListFilter.vue'
import type ListStrip from '~/components/lists/ListStrip.vue'
import type PeopleTable from '~/components/lists/PeopleTable.vue'
import { messageOf } from '~/api/call'
import { useChoosing } from '~/composables/choosing'
import { useComeBack } from '~/composables/comeBack'
import { useFilterAddress } from '~/composables/filterAddress'
import { useKeys } from '~/composables/keys'
import { useListColumns } from '~/composables/listColumns'
import { useLists } from '~/composables/lists'
import { usePeopleFound } from '~/components/lists/peopleFound'
import { usePeopleQuestion } from '~/components/lists/peopleQuestion'
import { useNotices } from '~/stores/notices'

const route = useRoute()
const notices = useNotices()
const { lists, fields, byKey, columnFields, columnByKey, readLists, changeList } = useLists()
const listNames = computed(() => new Map(lists.value.map((one) => [one.id, one.name])))
const strip = ref<InstanceType<typeof ListStrip> | null>(null)
const sentence = ref<InstanceType<typeof ListFilter> | null>(null)
const { filter, search, unreadable, takeAddress, address, clearFilters, narrowTo, peopleAt } = useFilterAddress(
  fields,
  byKey,
)
const enrolling = ref(false)
const changing = ref(false)
const merging = ref(false)
const keeping = ref<'new' | 'picked' | 'settings' | null>(null)
const { list, view, sort, goal, narrowed, asked, whole, exportAddress } = usePeopleQuestion(lists, byKey, {
  filter,
  search,
})
const { columns, takeColumns, keepColumns } = useListColumns(list, changeList)
const { people, next, count, inPeople, busy, lastError, read, isRead } = usePeopleFound({
  asked,
  columns,
  sort,
  isAskable: () => fields.value.length > 0 && !list.value?.problems.length,
})
const { picked, pickedIds, everyone, pick, pickAll, clearSelection } = useChoosing(people)
watchDebounced(
  () => JSON.stringify(asked.value),
  () => {
    address({})
    if (isRead()) return
    clearSelection()
    void read()
  },
  { debounce: 150 },
)
watch(list, takeColumns)
watch(
  () => [route.query.list, route.query.sort],
  () => {
    // People are read with the columns they are shown in, whichever watcher runs first.
    takeColumns()
    void read()
  },
)
onMounted(async () => {
  try {
    await readLists()
    takeColumns()
    takeAddress()
    await read()
    await comeBack()
  } catch (error) {
    lastError.value = messageOf(error, 'The lists could not be read')
    busy.value = false
  }
})

async function setColumns(wanted: List['columns'], reads = true): Promise<void> {
  const afterSaving = keepColumns(wanted)
  if (reads) void read()
  await afterSaving
}
function choose(id: string | null): void {
  filter.value = EVERYONE
  search.value = ''
  const response = lists.value.find((one) => one.id === id)?.defaultView
  void navigateTo({ query: id ? { list: id, ...(response && response !== 'people' && { by: response }) } : {} })
}
/** Takes the list's own filter into the sentence, to be changed there. */
function openUp(): void {
  if (!list.value?.filter) return
  const own = list.value.filter as Filter
  void Promise.resolve(navigateTo({ query: {} })).then(() => {
    filter.value = normalize(own)
  })
}
/** Makes what the sentence asks beyond the list a part of the list itself. */
async function narrowList(): Promise<void> {
  const both = normalize({ all: [list.value!.filter as Filter, withoutEmptyGroups(filter.value)] })
  await changeList(list.value!, { filter: both })
  filter.value = EVERYONE
  await readLists().catch(notices.error)
}
async function saved(id: string | null): Promise<void> {
  await readLists().catch(notices.error)
  clearSelection()
  // The list that is open already may ask something else now.
  const same = id !== null && id === route.query.list
  choose(id)
  if (same) await read()
}
const table = ref<InstanceType<typeof PeopleTable> | null>(null)
const head = ref<{ focus(): void } | null>(null)
const { comeBack } = useComeBack({
  rows: people,
  more: async () => {
    if (next.value && !lastError.value) await read(true)
    return next.value !== null && !lastError.value
  },
  cursor: () => table.value?.cursor(),
  goTo: (index) => table.value?.goTo(index),
})
useKeys([
  { key: 'j', label: 'Next row', run: () => void table.value?.step(1) },
  { key: 'k', label: 'Previous row', run: () => void table.value?.step(-1) },
  { key: ' ', label: 'Select this row, or clear it', on: '.name', run: () => table.value?.pickHere() },
  {
    key: 'c',
    label: 'Bulk action for those selected',
    run: () => {
      changing.value = picked.value.size > 0
    },
  },
  { key: 'f', label: 'Search this list', run: () => head.value?.focus() },
  { key: 'a', label: 'Add filter', run: () => sentence.value?.add() },
  {
    key: 'w',
    label: 'Work this list',
    run: () => {
      if (list.value && !list.value.problems.length) void navigateTo(`/?list=${list.value.id}`)
    },
  },
])
/** The list is counted again, and read again where it is the one that is shown. */
function listChanged(id: string): void {
  void strip.value?.recount(id)
  clearSelection()
  if (id === list.value?.id) void read()
}
const whom = computed(() => (everyone.value ? asked.value : { prospectIds: pickedIds.value }))
const goalCounts = computed(() => (list.value ? (strip.value?.counts.get(list.value.id)?.touchGoal ?? null) : null))
const companies = ref(0)
const headline = computed(() =>
  view.value === 'companies'
    ? `${companies.value.toLocaleString('en-US')} ${companies.value === 1 ? 'company' : 'companies'}`
    : inPeople.value,
)
/** Reads the people again, and counts the list that is shown. */
function recount(): void {
  void read()
  if (list.value) void strip.value?.recount(list.value.id)
}
/** Reads the people again after those selected were dealt with. */
function done(): void {
  clearSelection()
  void read()
}
function changed(): void {
  void read()
  strip.value?.recountAll()
}
</script>

<template>
  <div class="page">
    <ListStrip
      ref="strip"
      :lists="lists"
      :chosen="list?.id ?? null"
      class="lists"
      @choose="choose"
      @moved="readLists().catch(notices.error)"
    />
    <section class="main">
      <ListHead
        ref="head"
        v-model:search="search"
        :list="list"
        :headline="headline"
        :view="view"
        :columns="columns"
        :column-fields="columnFields"
        :exported="(format) => exportAddress(format, columns)"
        @view="address({ by: $event === 'people' ? undefined : $event, ...($event !== 'map' && { draw: undefined }) })"
        @settings="keeping = 'settings'"
        @columns="setColumns"
        @down="table?.goTo(0)"
      />
      <ListBatches v-if="list?.kind === 'fixed'" :list-id="list.id" :may-edit="list.mayEdit" @changed="recount()" />
      <p v-else-if="list" class="says dim">
        {{ forReading(list.sentence) }}<button class="link small ml-2" @click="openUp">Edit a copy</button
        ><button v-if="list.mayEdit && conditionsOf(filter).length" class="link small ml-2" @click="narrowList">
          Save this filter to the list
        </button>
      </p>
      <p v-if="list?.problems.length" class="notice clay" role="alert">
        This list cannot be read as it is. {{ list.problems.join('. ') }}.
      </p>
      <p v-if="unreadable" class="notice clay" role="alert">{{ unreadable }}</p>
      <ListFilter
        ref="sentence"
        v-model="filter"
        :fields="fields"
        :of-list="list !== null"
        :narrowed="narrowed"
        :count="list?.problems.length ? null : count"
        @clear="clearFilters"
        @keep="keeping = 'new'"
      />
      <p v-if="lastError" class="notice clay" role="alert">
        {{ lastError }} <button class="link" @click="read()">Try again</button>
      </p>
      <SelectionBar
        v-if="picked.size"
        :ids="pickedIds"
        :everyone="everyone"
        :in-people="inPeople"
        :more="next !== null"
        :list="list"
        :lists="lists"
        @everyone="everyone = true"
        @enroll="enrolling = true"
        @change="changing = true"
        @keep="keeping = 'picked'"
        @merge="merging = true"
        @clear="clearSelection()"
        @changed="listChanged"
      />
      <GoalCounts
        v-if="list?.touchEvery && goalCounts && view === 'people'"
        :counts="goalCounts"
        :chosen="goal"
        @choose="address({ goal: $event })"
      />
      <CompanyTable
        v-if="view === 'companies' && fields.length && !list?.problems.length"
        :asked="asked"
        @people="peopleAt"
        @counted="companies = $event"
      />
      <PeopleMap
        v-else-if="view === 'map' && fields.length && !list?.problems.length"
        :asked="asked"
        :filter="filter"
        :drawing="route.query.draw === '1'"
        @narrow="narrowTo"
        @draw="address({ draw: $event ? '1' : undefined })"
      />
      <PeopleTable
        v-else-if="people.length"
        ref="table"
        :goal-list="list?.touchEvery ? list : null"
        :list-names="listNames"
        :people="people"
        :columns="columns"
        :by-key="columnByKey"
        :sort="sort"
        :picked="picked"
        @sort="address({ sort: $event ? `${$event.field}.${$event.down ? 'down' : 'up'}` : undefined })"
        @pick="pick"
        @pick-all="pickAll"
        @more="next && !busy && read(true)"
        @widen="setColumns($event, false)"
        @planned="recount()"
      />
      <NobodyFound v-else-if="!busy && !lastError && !list?.problems.length" :narrowed="narrowed" :list="list" />
    </section>
    <MergePeople v-model="merging" :people="people.filter((person) => picked.has(person.id))" @done="done()" />
    <EnrollDialog v-model="enrolling" :prospect-ids="pickedIds" @done="done()" />
    <BulkDialog
      v-model="changing"
      :whom="whom"
      :count="everyone ? (count?.count ?? 0) : picked.size"
      @done="changed()"
    />
    <KeepList
      :model-value="keeping !== null"
      :list="keeping === 'settings' ? list : null"
      :filter="whole"
      :sentence="print(whole, byKey)"
      :count="count?.count ?? null"
      :columns="columns"
      :sort="sort"
      :fields="fields"
      :default-view="view"
      :prospect-ids="keeping === 'picked' ? pickedIds : []"
      @update:model-value="keeping = $event ? keeping : null"
      @done="saved"
    />
  </div>
</template>

<style scoped>
.page {
  display: grid;
  grid-template-columns: 214px minmax(0, 1fr);
  gap: 16px;
  height: calc(100vh - 46px);
  padding: 14px 18px 10px;
  max-width: none;
}
.main {
  display: flex;
  flex-direction: column;
  min-height: 0;
  min-width: 0;
  gap: 6px;
}
.says {
  overflow-wrap: anywhere;
}
@media (max-width: 1000px) {
  .page {
    grid-template-columns: minmax(0, 1fr);
    grid-template-rows: auto minmax(0, 1fr);
  }
  .lists {
    max-height: 22vh;
    border-right: 0;
    border-bottom: 1px solid var(--line);
  }
}
@media (max-width: 600px) {
  .page {
    height: auto;
    min-height: calc(100vh - 46px);
    padding: 10px;
  }
  .main {
    min-height: 70vh;
  }
}
</style>
