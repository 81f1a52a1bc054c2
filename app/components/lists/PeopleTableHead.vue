<script setup lang="ts">
import type { Field } from '#core/filter/fields'
import { inWords } from '#core/queue/touchGoal'
import type { List } from '#shared/api/lists'
import type { DrawnColumn } from './peopleColumns'

/** The heading of the table of people: sorts by a column, and makes it wider by its edge. */
const props = defineProps<{
  goalList: List | null
  drawn: readonly DrawnColumn[]
  byKey: ReadonlyMap<string, Field>
  sort: { field: string; down: boolean } | null
  allPicked: boolean
  template: string
}>()
const emit = defineEmits<{
  sort: [sort: { field: string; down: boolean } | null]
  pickAll: []
  /** The width of a column while its edge is dragged, then as it stays. */
  width: [key: string, width: number, final: boolean]
}>()

function sortBy(field: Field): void {
  if (field.kind === 'several') return
  const now = props.sort?.field === field.key ? props.sort : null
  const firstDown = field.kind === 'moment' || field.kind === 'number'
  const turned = now?.down === firstDown ? { field: field.key, down: !firstDown } : null
  emit('sort', now ? turned : { field: field.key, down: firstDown })
}

/** What counts for a touch goal, in words: "Call or text"; "Touch" for everything. */
function counted(kinds: readonly string[]): string {
  if (kinds.length > 3) return 'Touch'
  const said = kinds.join(kinds.length > 2 ? ', ' : ' or ')
  return said.charAt(0).toUpperCase() + said.slice(1)
}

const within = (width: number) => Math.round(Math.min(600, Math.max(60, width)))
function widen(event: PointerEvent, field: Field, width: number): void {
  const start = event.clientX
  const handle = event.target as HTMLElement
  let dragged: number | null = null
  handle.setPointerCapture(event.pointerId)
  handle.onpointermove = (move) => {
    dragged = within(width + move.clientX - start)
    emit('width', field.key, dragged, false)
  }
  handle.onpointerup = () => {
    handle.onpointermove = handle.onpointerup = null
    if (dragged !== null) emit('width', field.key, dragged, true)
  }
}
const set = (field: Field, width: number) => emit('width', field.key, within(width), true)
</script>

<template>
  <div class="line head" role="row" :style="{ gridTemplateColumns: template }">
    <span role="columnheader"
      ><input type="checkbox" :checked="allPicked" aria-label="Select all shown" @change="emit('pickAll')"
    /></span>
    <span role="columnheader" :aria-sort="sort?.field === 'name' ? (sort.down ? 'descending' : 'ascending') : undefined"
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
</template>

<style scoped src="./peopleTable.css"></style>
<style scoped>
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
@media (max-width: 820px) {
  .head > .wide {
    display: none;
  }
}
</style>
