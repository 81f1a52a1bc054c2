<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue'
import type { Field } from '#core/filter/fields'
import type { List } from '#shared/api/lists'
import { useTimes } from '~/composables/times'
import { useSession } from '~/stores/session'
import { drawnColumns, type TablePerson } from './peopleColumns'

/** People in rows that scroll without pages, with columns of any field. */
type Person = TablePerson
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
const dragged = ref<{ key: string; width: number } | null>(null)
const drawn = computed(() =>
  drawnColumns(props.columns as Column[], props.byKey).map((one) =>
    one.field.key === dragged.value?.key ? { ...one, width: dragged.value.width } : one,
  ),
)
/** The same rows while they are the same: others would all be measured again. */
const rows = computed(() => props.people as Person[])
const template = computed(
  () =>
    `22px minmax(190px, 1.4fr) ${props.goalList ? '150px ' : ''}${drawn.value.map(({ width }) => `${width}px`).join(' ')}`,
)
const allPicked = computed(() => props.people.length > 0 && props.people.every((person) => props.picked.has(person.id)))

function setWidth(key: string, width: number, final: boolean): void {
  dragged.value = final ? null : { key, width }
  if (final) {
    emit(
      'widen',
      props.columns.map((column) => (column.key === key ? { ...column, width } : column)),
    )
  }
}
const scroller = ref<{ $el: HTMLElement; scrollToIndex(index: number): void } | null>(null)
/** Who has the cursor; nobody's row is marked but by the focus on their name. */
let current: string | null = null
function noteRow(event: FocusEvent): void {
  current = (event.target as HTMLElement).closest<HTMLElement>('[data-id]')?.dataset.id ?? current
}
/** Puts the cursor on the row; a row out of sight is scrolled to. */
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
</script>

<template>
  <div class="frame">
    <div class="sheet" role="table" aria-label="People" :aria-rowcount="people.length">
      <PeopleTableHead
        :goal-list="goalList"
        :drawn="drawn"
        :by-key="byKey"
        :sort="sort"
        :all-picked="allPicked"
        :template="template"
        @sort="emit('sort', $event)"
        @pick-all="emit('pickAll')"
        @width="setWidth"
      />
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
          <PersonRow
            :data-id="item.id"
            :item="item"
            :goal-list="goalList"
            :list-names="listNames"
            :drawn="drawn"
            :times="times"
            :now="session.now"
            :picked="picked.has(item.id)"
            :template="template"
            @pick="emit('pick', item.id, $event)"
            @planned="emit('planned')"
          />
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
</style>
