<script lang="ts">
/** Where the table was left, and on whom: for whoever comes back to it. */
let left: { path: string; id: string; reach: number } | null = null
</script>

<script setup lang="ts">
import { computed, nextTick, onMounted, ref, shallowRef, watch } from 'vue'
import { navigateTo, onBeforeRouteLeave, useRoute, useRouter } from '#imports'
import type { z } from 'zod'
import type { Field } from '#core/filter/fields'
import {
  conditionsOf,
  EVERYONE,
  isCondition,
  normalize,
  withoutEmptyGroups,
  type Condition,
  type Filter,
  type Test,
} from '#core/filter/filter'
import { forReading, parse, print, SentenceError } from '#core/filter/sentence'
import {
  addToList,
  countProspects,
  editList,
  filterFields,
  findProspects,
  listLists,
  removeFromList,
  type List,
  type GoalState,
} from '#shared/api/lists'
import type FilterSentence from '~/components/filter/FilterSentence.vue'
import type ListStrip from '~/components/lists/ListStrip.vue'
import type PeopleTable from '~/components/lists/PeopleTable.vue'
import { ApiError, call } from '~/composables/api'
import { useChoosing } from '~/composables/choosing'
import { useKeys } from '~/composables/keys'
import { useNotices } from '~/stores/notices'

type Person = z.output<typeof findProspects.response>['people'][number]
const route = useRoute()
const router = useRouter()
const notices = useNotices()
const fields = shallowRef<Field[]>([])
const byKey = computed(() => new Map(fields.value.map((field) => [field.key, field])))
/** The thread is a column, though nothing can be asked of it. */
const THREAD: Field = { key: 'thread', says: 'thread', kind: 'several', group: 'touches' }
/** Where somebody is shows as their city, region and country. */
const columnFields = computed(() => [...fields.value.filter((field) => field.kind !== 'place'), THREAD])
const columnByKey = computed(() => new Map(columnFields.value.map((field) => [field.key, field])))
const lists = shallowRef<List[]>([])
const listNames = computed(() => new Map(lists.value.map((one) => [one.id, one.name])))
const strip = ref<InstanceType<typeof ListStrip> | null>(null)
const sentence = ref<InstanceType<typeof FilterSentence> | null>(null)
const people = shallowRef<Person[]>([])
const next = ref<string | null>(null)
const count = shallowRef<z.output<typeof countProspects.response> | null>(null)
const busy = ref(true)
const trouble = ref('')
const unreadable = ref('')
const { picked, pickedIds, everyone, pick, pickAll, letGo } = useChoosing(people)
const enrolling = ref(false)
const changing = ref(false)
const merging = ref(false)
/** More people than this are hardly one. */
const MOST_MERGED = 10
const keeping = ref<'new' | 'picked' | 'settings' | null>(null)
const filter = ref<Filter>(EVERYONE)
const search = ref('')
const USUAL: List['columns'] = ['companyName', 'stage', 'lastTouch', 'nextAction', 'owner'].map((key) => ({
  key,
  width: null,
}))
const columns = ref<List['columns']>(USUAL)

const list = computed(() => lists.value.find((one) => one.id === route.query.list) ?? null)
const sort = computed(() => {
  const [, field, way] = /^(.+)\.(up|down)$/.exec((route.query.sort as string | undefined) ?? '') ?? []
  return field ? { field, down: way === 'down' } : (list.value?.sort ?? null)
})
/** Only people with whom the list's touch goal stands so. */
const goal = computed(() =>
  list.value?.touchEvery && !byCompany.value && !byMap.value ? (route.query.goal as GoalState | undefined) : undefined,
)
const narrowed = computed(
  () => conditionsOf(filter.value).length > 0 || Boolean(search.value.trim()) || goal.value !== undefined,
)
const asked = computed(() => ({
  ...(conditionsOf(filter.value).length && { filter: withoutEmptyGroups(filter.value) }),
  ...(list.value && { list: list.value.id }),
  ...(search.value.trim() && { search: search.value.trim() }),
  ...(goal.value && { goal: goal.value }),
}))

/** Addresses of before, of one condition each, and what they mean as filters. */
function fromAddress(): Filter {
  const { filter: sentence, import: file, owner, cadence, stage } = route.query as Record<string, string | undefined>
  const one = (field: string, value: string | undefined, op: 'anyOf' | 'hasAny' = 'anyOf'): Condition[] =>
    value ? [{ field, test: value === 'none' ? { op: 'unset' } : { op, values: [value] } }] : []
  const plain = [
    ...one('import', file),
    ...one('owner', owner),
    ...one('inCadence', cadence, 'hasAny'),
    ...one('stage', stage),
  ]
  return sentence ? parse(sentence, fields.value) : normalize({ all: plain })
}
function takeAddress(): void {
  unreadable.value = ''
  try {
    filter.value = fromAddress()
  } catch (error) {
    if (!(error instanceof SentenceError)) throw error
    unreadable.value = `The filter in this address cannot be read: ${error.message}`
    filter.value = EVERYONE
  }
  search.value = (route.query.search as string | undefined) ?? ''
}
/** Where the address is headed while it is still on its way there: two changes at once are both heard. */
let aimed: Record<string, string | undefined> | null = null
function address(change: Record<string, string | undefined>): void {
  // The page's own route is told late, once the page is painted anew; the router's is what holds.
  const now = aimed ?? (router.currentRoute.value.query as Record<string, string | undefined>)
  const sentence = conditionsOf(filter.value).length ? print(withoutEmptyGroups(filter.value), byKey.value) : undefined
  const merged = {
    list: now.list,
    sort: now.sort,
    by: now.by,
    draw: now.draw,
    goal: now.goal,
    filter: sentence,
    search: search.value.trim() || undefined,
    ...change,
  }
  aimed = merged
  void Promise.resolve(
    navigateTo({ query: Object.fromEntries(Object.entries(merged).filter(([, value]) => value)) }, { replace: true }),
  ).finally(() => {
    if (aimed === merged) aimed = null
  })
}

let reading: AbortController | null = null
/** What was asked for when people were last read. */
let readFor = ''
async function read(more = false): Promise<void> {
  if (!fields.value.length || list.value?.problems.length) return void (people.value = [])
  reading?.abort()
  reading = new AbortController()
  const { signal } = reading
  busy.value = true
  readFor = JSON.stringify(asked.value)
  try {
    const [page, counted] = await Promise.all([
      call(findProspects, {
        body: {
          ...asked.value,
          columns: columns.value.map((column) => column.key),
          sort: sort.value,
          limit: 200,
          ...(more && next.value && { after: next.value }),
        },
        signal,
      }),
      more ? count.value : call(countProspects, { body: asked.value, signal }),
    ])
    people.value = more ? [...people.value, ...page.people] : page.people
    next.value = page.next
    count.value = counted
    trouble.value = ''
    busy.value = false
  } catch (error) {
    if ((error as Error).name === 'AbortError') return
    trouble.value = error instanceof ApiError ? error.message : 'The people could not be read'
    busy.value = false
  }
}
async function readLists(): Promise<void> {
  const [told, known] = await Promise.all([call(listLists), call(filterFields)])
  lists.value = told.lists
  fields.value = known.fields
}
let soon: ReturnType<typeof setTimeout>
watch(
  () => JSON.stringify(asked.value),
  () => {
    clearTimeout(soon)
    soon = setTimeout(() => {
      address({})
      if (JSON.stringify(asked.value) === readFor) return
      letGo()
      void read()
    }, 150)
  },
)
const takeColumns = () => {
  columns.value = list.value?.columns.length ? list.value.columns : remembered()
}
watch(list, takeColumns)
watch(
  () => [route.query.list, route.query.sort],
  () => {
    // People are read with the columns they are shown in, whichever watcher is told first.
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
    trouble.value = error instanceof ApiError ? error.message : 'The lists could not be read'
    busy.value = false
  }
})

const KEY = 'uphill.columns'
function remembered(): List['columns'] {
  try {
    return (JSON.parse(localStorage.getItem(KEY) ?? 'null') as List['columns'] | null) ?? USUAL
  } catch {
    return USUAL
  }
}
/** Columns belong to the list where one may change it, else to this browser. */
async function setColumns(wanted: List['columns'], reads = true): Promise<void> {
  columns.value = wanted
  if (reads) void read()
  if (!list.value?.mayEdit) return localStorage.setItem(KEY, JSON.stringify(wanted))
  await keepOnList({ columns: wanted })
}
async function keepOnList(change: { columns?: List['columns']; sort?: List['sort']; filter?: Filter }): Promise<void> {
  const { id, version } = list.value!
  try {
    const after = await call(editList, { params: { id }, body: { version, ...change } })
    lists.value = lists.value.map((one) =>
      one.id === id ? { ...one, ...(change as Partial<List>), version: after.version } : one,
    )
  } catch (error) {
    notices.wrong(error)
    await readLists().catch(notices.wrong)
  }
}
function choose(id: string | null): void {
  filter.value = EVERYONE
  search.value = ''
  const told = lists.value.find((one) => one.id === id)?.toldBy
  void navigateTo({ query: id ? { list: id, ...(told && told !== 'people' && { by: told }) } : {} })
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
  await keepOnList({ filter: normalize({ all: [list.value!.filter as Filter, withoutEmptyGroups(filter.value)] }) })
  filter.value = EVERYONE
  await readLists().catch(notices.wrong)
}
async function kept(id: string | null): Promise<void> {
  await readLists().catch(notices.wrong)
  letGo()
  // The list that is open already may ask something else now.
  const same = id !== null && id === route.query.list
  choose(id)
  if (same) await read()
}
const table = ref<InstanceType<typeof PeopleTable> | null>(null)
const find = ref<{ focus(): void } | null>(null)
onBeforeRouteLeave(() => {
  const id = table.value?.cursor()
  left = id ? { path: route.fullPath, id, reach: people.value.length } : null
})
/** Whoever comes back finds the table where they left it. */
async function comeBack(): Promise<void> {
  if (left?.path !== route.fullPath) return
  const { id, reach } = left
  const at = () => people.value.findIndex((person) => person.id === id)
  while (at() < 0 && next.value && people.value.length < reach && !trouble.value) await read(true)
  await nextTick()
  if (at() >= 0) await table.value?.goTo(at())
}
useKeys([
  { key: 'j', says: 'Next row', run: () => void table.value?.step(1) },
  { key: 'k', says: 'Row before', run: () => void table.value?.step(-1) },
  { key: ' ', says: 'Choose who has the cursor, or let go', on: '.name', run: () => table.value?.pickHere() },
  {
    key: 'c',
    says: 'Change those who are chosen',
    run: () => {
      changing.value = picked.value.size > 0
    },
  },
  { key: 'f', says: 'Find among them', run: () => find.value?.focus() },
  { key: 'a', says: 'Another condition', run: () => sentence.value?.add() },
  {
    key: 'w',
    says: 'Work this list',
    run: () => {
      if (list.value && !list.value.problems.length) void navigateTo(`/?list=${list.value.id}`)
    },
  },
])
async function putOn(id: string): Promise<void> {
  try {
    const { added, already } = await call(addToList, { params: { id }, body: { prospectIds: pickedIds.value } })
    notices.say(
      `${added} put on “${lists.value.find((one) => one.id === id)?.name}”${already ? `, ${already} were on it already` : ''}.`,
    )
    void strip.value?.recount(id)
    letGo()
  } catch (error) {
    notices.wrong(error)
  }
}
async function takeOff(): Promise<void> {
  try {
    const { removed } = await call(removeFromList, {
      params: { id: list.value!.id },
      body: { prospectIds: pickedIds.value },
    })
    notices.say(`${removed} taken off “${list.value!.name}”.`)
    void strip.value?.recount(list.value!.id)
    letGo()
    await read()
  } catch (error) {
    notices.wrong(error)
  }
}
/** Everything that is asked for now: on the list that is shown, and within it. */
const whole = computed(() =>
  normalize({
    all: [
      ...(list.value ? [{ field: 'lists', test: { op: 'hasAny' as const, values: [list.value.id] } }] : []),
      withoutEmptyGroups(filter.value),
    ],
  }),
)
/** The address of all that is shown as a file, with the columns as they are. */
function clearFilters(): void {
  filter.value = EVERYONE
  search.value = ''
  address({ goal: undefined })
}
function exported(format: 'csv' | 'json' | 'vcard'): string {
  const order = sort.value && `${sort.value.field}.${sort.value.down ? 'down' : 'up'}`
  const query = {
    format,
    columns: columns.value.map((column) => column.key).join(','),
    ...(conditionsOf(filter.value).length && { filter: print(withoutEmptyGroups(filter.value), byKey.value) }),
    ...(goal.value && { goal: goal.value }),
    ...(list.value && { list: list.value.id }),
    ...(search.value.trim() && { search: search.value.trim() }),
    ...(order && { sort: order }),
  }
  return `/api/prospects/export?${new URLSearchParams(query as Record<string, string>)}`
}
const whom = computed(() => (everyone.value ? asked.value : { prospectIds: pickedIds.value }))
const promised = computed(() => (list.value ? (strip.value?.counts.get(list.value.id)?.promise ?? null) : null))
const fixed = computed(() =>
  lists.value.filter((one) => one.kind === 'fixed' && one.mayEdit && one.id !== list.value?.id),
)
/** Told by company instead of person by person. */
const byCompany = computed(() => route.query.by === 'companies')
const companies = ref(0)
/** Told by place instead, on a map. */
const byMap = computed(() => route.query.by === 'map')
/** Narrows to a place; one asked for in the same way before gives way to it. */
function narrowTo(test: Test, leaves: boolean): void {
  const kept = normalize(withoutEmptyGroups(filter.value)).all.filter(
    (part) => !(isCondition(part) && part.field === 'place' && part.test.op === test.op),
  )
  filter.value = normalize({ all: [...kept, { field: 'place', test }] })
  address(leaves ? { by: undefined, draw: undefined } : {})
}
/** The people who fit at one company, one step away. */
function peopleAt(company: string): void {
  filter.value = normalize({
    all: [withoutEmptyGroups(filter.value), { field: 'companyName', test: { op: 'is', text: company } }],
  })
  address({ by: undefined })
}
const headline = computed(() =>
  byCompany.value
    ? `${companies.value.toLocaleString('en-US')} ${companies.value === 1 ? 'company' : 'companies'}`
    : inPeople.value,
)
const inPeople = computed(() =>
  count.value
    ? `${count.value.exact ? '' : 'about '}${count.value.count.toLocaleString('en-US')} ${count.value.count === 1 ? 'person' : 'people'}`
    : '…',
)
</script>

<template>
  <div class="page">
    <ListStrip
      ref="strip"
      :lists="lists"
      :chosen="list?.id ?? null"
      class="lists"
      @choose="choose"
      @moved="readLists().catch(notices.wrong)"
    />
    <section class="main">
      <div class="spread">
        <div class="row title">
          <h1 class="cut">{{ list?.name ?? 'Prospects' }}</h1>
          <span class="num dim" role="status">{{ list?.problems.length ? '' : headline }}</span>
          <span v-if="!list?.problems.length" class="row by small"
            ><button
              :class="byCompany || byMap ? 'link' : 'plain on'"
              :aria-pressed="!byCompany && !byMap"
              @click="address({ by: undefined, draw: undefined })"
            >
              People</button
            ><button
              :class="byCompany ? 'plain on' : 'link'"
              :aria-pressed="byCompany"
              @click="address({ by: 'companies', draw: undefined })"
            >
              Companies</button
            ><button :class="byMap ? 'plain on' : 'link'" :aria-pressed="byMap" @click="address({ by: 'map' })">
              Map
            </button></span
          >
        </div>
        <div class="row acts">
          <v-text-field
            ref="find"
            v-model="search"
            placeholder="Search this list"
            aria-label="Search"
            clearable
            class="search"
            @keydown.enter="table?.goTo(0)"
            @keydown.down.prevent="table?.goTo(0)"
          />
          <v-btn v-if="list && !list.problems.length" color="primary" size="small" :to="`/?list=${list.id}`"
            >Work this list</v-btn
          >
          <button v-if="list?.mayEdit" class="link small" @click="keeping = 'settings'">List settings</button>
          <ColumnPicker
            v-if="!byCompany && !byMap"
            :model-value="columns"
            :fields="columnFields"
            @update:model-value="setColumns($event)"
          />
          <v-menu
            ><template #activator="{ props: act }"
              ><button v-bind="act" class="link small" aria-label="Export">Export</button></template
            ><v-list
              ><v-list-item title="CSV, for a spreadsheet" :href="exported('csv')" download /><v-list-item
                title="vCard, for an address book"
                :href="exported('vcard')"
                download /><v-list-item title="JSON, for a program" :href="exported('json')" download /></v-list
          ></v-menu>
          <template v-if="!list"
            ><NuxtLink to="/duplicates" class="link small">Duplicates</NuxtLink
            ><NuxtLink to="/changes" class="link small">Bulk actions</NuxtLink></template
          >
          <v-btn v-if="!list" variant="outlined" size="small" to="/imports">Import</v-btn>
        </div>
      </div>
      <ListAdditions
        v-if="list?.kind === 'fixed'"
        :list-id="list.id"
        :may-edit="list.mayEdit"
        @changed="
          read()
          strip?.recount(list.id)
        "
      />
      <p v-else-if="list" class="says dim">
        {{ forReading(list.sentence) }}<button class="link small ml-2" @click="openUp">Edit a copy</button
        ><button v-if="list.mayEdit && conditionsOf(filter).length" class="link small ml-2" @click="narrowList">
          Narrow the list to this
        </button>
      </p>
      <p v-if="list?.problems.length" class="notice clay" role="alert">
        This list cannot be read as it is. {{ list.problems.join('. ') }}.
      </p>
      <p v-if="unreadable" class="notice clay" role="alert">{{ unreadable }}</p>
      <div class="filter">
        <span class="dim lead"
          >{{ list ? 'of these, ' : '' }}{{ conditionsOf(filter).length ? 'where' : list ? 'all' : 'Everyone' }}</span
        ><FilterSentence v-if="fields.length" ref="sentence" v-model="filter" :fields="fields" class="grow" />
        <span v-if="narrowed" class="row tail"
          ><button class="link small" @click="clearFilters">Clear filters</button
          ><v-btn size="small" variant="outlined" @click="keeping = 'new'">Save as list</v-btn></span
        >
      </div>
      <p v-if="count?.removed && !list?.problems.length" class="small dim">
        {{ count.exact ? '' : 'About ' }}{{ count.removed.toLocaleString('en-US') }} archived
        {{ count.removed === 1 ? 'person is' : 'people are' }} not shown.
        <button
          class="link small"
          @click="
            filter = normalize({ all: [filter, { field: 'working', test: { op: 'anyOf', values: ['removed'] } }] })
          "
        >
          Show only them
        </button>
      </p>
      <p v-if="trouble" class="notice clay" role="alert">
        {{ trouble }} <button class="link" @click="read()">Try again</button>
      </p>
      <div v-if="picked.size" class="bulk row">
        <b class="num">{{ everyone ? `All ${inPeople} selected` : `${picked.size} selected` }}</b>
        <button v-if="!everyone && next" class="link small" @click="everyone = true">
          Select all {{ inPeople }} matching
        </button>
        <v-btn v-if="!everyone" color="primary" size="small" @click="enrolling = true">Enroll in a cadence</v-btn>
        <v-btn size="small" variant="outlined" @click="changing = true">Change …</v-btn>
        <v-menu v-if="fixed.length && !everyone"
          ><template #activator="{ props: act }"
            ><v-btn v-bind="act" size="small" variant="outlined">Add to a list</v-btn></template
          ><v-list><v-list-item v-for="one in fixed" :key="one.id" :title="one.name" @click="putOn(one.id)" /></v-list
        ></v-menu>
        <v-btn v-if="!everyone" size="small" variant="outlined" @click="keeping = 'picked'"
          >New list from selection</v-btn
        >
        <v-btn
          v-if="list?.kind === 'fixed' && list.mayEdit && !everyone"
          size="small"
          variant="outlined"
          @click="takeOff"
          >Remove from list</v-btn
        >
        <v-btn
          v-if="!everyone && picked.size > 1 && picked.size <= MOST_MERGED"
          size="small"
          variant="outlined"
          @click="merging = true"
          >Merge</v-btn
        >
        <v-btn variant="text" size="small" @click="letGo()">Clear selection</v-btn>
      </div>
      <GoalCounts
        v-if="list?.touchEvery && promised && !byCompany && !byMap"
        :counts="promised"
        :chosen="goal"
        @choose="address({ goal: $event })"
      />
      <CompanyTable
        v-if="byCompany && fields.length && !list?.problems.length"
        :asked="asked"
        @people="peopleAt"
        @counted="companies = $event"
      />
      <PeopleMap
        v-else-if="byMap && fields.length && !list?.problems.length"
        :asked="asked"
        :filter="filter"
        :drawing="route.query.draw === '1'"
        @narrow="narrowTo"
        @draw="address({ draw: $event ? '1' : undefined })"
      />
      <PeopleTable
        v-else-if="people.length"
        ref="table"
        :promising="list?.touchEvery ? list : null"
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
        @planned="
          read()
          list && strip?.recount(list.id)
        "
      />
      <div v-else-if="!busy && !trouble && !list?.problems.length" class="empty">
        <h2>
          {{
            narrowed
              ? 'Nobody matches these filters.'
              : list
                ? 'Nobody is on this list now.'
                : 'There is nobody here yet.'
          }}
        </h2>
        <p class="dim mb-3">
          {{
            narrowed
              ? 'Clear them to see everyone again.'
              : list
                ? list.kind === 'live'
                  ? 'People who match are added on their own.'
                  : 'Select people in another list and add them here.'
                : 'Import a file, or add a person with a name and a number.'
          }}
        </p>
        <v-btn v-if="!narrowed && !list" color="primary" to="/imports">Import</v-btn>
      </div>
    </section>
    <MergePeople
      v-model="merging"
      :people="people.filter((person) => picked.has(person.id))"
      @done="
        letGo()
        read()
      "
    />
    <EnrollDialog
      v-model="enrolling"
      :prospect-ids="pickedIds"
      @done="
        letGo()
        read()
      "
    />
    <BulkDialog
      v-model="changing"
      :whom="whom"
      :count="everyone ? (count?.count ?? 0) : picked.size"
      :lists="lists"
      @done="
        read()
        strip?.recountAll()
      "
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
      :told-by="byCompany ? 'companies' : byMap ? 'map' : 'people'"
      :prospect-ids="keeping === 'picked' ? pickedIds : []"
      @update:model-value="keeping = $event ? keeping : null"
      @done="kept"
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
.title {
  min-width: 0;
  align-items: baseline;
}
.title > .num {
  flex: none;
}
.by {
  flex: none;
}
.by .on {
  font-weight: 600;
}
.by button {
  min-height: 24px;
}
.acts {
  flex: none;
}
.search {
  width: 190px;
}
.says {
  overflow-wrap: anywhere;
}
.filter {
  display: flex;
  align-items: baseline;
  gap: 8px;
}
.lead {
  flex: none;
}
.tail {
  flex: none;
}
.past {
  color: var(--clay-deep);
} /* At the foot, so that choosing moves no row away from under the pointer. */
.bulk {
  order: 1;
  padding: 6px 10px;
  background: var(--card);
  border: 1px solid var(--line);
  border-radius: 8px;
}
.empty {
  margin: 10vh auto;
  text-align: center;
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
  .spread {
    flex-wrap: wrap;
  }
  .filter {
    flex-wrap: wrap;
  }
  .filter > .grow {
    flex: 1 1 420px;
  }
}
@media (max-width: 600px) {
  .title {
    flex-wrap: wrap;
  }
  .page {
    height: auto;
    min-height: calc(100vh - 46px);
    padding: 10px;
  }
  .main {
    min-height: 70vh;
  }
  .search {
    width: 100%;
  }
  .acts {
    flex: 1 1 100%;
    min-width: 0;
    flex-wrap: wrap;
  }
  .filter {
    display: grid;
  }
}
</style>
