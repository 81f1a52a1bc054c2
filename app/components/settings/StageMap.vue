<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import type { StageKind } from '#core/enumerations'
import { gateInWords, KIND_MEANINGS, type StageSetting } from './stageDraft'

/**
 * The whole process as one picture: open stages climb to the won ones, paused and closed ones lie below; each says what
 * its gate requires, and lines show where moves into it are limited to. Stages are placed by mouse or keyboard.
 */
const props = defineProps<{
  stages: readonly StageSetting[]
  fieldName: (key: string) => string
  editable: boolean
}>()
const emit = defineEmits<{
  edit: [stage: StageSetting]
  add: [kind: StageKind, after: string | null]
  move: [id: string, kind: StageKind, after: string | null]
}>()

const PITCH = 168
const CARD = 142
const HEIGHT = 96
const RISE = 24
const ROWS = ['climb', 'paused', 'closed'] as const
type Row = (typeof ROWS)[number]
const rowOf = (kind: StageKind): Row => (kind === 'paused' || kind === 'closed' ? kind : 'climb')

const climbing = computed(() => props.stages.filter((stage) => rowOf(stage.kind) === 'climb').length)
const hill = computed(() => HEIGHT + Math.max(0, climbing.value - 1) * RISE + 34)
const tops = computed<Record<Row, number>>(() => ({
  climb: 14,
  paused: hill.value + 52,
  closed: hill.value + 52 + HEIGHT + 34,
}))
interface Spot {
  stage: StageSetting
  row: Row
  x: number
  y: number
}
const spots = computed<Spot[]>(() =>
  ROWS.flatMap((row) =>
    props.stages
      .filter((stage) => rowOf(stage.kind) === row)
      .map((stage, index) => ({
        stage,
        row,
        x: 26 + index * PITCH,
        y: row === 'climb' ? tops.value.climb + (climbing.value - 1 - index) * RISE : tops.value[row],
      })),
  ),
)
const ofRow = (row: Row) => spots.value.filter((spot) => spot.row === row)
const width = computed(() => 40 + Math.max(...ROWS.map((row) => ofRow(row).length), 4) * PITCH)
const height = computed(() => tops.value.closed + HEIGHT + 10)

/** Where a stage can be put: before the first of a row, and behind each. */
const gaps = computed(() =>
  ROWS.flatMap((row) => {
    const here = ofRow(row)
    const kind: StageKind = row === 'climb' ? 'open' : row
    // A stage that begins a row follows all that stand in the order before it.
    const lead = row === 'climb' ? null : (props.stages.at(-1)?.id ?? null)
    const first = here[0]
    const before = first ? (props.stages[props.stages.indexOf(first.stage) - 1]?.id ?? null) : lead
    return [
      {
        key: `${row}-first`,
        kind,
        after: before,
        label: first ? `before ${first.stage.name}` : `the first ${kind} one`,
        x: 1,
        y: (first?.y ?? tops.value[row]) + HEIGHT / 2 - 12,
      },
      ...here.map(({ stage, x, y }) => ({
        key: stage.id,
        kind,
        after: stage.id,
        label: `after ${stage.name}`,
        x: x + CARD + 1,
        y: y + HEIGHT / 2 - 12,
      })),
    ]
  }),
)
/** The ground under the climb: a terrace for each stage, and down again behind the last. */
const ground = computed(() => {
  const path = ofRow('climb').flatMap(({ x, y }) => [
    `L${x - 13} ${y + HEIGHT + 6}`,
    `L${x + CARD + 9} ${y + HEIGHT + 6}`,
  ])
  const last = ofRow('climb').at(-1)
  const foot = tops.value.climb + hill.value
  return path.length ? `M0 ${foot} ${path.join(' ')} L${last!.x + CARD + 40} ${foot}Z` : ''
})
const flag = computed(() => ofRow('climb').find(({ stage }) => stage.kind === 'won'))

/** The moves into stages that can be reached from some alone. */
const moves = computed(() =>
  spots.value.flatMap((to) =>
    (to.stage.gate.from ?? []).flatMap((id) => {
      const from = spots.value.find((spot) => spot.stage.id === id)
      return from && from !== to ? [{ key: `${id}-${to.stage.id}`, path: pathOf(from, to) }] : []
    }),
  ),
)
function pathOf(from: Spot, to: Spot): string {
  if (from.row === to.row) {
    const [x1, x2, y] = [from.x + CARD / 2, to.x + CARD / 2, Math.min(from.y, to.y) - 12]
    return `M${x1} ${from.y} C${x1} ${y} ${x2} ${y} ${x2} ${to.y - 3}`
  }
  const down = ROWS.indexOf(to.row) > ROWS.indexOf(from.row)
  const [y1, y2] = down ? [from.y + HEIGHT, to.y - 3] : [from.y, to.y + HEIGHT + 3]
  const [x1, x2, middle] = [from.x + CARD / 2, to.x + CARD / 2, (y1 + y2) / 2]
  return `M${x1} ${y1} C${x1} ${middle} ${x2} ${middle} ${x2} ${y2}`
}

const prospects = (count: number) => `${count.toLocaleString('en-US')} ${count === 1 ? 'prospect' : 'prospects'}`
const nameOf = (id: string) => props.stages.find((stage) => stage.id === id)?.name ?? ''
const requires = ({ gate }: StageSetting) => gateInWords(gate, props.fieldName)
const fromInWords = ({ gate }: StageSetting) => (gate.from ?? []).map(nameOf).filter(Boolean).join(' or ')
const inWords = (stage: StageSetting) =>
  [
    `${stage.name}, ${KIND_MEANINGS[stage.kind]}, ${prospects(stage.people)}`,
    fromInWords(stage) && `only from ${fromInWords(stage)}`,
    requires(stage) && `requires ${requires(stage)}`,
    stage.fault,
  ]
    .filter(Boolean)
    .join('; ')

/** The stage that was moved by keyboard: it keeps the cursor, wherever it is now. */
const moved = ref<string | null>(null)
const root = ref<HTMLElement | null>(null)
watch(
  () => props.stages,
  () => {
    if (moved.value) root.value?.querySelector<HTMLElement>(`[data-stage="${moved.value}"]`)?.focus()
    moved.value = null
  },
  { flush: 'post' },
)
const dragged = ref<string | null>(null)
const over = ref<string | null>(null)
function drop(gap: { kind: StageKind; after: string | null }): void {
  const stage = props.stages.find(({ id }) => id === dragged.value)
  dragged.value = over.value = null
  if (!stage || gap.after === stage.id) return
  const kind = rowOf(stage.kind) === rowOf(gap.kind) ? stage.kind : gap.kind
  emit('move', stage.id, kind, gap.after)
}
/** Moves a stage past its neighbor, with Alt and an arrow key. */
function shift(event: KeyboardEvent, { stage, row }: Spot, by: number): void {
  if (!event.altKey || !props.editable) return
  event.preventDefault()
  const here = ofRow(row)
  const index = here.findIndex((spot) => spot.stage.id === stage.id)
  const target = here[index + by]
  if (!target) return
  const before = props.stages[props.stages.indexOf(target.stage) - 1]?.id ?? null
  moved.value = stage.id
  emit('move', stage.id, stage.kind, by > 0 ? target.stage.id : before)
}
</script>

<template>
  <div class="scroll">
    <div ref="root" class="map" :style="{ width: `${width}px`, height: `${height}px` }">
      <svg :width="width" :height="height" aria-hidden="true">
        <defs>
          <marker id="stage-move" viewBox="0 0 8 8" refX="7" refY="4" markerWidth="7" markerHeight="7" orient="auto">
            <path d="M0 0L8 4L0 8Z" fill="var(--slate)" />
          </marker>
        </defs>
        <path :d="ground" fill="var(--hill)" stroke="var(--bark)" />
        <g v-if="flag" :transform="`translate(${flag.x + CARD - 14} ${flag.y - 12})`">
          <path d="M0 12V-2" stroke="var(--pine)" stroke-width="2" />
          <path d="M0 -2l13 4l-13 5Z" fill="var(--pine)" />
        </g>
        <path
          v-for="move in moves"
          :key="move.key"
          :d="move.path"
          fill="none"
          stroke="var(--slate)"
          stroke-width="1.5"
          marker-end="url(#stage-move)"
        />
      </svg>
      <span class="row dim small" :style="{ top: `${tops.paused - 24}px` }">Paused: {{ KIND_MEANINGS.paused }}</span>
      <span class="row dim small" :style="{ top: `${tops.closed - 24}px` }">Closed: {{ KIND_MEANINGS.closed }}</span>
      <component
        :is="editable ? 'button' : 'div'"
        v-for="spot in spots"
        :key="spot.stage.id"
        class="plain stage"
        :class="[spot.stage.kind, { faint: dragged === spot.stage.id }]"
        :style="{ left: `${spot.x}px`, top: `${spot.y}px` }"
        :data-stage="spot.stage.id"
        :draggable="editable"
        :aria-label="inWords(spot.stage)"
        :title="inWords(spot.stage)"
        @click="editable && emit('edit', spot.stage)"
        @dragstart="dragged = spot.stage.id"
        @dragend="dragged = over = null"
        @keydown.left="shift($event, spot, -1)"
        @keydown.right="shift($event, spot, 1)"
      >
        <b>{{ spot.stage.name }}</b>
        <span class="dim small num">{{ prospects(spot.stage.people) }}</span>
        <span v-if="fromInWords(spot.stage)" class="small slate">from {{ fromInWords(spot.stage) }}</span>
        <span v-if="requires(spot.stage)" class="small gate">requires {{ requires(spot.stage) }}</span>
        <span v-if="spot.stage.fault" class="small clay">{{ spot.stage.fault }}</span>
      </component>
      <template v-if="editable">
        <button
          v-for="gap in gaps"
          :key="gap.key"
          class="plain gap"
          :class="{ over: over === gap.key, dropping: dragged }"
          :style="{ left: `${gap.x}px`, top: `${gap.y}px` }"
          :aria-label="`Add a stage ${gap.label}`"
          :title="`Add a stage ${gap.label}`"
          @click="emit('add', gap.kind, gap.after)"
          @dragover.prevent="over = gap.key"
          @dragleave="over = null"
          @drop.prevent="drop(gap)"
        >
          +
        </button>
      </template>
    </div>
  </div>
</template>

<style scoped>
.scroll {
  overflow-x: auto;
  padding-bottom: 6px;
}
.map {
  position: relative;
}
svg {
  position: absolute;
  inset: 0;
}
.row {
  position: absolute;
  left: 26px;
}
.stage {
  position: absolute;
  width: 142px;
  height: 96px;
  padding: 7px 9px;
  display: flex;
  flex-direction: column;
  align-items: flex-start;
  text-align: left;
  overflow: hidden;
  border: 1px solid var(--line);
  border-left: 4px solid var(--stone);
  border-radius: 7px;
  background: var(--card);
  line-height: 1.25;
}
button.stage:hover,
button.stage:focus-visible {
  border-color: var(--pine);
}
.stage.open,
.stage.won {
  border-left-color: var(--pine);
}
.stage.won {
  background: var(--pine-soft);
}
.stage.paused {
  border-left-color: var(--slate);
}
.stage b {
  max-width: 100%;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.stage .small {
  overflow-wrap: anywhere;
}
.stage .gate,
.stage .slate {
  display: -webkit-box;
  -webkit-box-orient: vertical;
  -webkit-line-clamp: 2;
  overflow: hidden;
}
.faint {
  opacity: 0.4;
}
.slate {
  color: var(--slate-deep);
}
.clay {
  color: var(--clay-deep);
}
.gap {
  position: absolute;
  width: 24px;
  height: 24px;
  border-radius: 50%;
  color: var(--dim);
  text-align: center;
  font-size: 16px;
  line-height: 22px;
}
.gap:hover,
.gap:focus-visible,
.gap.over {
  background: var(--pine);
  color: var(--card);
}
.gap.dropping {
  outline: 1px dashed var(--pine);
}
</style>
