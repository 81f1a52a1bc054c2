<script setup lang="ts">
import { computed, ref } from 'vue'
import { STEP_KINDS, capitalized } from '#core/enumerations'
import type { StepDraft } from '#shared/api/cadences'
import { waitInWords } from '#core/cadence/wait'
import { useTimes } from '~/composables/times'

/**
 * The cadence being edited, drawn as the climb it is: days run right; a step dragged along the days changes its wait.
 */
const props = defineProps<{
  steps: readonly StepDraft[]
  planned: Readonly<Record<string, { at: number; moved: string | null }>>
  start: number
  timeZone: string
  selected: string | null
  faulty: readonly string[]
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
const spots = computed(() => {
  let before = -30
  return props.steps.map((step, index) => {
    const offset = Math.max(0, (props.planned[step.id]?.at ?? props.start) - props.start)
    // Steps of the same hour stand beside each other, not on top.
    const x = Math.max(before + 70, 40 + offset * scale.value)
    before = x
    return {
      ...step,
      x,
      y: BASE - 50 - (index * (BASE - 108)) / Math.max(1, props.steps.length),
      plan: props.planned[step.id],
    }
  })
})
const top = computed(() => ({ x: Math.max(WIDTH - 50, (spots.value.at(-1)?.x ?? 0) + 50), y: 40 }))
const width = computed(() => top.value.x + 50)
const line = computed(() =>
  [...spots.value, top.value].map((spot, index) => `${index ? 'L' : 'M'}${spot.x} ${spot.y}`).join(' '),
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
    :viewBox="`0 0 ${width} ${HEIGHT}`"
    width="100%"
    class="slope"
    role="group"
    :aria-label="`The climb. ${inWords}`"
  >
    <path v-if="spots.length" :d="`${line} L${top.x} ${BASE} L${spots[0]!.x} ${BASE}Z`" fill="var(--hill)" />
    <g v-for="day in days" :key="day.at">
      <line :x1="day.x" :x2="day.x" :y1="BASE" :y2="BASE + 6" stroke="var(--bark)" />
      <text :x="day.x" :y="BASE + 22" text-anchor="middle" class="date">{{ times.day(day.at, timeZone) }}</text>
    </g>
    <line x1="20" :x2="top.x" :y1="BASE" :y2="BASE" stroke="var(--bark)" />
    <text v-if="!spots.length" :x="40" :y="BASE - 40" class="date">
      No steps yet. Every step you add is drawn here.
    </text>
    <path v-if="spots.length" :d="line" fill="none" stroke="var(--pine)" stroke-width="2.5" />
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
        r="16"
        :fill="spot.id === selected ? 'var(--pine)' : 'var(--card)'"
        :stroke="faulty.includes(spot.id) ? 'var(--clay)' : 'var(--pine)'"
        stroke-width="2.5"
      />
      <svg :x="spot.x - 9" :y="spot.y - 9" width="18" height="18">
        <StepIcon :kind="spot.kind" :color="spot.id === selected ? '#fffdf8' : 'var(--pine)'" />
      </svg>
      <text :x="spot.x" :y="spot.y - 24" text-anchor="middle" class="name">
        {{ spot.name.length > 22 ? `${spot.name.slice(0, 21)}…` : spot.name }}
      </text>
      <text v-if="spot.plan" :x="spot.x" :y="spot.y + 32" text-anchor="middle" class="date">
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
