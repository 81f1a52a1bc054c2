<script setup lang="ts">
import { COMPANY_STATUSES } from '#core/enumerations'
import { computed, nextTick, ref, watch } from 'vue'
import type { z } from 'zod'
import type { Field } from '#core/filter/fields'
import { daysOf, inWords } from '#core/queue/touchGoal'
import type { findProspects, List } from '#shared/api/lists'
import { useTimes } from '~/composables/times'
import { useSession } from '~/stores/session'

/**
 * People in rows that scroll without pages, with columns of any field. Links are the router's own: the framework's look
 * ahead to where each leads, which a row that scrolls by has no time for.
 */
type Person = z.output<typeof findProspects.response>['people'][number]
type Column = List['columns'][number]
const props = defineProps<{
  /** The list that is shown, where it has a touch goal. */ goalList: List | null
  listNames: ReadonlyMap<string, string>
  people: readonly Person[]
  columns: readonly Column[]
  byKey: ReadonlyMap<string, Field>
  sort: { field: string; down: boolean } | null
  picked: ReadonlySet<string>
}>()
const emit = defineEmits<{
  sort: [sort: { field: string; down: boolean } | null]
  pick: [
    id: string,
    /** Up to whom from the one picked before: all between are picked as this one is. */ reach: boolean,
  ]
  pickAll: []
  more: []
  widen: [columns: Column[]]
  planned: []
}>()
const times = useTimes()
const session = useSession()

const WIDTHS: Record<Field['kind'], number> = {
  text: 170,
  choice: 140,
  several: 180,
  number: 96,
  moment: 104,
  yesNo: 84,
  place: 170,
}
const drawn = computed(() =>
  props.columns.flatMap((column) => {
    const field = props.byKey.get(column.key)
    return field ? [{ field, width: column.width ?? (field.key === 'thread' ? 230 : WIDTHS[field.kind]) }] : []
  }),
)
/** The same rows while they are the same: others would all be measured again. */
const rows = computed(() => props.people as Person[])
const dragged = ref<{ key: string; width: number } | null>(null)
const template = computed(
  () =>
    `22px minmax(190px, 1.4fr) ${props.goalList ? '150px ' : ''}${drawn.value.map(({ field, width }) => `${dragged.value?.key === field.key ? dragged.value.width : width}px`).join(' ')}`,
)
const allPicked = computed(() => props.people.length > 0 && props.people.every((person) => props.picked.has(person.id)))

function sortBy(field: Field): void {
  if (field.kind === 'several') return
  const now = props.sort?.field === field.key ? props.sort : null
  const firstDown = field.kind === 'moment' || field.kind === 'number'
  const turned = now?.down === firstDown ? { field: field.key, down: !firstDown } : null
  emit('sort', now ? turned : { field: field.key, down: firstDown })
}
function label(field: Field, value: unknown): string {
  if (value === null || value === undefined || value === '') {
    return field.kind === 'moment' && field.group === 'touches' && field.key !== 'nextAction' ? 'never' : ''
  }
  const named = (id: unknown) => field.choices?.find((choice) => choice.id === id)?.name ?? String(id)
  switch (field.kind) {
    case 'choice':
      return named(value)
    case 'several':
      return (value as unknown[]).map(named).join(', ')
    case 'number':
      return (value as number).toLocaleString('en-US')
    case 'moment':
      return field.group === 'touches' ? times.ago(value as number) : times.day(value as number)
    case 'yesNo':
      return value ? 'yes' : 'no'
    default:
      return String(value)
  }
}
/** How far a touch goal is from falling due, in words. */
function keeps(touchGoal: NonNullable<Person['touchGoal']>): string {
  const days = Math.floor(Math.abs(touchGoal.dueAt - session.now) / 86_400_000)
  const said = days === 0 ? 'today' : `${days} ${days === 1 ? 'day' : 'days'}`
  if (touchGoal.status === 'overdue') return days === 0 ? 'overdue since today' : `${said} overdue`
  return days === 0 ? 'due today' : `due in ${said}`
}
function overdue(field: Field, value: unknown): boolean {
  return field.key === 'nextAction' && typeof value === 'number' && value < session.now
}
function widen(event: PointerEvent, field: Field, width: number): void {
  const start = event.clientX
  const handle = event.target as HTMLElement
  handle.setPointerCapture(event.pointerId)
  handle.onpointermove = (move) => {
    dragged.value = { key: field.key, width: Math.round(Math.min(600, Math.max(60, width + move.clientX - start))) }
  }
  handle.onpointerup = () => {
    handle.onpointermove = handle.onpointerup = null
    if (dragged.value) set(field, dragged.value.width)
    dragged.value = null
  }
}
function set(field: Field, width: number): void {
  emit(
    'widen',
    props.columns.map((column) =>
      column.key === field.key ? { ...column, width: Math.min(600, Math.max(60, width)) } : column,
    ),
  )
}
const scroller = ref<{ $el: HTMLElement; scrollToIndex(index: number): void } | null>(null)
/** Who has the cursor; nobody's row is marked but by the focus on their name. */
let current: string | null = null
function noteRow(event: FocusEvent): void {
  current = (event.target as HTMLElement).closest<HTMLElement>('[data-id]')?.dataset.id ?? current
}
/** Puts the cursor on the row; what is out of sight is brought in. */
async function goTo(index: number): Promise<void> {
  const person = props.people[Math.min(props.people.length - 1, Math.max(0, index))]
  if (!person) return
  const name = () => scroller.value?.$el.querySelector<HTMLElement>(`[data-id="${person.id}"] .name`)
  if (!name()) scroller.value?.scrollToIndex(props.people.indexOf(person))
  for (let frame = 0; frame < 30 && !name(); frame++) await new Promise(requestAnimationFrame)
  name()?.focus()
}
const here = () => props.people.findIndex((person) => person.id === current)
const step = (by: number) => goTo(here() + by)
function arrow(event: KeyboardEvent, by: number): void {
  if (!(event.target as HTMLElement).matches('.name, input')) return
  event.preventDefault()
  void step(by)
}
/** Selects the row with the cursor, or clears it. */
function pickHere(): void {
  if (here() >= 0) emit('pick', current!, false)
}
defineExpose({ step, goTo, pickHere, cursor: () => (here() < 0 ? null : current) })
/** Asks for more some screens before the end. */
function look(): void {
  const box = scroller.value?.$el
  if (box && box.scrollTop + 3 * box.clientHeight > box.scrollHeight) emit('more')
}
watch(
  () => props.people,
  (now, before) => {
    if (now[0]?.id !== before[0]?.id) scroller.value?.$el.scrollTo(0, 0)
    void nextTick(look)
  },
)
/** What counts for a touch goal, in words: "Call or text"; "Touch" for everything. */
function counted(kinds: readonly string[]): string {
  if (kinds.length > 3) return 'Touch'
  const said = kinds.join(kinds.length > 2 ? ', ' : ' or ')
  return said.charAt(0).toUpperCase() + said.slice(1)
}
const STAGE_TONES = { open: 'slate', paused: '', won: 'pine', closed: '' }
</script>

<template>
  <div class="frame">
    <div class="sheet" role="table" aria-label="People" :aria-rowcount="people.length">
      <div class="line head" role="row" :style="{ gridTemplateColumns: template }">
        <span role="columnheader"
          ><input type="checkbox" :checked="allPicked" aria-label="Select all shown" @change="emit('pickAll')"
        /></span>
        <span
          role="columnheader"
          :aria-sort="sort?.field === 'name' ? (sort.down ? 'descending' : 'ascending') : undefined"
          ><button class="plain sorter" @click="sortBy(byKey.get('name')!)">
            Name{{ sort?.field === 'name' ? (sort.down ? ' ↓' : ' ↑') : '' }}
          </button></span
        >
        <span v-if="goalList" role="columnheader" class="wide"
          >{{ counted(goalList.touchKinds) }} {{ inWords(goalList.touchEvery!) }}</span
        >
        <span
          v-for="{ field, width } in drawn"
          :key="field.key"
          role="columnheader"
          class="wide"
          :class="{ right: field.kind === 'number' }"
          :aria-sort="sort?.field === field.key ? (sort.down ? 'descending' : 'ascending') : undefined"
        >
          <button class="plain sorter cut" :disabled="field.kind === 'several'" @click="sortBy(field)">
            {{ field.label }}{{ sort?.field === field.key ? (sort.down ? ' ↓' : ' ↑') : '' }}
          </button>
          <span
            class="edge"
            role="separator"
            aria-orientation="vertical"
            :aria-valuenow="width"
            aria-valuemin="60"
            aria-valuemax="600"
            tabindex="0"
            :aria-label="`Width of ${field.label}`"
            @pointerdown.prevent="widen($event, field, width)"
            @keydown.left.prevent="set(field, width - 20)"
            @keydown.right.prevent="set(field, width + 20)"
          />
        </span>
      </div>
      <v-virtual-scroll
        ref="scroller"
        :items="rows"
        :item-height="46"
        class="table"
        role="rowgroup"
        @scroll.passive="look"
        @focusin="noteRow"
        @keydown.down.exact="arrow($event, 1)"
        @keydown.up.exact="arrow($event, -1)"
      >
        <template #default="{ item }">
          <div
            class="line"
            role="row"
            :data-id="item.id"
            :class="{ picked: picked.has(item.id) }"
            :style="{ gridTemplateColumns: template }"
          >
            <span role="cell"
              ><input
                type="checkbox"
                :checked="picked.has(item.id)"
                :aria-label="`Select ${item.name}`"
                @click="emit('pick', item.id, $event.shiftKey)"
            /></span>
            <span role="cell" class="two"
              ><span class="cut"
                ><RouterLink :to="`/prospects/${item.id}`" class="name">{{ item.name }}</RouterLink
                ><span v-if="item.rating" class="rate" :class="item.rating">{{ item.rating }}</span></span
              ><small class="dim cut">{{
                [
                  item.title ?? item.email ?? item.phoneShown,
                  columns.some((column) => column.key === 'companyName') ? null : item.company?.name,
                ]
                  .filter(Boolean)
                  .join(' · ')
              }}</small></span
            >
            <span v-if="goalList" role="cell" class="two wide"
              ><template v-if="item.touchGoal"
                ><span class="num" :class="item.touchGoal.status">{{ keeps(item.touchGoal) }}</span
                ><small class="dim cut"
                  ><NextTouch
                    v-if="!item.nextAt || item.nextAt > item.touchGoal.dueAt"
                    :person="item"
                    :again="() => emit('planned')"
                  />
                  {{
                    item.touchGoal.listId === goalList.id
                      ? !item.nextAt
                        ? 'nothing scheduled'
                        : item.nextAt < session.now
                          ? 'overdue'
                          : `next ${times.ago(item.nextAt)}`
                      : `stricter: ${listNames.get(item.touchGoal.listId) ?? 'another list'}`
                  }}</small
                ></template
              ></span
            >
            <span
              v-for="{ field, width } in drawn"
              :key="field.key"
              role="cell"
              class="cut wide"
              :class="{
                num: ['number', 'moment'].includes(field.kind),
                right: field.kind === 'number',
                dim: field.kind === 'moment' && field.key !== 'nextAction',
                clay: overdue(field, item.values[field.key]),
              }"
              :title="field.key === 'thread' ? undefined : label(field, item.values[field.key])"
            >
              <RouterLink
                v-if="field.key === 'companyName' && item.company"
                :to="`/companies/${item.company.id}`"
                class="plainlink"
                >{{ item.company.name
                }}<span v-if="item.company.status !== 'open'" class="dim">
                  · {{ COMPANY_STATUSES[item.company.status] }}</span
                ></RouterLink
              >
              <span v-else-if="field.key === 'stage'" class="chip" :class="STAGE_TONES[item.stage.kind]">{{
                item.stage.name
              }}</span>
              <span v-else-if="field.key === 'owner'" class="dim">{{ item.owner?.name ?? 'nobody' }}</span>
              <ThreadMini
                v-else-if="field.key === 'thread'"
                :knots="(item.values.thread ?? []) as [number, string][]"
                :now="session.now"
                :next="item.nextAt"
                :since="item.createdAt"
                :goal-days="daysOf(item.touchGoal?.every ?? goalList?.touchEvery ?? { amount: 30, unit: 'days' })"
                :width="width"
              />
              <template v-else-if="field.key === 'tags'"
                ><span v-for="tag in item.values.tags as string[]" :key="tag" class="chip tag">{{
                  field.choices?.find((choice) => choice.id === tag)?.name
                }}</span></template
              >
              <template v-else>{{ label(field, item.values[field.key]) }}</template>
            </span>
          </div>
        </template>
      </v-virtual-scroll>
    </div>
  </div>
</template>

<style scoped>
.frame {
  flex: 1;
  min-height: 0;
  min-width: 0;
  display: flex;
  overflow-x: auto;
  border-top: 1px solid var(--line);
}
.sheet {
  flex: 1;
  min-width: fit-content;
  display: flex;
  flex-direction: column;
  min-height: 0;
}
.table {
  flex: 1;
  min-height: 0;
  scrollbar-gutter: stable;
}
.line {
  display: grid;
  gap: 12px;
  align-items: center;
  min-height: 46px;
  padding: 2px 8px;
  border-bottom: 1px solid var(--line);
}
.line:hover {
  background: var(--card);
}
.line.picked {
  background: var(--pine-soft);
}
.head {
  min-height: 30px;
  font-size: 12.5px;
  font-weight: 600;
  color: var(--dim);
  flex: none;
  overflow: hidden;
  scrollbar-gutter: stable;
}
.head > span {
  position: relative;
  min-width: 0;
  display: flex;
}
.sorter {
  max-width: 100%;
}
.sorter:hover:not(:disabled) {
  color: var(--pine);
}
.sorter::first-letter {
  text-transform: capitalize;
}
.edge {
  position: absolute;
  right: -9px;
  top: -4px;
  bottom: -4px;
  width: 8px;
  cursor: col-resize;
  border-right: 1px solid transparent;
}
.edge:hover,
.edge:focus-visible {
  border-right-color: var(--pine);
}
.two {
  display: grid;
  min-width: 0;
  line-height: 1.3;
}
.name {
  font-weight: 550;
  text-decoration: none;
}
.plainlink {
  text-decoration: none;
}
.name:hover,
.plainlink:hover {
  text-decoration: underline;
}
.clay {
  color: var(--clay-deep);
}
.right {
  text-align: right;
  justify-content: flex-end;
}
.overdue {
  color: var(--clay-deep);
  font-weight: 600;
}
.soon {
  color: var(--amber-deep);
}
.rate {
  margin-left: 7px;
  font-size: 12.5px;
  color: var(--dim);
}
.rate.hot {
  color: var(--amber-deep);
  font-weight: 600;
}
.tag {
  margin-right: 4px;
}
@media (max-width: 820px) {
  .line {
    grid-template-columns: 22px minmax(0, 1fr) !important;
  }
  .wide {
    display: none;
  }
  .head > .wide {
    display: none;
  }
}
</style>
