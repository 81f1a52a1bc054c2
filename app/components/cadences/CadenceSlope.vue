<script setup lang="ts">
import { computed, ref } from 'vue'
import { STEP_KINDS, capitalized } from '#core/enumerations'
import { rowsOf } from '#core/cadence/arrange'
import { placeLabels } from '#core/text/placeLabels'
import type { StepDraft, WayDraft } from '#shared/api/cadences/cadences'
import { waitInWords } from '#core/cadence/wait'
import { useTimes } from '~/composables/times'

/**
 * The cadence being edited, drawn as the climb it is: days run right; a step dragged along the days changes its wait.
 * The ways of a branch are dotted spurs below it, back to the climb or to an end.
 */
const props = defineProps<{
  steps: readonly StepDraft[]
  planned: Readonly<Record<string, { at: number; moved: string | null }>>
  start: number
  timeZone: string
  selected: string | null
  faulty: readonly string[]
  /** A way's condition as a sentence. */
  wayInWords: (way: WayDraft) => string
}>()
const emit = defineEmits<{ select: [id: string]; wait: [id: string, amount: number] }>()
const times = useTimes()
const WIDTH = 1000
const HEIGHT = 230
const BASE = 186
const DAY = 86_400_000
const root = ref<SVGSVGElement | null>(null)
const drag = ref<{ id: string; fromX: number; from: number; perUnit: number } | null>(null)

const last = computed(() =>
  Math.max(5 * DAY, ...props.steps.map((step) => (props.planned[step.id]?.at ?? props.start) - props.start)),
)
const scale = computed(() => (WIDTH - 150) / (last.value * 1.12))
const SPUR = 44
/** Ways with steps of their own, in the order they are listed; each has a row below the climb. */
const spurs = computed(() =>
  rowsOf(props.steps).flatMap((row) =>
    row.type === 'way' && props.steps.some((step) => step.wayId === row.way.id)
      ? [{ branch: row.branch, way: row.branch.ways.find(({ id }) => id === row.way.id)! }]
      : [],
  ),
)
const base = computed(() => BASE + spurs.value.length * SPUR)
const height = computed(() => HEIGHT + spurs.value.length * SPUR)
const spots = computed(() => {
  const main = props.steps.filter((step) => step.wayId === null)
  const drawn = new Map<string, { x: number; y: number }>()
  /** Steps of the same hour stand beside each other, not on top. */
  const place = (step: StepDraft, least: number, y: number) => {
    const offset = Math.max(0, (props.planned[step.id]?.at ?? props.start) - props.start)
    const spot = { x: Math.max(least, 40 + offset * scale.value), y }
    drawn.set(step.id, spot)
    return spot.x
  }
  let before = -30
  main.forEach((step, index) => {
    before = place(step, before + 70, BASE - 50 - (index * (BASE - 108)) / Math.max(1, main.length))
  })
  spurs.value.forEach(({ branch, way }, row) => {
    let x = (drawn.get(branch.id)?.x ?? 40) - 8
    for (const step of props.steps.filter((one) => one.wayId === way.id)) x = place(step, x + 48, BASE + 6 + row * SPUR)
  })
  return props.steps.flatMap((step) => {
    const spot = drawn.get(step.id)
    return spot ? [{ ...step, ...spot, plan: props.planned[step.id], onSpur: step.wayId !== null }] : []
  })
})
const main = computed(() => spots.value.filter((spot) => !spot.onSpur))
const top = computed(() => ({ x: Math.max(WIDTH - 50, (main.value.at(-1)?.x ?? 0) + 50), y: 40 }))
/** The names above the steps, and how high they stand. */
const names = computed(() => {
  const labels = main.value.map(({ id, name, x, y }, index) => {
    const text = name.length > 28 ? `${name.slice(0, 27).trimEnd()}…` : name
    return { id, text, x: index ? x : Math.max(x, 3.8 * text.length), y }
  })
  const there = [
    ...main.value.map(({ x, y }) => ({ from: x - 18, to: x + 18, y: y + 5 })),
    { from: top.value.x - 70, to: top.value.x + 20, y: top.value.y - 10 },
  ]
  const heights = placeLabels(labels, there, { above: [24, 33, 42, 51, 60], line: 16, character: 7 })
  return new Map(labels.map(({ id, text, x }) => [id, { text, x, y: heights.get(id)! }]))
})
const width = computed(() => Math.max(top.value.x, ...spots.value.map((spot) => spot.x)) + 50)
const line = computed(() =>
  [...main.value, top.value].map((spot, index) => `${index ? 'L' : 'M'}${spot.x} ${spot.y}`).join(' '),
)
/** The dotted path of each way: down from its branch, along its steps, and back to the climb unless it ends. */
const paths = computed(() =>
  spurs.value.flatMap(({ branch, way }) => {
    const from = spots.value.find(({ id }) => id === branch.id)
    const own = spots.value.filter(({ wayId }) => wayId === way.id)
    const [first, last] = [own[0], own.at(-1)]
    if (!from || !first || !last) return []
    const mates = spots.value.filter(({ wayId }) => wayId === branch.wayId)
    const back = mates[mates.indexOf(from) + 1] ?? (branch.wayId === null ? top.value : null)
    const along = `M${from.x} ${from.y} L${from.x} ${first.y} L${last.x} ${last.y}`
    return [
      {
        key: way.id,
        path: way.ends || !back ? `${along} l26 0` : `${along} L${Math.max(last.x + 26, back.x)} ${back.y}`,
        end: way.ends ? { x: last.x + 26, y: last.y } : null,
        label: way.name,
        x: from.x - 8,
        y: first.y + 4,
        title: `${way.name}: ${props.wayInWords(way)}`,
      },
    ]
  }),
)
const days = computed(() => {
  const count = Math.ceil(last.value / DAY) + 1
  const every = Math.max(1, Math.ceil(count / 12))
  return Array.from({ length: Math.ceil(count / every) }, (_, index) => ({
    x: 40 + index * every * DAY * scale.value,
    at: props.start + index * every * DAY,
  }))
})
const inWords = computed(() =>
  props.steps
    .map(
      (step, index) =>
        `Step ${index + 1}: ${capitalized(STEP_KINDS[step.kind])}, ${waitInWords(step.wait)}${props.planned[step.id] ? `, ${times.moment(props.planned[step.id]!.at, props.timeZone)}` : ''}`,
    )
    .join('. '),
)

function grab(event: PointerEvent, step: StepDraft): void {
  emit('select', step.id)
  const shown = root.value!.getBoundingClientRect().width / width.value
  const unit = step.wait.unit === 'hours' ? DAY / 24 : DAY
  drag.value = { id: step.id, fromX: event.clientX, from: step.wait.amount, perUnit: unit * scale.value * shown }
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
}
function pull(event: PointerEvent): void {
  if (!drag.value) return
  const amount = Math.max(
    0,
    Math.min(730, drag.value.from + Math.round((event.clientX - drag.value.fromX) / Math.max(4, drag.value.perUnit))),
  )
  emit('wait', drag.value.id, amount)
}
const NUDGES: Record<string, number> = { ArrowRight: 1, ArrowLeft: -1 }
function nudge(event: KeyboardEvent, step: StepDraft): void {
  const by = NUDGES[event.key]
  if (by) {
    event.preventDefault()
    emit('wait', step.id, Math.max(0, step.wait.amount + by))
  }
  if (event.key === 'Enter' || event.key === ' ') {
    event.preventDefault()
    emit('select', step.id)
  }
}
</script>

<template>
  <svg
    ref="root"
    :viewBox="`0 0 ${width} ${height}`"
    width="100%"
    class="slope"
    role="group"
    :aria-label="`The climb. ${inWords}`"
  >
    <path v-if="main.length" :d="`${line} L${top.x} ${base} L${main[0]!.x} ${base}Z`" fill="var(--hill)" />
    <g v-for="day in days" :key="day.at">
      <line :x1="day.x" :x2="day.x" :y1="base" :y2="base + 6" stroke="var(--bark)" />
      <text :x="day.x" :y="base + 22" text-anchor="middle" class="date">{{ times.day(day.at, timeZone) }}</text>
    </g>
    <line x1="20" :x2="top.x" :y1="base" :y2="base" stroke="var(--bark)" />
    <text v-if="!spots.length" :x="40" :y="BASE - 40" class="date">
      No steps yet. Every step you add is drawn here.
    </text>
    <path v-if="main.length" :d="line" fill="none" stroke="var(--pine)" stroke-width="2.5" />
    <g v-for="one in paths" :key="one.key">
      <path :d="one.path" fill="none" stroke="var(--pine)" stroke-width="1.8" stroke-dasharray="2 5" />
      <path v-if="one.end" :d="`M${one.end.x} ${one.end.y - 8}v16`" stroke="var(--pine)" stroke-width="2.5" />
      <text :x="one.x" :y="one.y" text-anchor="end" class="date">
        {{ one.label.length > 18 ? `${one.label.slice(0, 17)}…` : one.label }}
        <title>{{ one.title }}</title>
      </text>
    </g>
    <g
      v-for="(spot, index) in spots"
      :key="spot.id"
      class="spot"
      tabindex="0"
      role="button"
      :aria-label="`Step ${index + 1}, ${spot.name}. ${waitInWords(spot.wait)}. Arrow keys change the wait`"
      :aria-pressed="spot.id === selected"
      @pointerdown="grab($event, spot)"
      @pointermove="pull"
      @pointerup="drag = null"
      @pointercancel="drag = null"
      @keydown="nudge($event, spot)"
    >
      <circle
        :cx="spot.x"
        :cy="spot.y"
        :r="spot.onSpur ? 11 : 16"
        :fill="spot.id === selected ? 'var(--pine)' : 'var(--card)'"
        :stroke="faulty.includes(spot.id) ? 'var(--clay)' : 'var(--pine)'"
        stroke-width="2.5"
      />
      <svg
        :x="spot.x - (spot.onSpur ? 6.5 : 9)"
        :y="spot.y - (spot.onSpur ? 6.5 : 9)"
        :width="spot.onSpur ? 13 : 18"
        :height="spot.onSpur ? 13 : 18"
        viewBox="0 0 18 18"
      >
        <StepIcon :kind="spot.kind" :color="spot.id === selected ? '#fffdf8' : 'var(--pine)'" />
      </svg>
      <text v-if="!spot.onSpur" :x="names.get(spot.id)!.x" :y="names.get(spot.id)!.y" text-anchor="middle" class="name">
        {{ names.get(spot.id)!.text }}
      </text>
      <text
        v-if="spot.plan && !spot.onSpur && spot.kind !== 'branch'"
        :x="spot.x"
        :y="spot.y + 32"
        text-anchor="middle"
        class="date"
      >
        {{ times.clock(spot.plan.at, timeZone) }}{{ spot.plan.moved ? ' *' : '' }}
      </text>
      <title>
        {{ spot.name }}: {{ waitInWords(spot.wait) }}{{ spot.plan ? `, ${times.moment(spot.plan.at, timeZone)}` : ''
        }}{{ spot.plan?.moved ? ` (${spot.plan.moved})` : ''
        }}{{ faulty.includes(spot.id) ? '. Something is wrong with this step' : '' }}
      </title>
    </g>
    <path
      :d="`M${top.x} ${top.y + 4} v-26 l20 7 l-20 7`"
      fill="var(--amber)"
      stroke="var(--amber)"
      stroke-width="1.5"
    />
    <text :x="top.x - 8" :y="top.y - 10" text-anchor="end" class="name">Meeting</text>
  </svg>
</template>

<style scoped>
.slope {
  display: block;
  touch-action: none;
}
.spot {
  cursor: grab;
}
.spot:focus {
  outline: none;
}
.spot:focus-visible {
  outline: none;
}
.spot:focus-visible circle {
  stroke: var(--amber);
  stroke-width: 4;
}
text {
  font-size: 13px;
  fill: var(--ink);
  user-select: none;
}
.name {
  font-weight: 600;
  font-size: 12.5px;
}
.date {
  fill: var(--dim);
  font-size: 12px;
}
</style>
