<script setup lang="ts">
import { computed, ref } from 'vue'
import type { z } from 'zod'
import type { dayRidge } from '#shared/api/desk/queue'
import { useTimes } from '~/composables/times'

/** The working day as a skyline: how many people are due and callable in each half hour, in their own time zones. */
const props = defineProps<{
  day: z.output<typeof dayRidge.response>
  now: number
  /** The stretch that the queue is narrowed to. */
  stretch?: { from?: number; to?: number }
}>()
const emit = defineEmits<{ stretch: [{ from: number | undefined; to: number | undefined }] }>()
const HALF_HOUR = 1_800_000
/** Where a drag along the day began and where it is; a click is a drag of one half hour. */
const drag = ref<{ from: number; to: number } | null>(null)
function slotAt(event: PointerEvent): number {
  const box = (event.currentTarget as SVGElement).getBoundingClientRect()
  const index = Math.floor(((event.clientX - box.left) / box.width) * slots.value.length)
  return slots.value[Math.min(slots.value.length - 1, Math.max(0, index))]!.at
}
function begin(event: PointerEvent): void {
  if (event.button) return
  ;(event.currentTarget as SVGElement).setPointerCapture(event.pointerId)
  const at = slotAt(event)
  drag.value = { from: at, to: at }
}
function follow(event: PointerEvent): void {
  if (drag.value) drag.value = { ...drag.value, to: slotAt(event) }
}
function end(): void {
  if (!drag.value) return
  const [from, to] = rangeOf(drag.value)
  drag.value = null
  const same = props.stretch?.from === from && props.stretch.to === to
  emit('stretch', same ? { from: undefined, to: undefined } : { from, to })
}
const rangeOf = ({ from, to }: { from: number; to: number }) =>
  [Math.min(from, to), Math.max(from, to) + HALF_HOUR] as const
const band = computed(() => {
  const { from, to } = props.stretch ?? {}
  const range = drag.value ? rangeOf(drag.value) : from && to && ([from, to] as const)
  return range ? { x: x(range[0]), width: Math.max(0, x(range[1]) - x(range[0])) } : null
})
const times = useTimes()
const WIDTH = 760
const BASE = 78
const TOP = 16
const slots = computed(() => props.day.slots)
const first = computed(() => slots.value[0]?.at ?? 0)
const last = computed(() => (slots.value.at(-1)?.at ?? 1) + 1_800_000)
const x = (at: number) => Math.min(WIDTH, Math.max(0, ((at - first.value) / (last.value - first.value)) * WIDTH))
const most = computed(() => Math.max(4, ...slots.value.map((slot) => slot.open), ...doneSoFar.value))
const doneSoFar = computed(() => {
  let sum = 0
  return slots.value.map((slot) => (sum += slot.done))
})
const y = (count: number) => BASE - (count / most.value) * (BASE - TOP)
const doneTotal = computed(() => doneSoFar.value.at(-1) ?? 0)
const past = computed(() =>
  slots.value
    .map((slot, index) => ({ x: x(slot.at + 1_800_000), y: y(doneSoFar.value[index]!), at: slot.at }))
    .filter((point) => point.at < props.now),
)
const ahead = computed(() =>
  slots.value
    .filter((slot) => slot.at + 1_800_000 > props.now)
    .map((slot) => ({ x: x(Math.max(slot.at, props.now) + 900_000 * (slot.at > props.now ? 1 : 0)), y: y(slot.open) })),
)
const path = (points: readonly { x: number; y: number }[]) =>
  points.map((point) => `L${point.x.toFixed(1)} ${point.y.toFixed(1)}`).join(' ')
const nowX = computed(() => x(props.now))
const walked = computed(
  () => `M0 ${BASE} ${path(past.value.slice(0, -1))} L${nowX.value} ${y(doneTotal.value)} L${nowX.value} ${BASE}Z`,
)
const toCome = computed(() =>
  ahead.value.length
    ? [
        `M${nowX.value} ${BASE} L${nowX.value} ${ahead.value[0]!.y} ${path(ahead.value)}`,
        `L${WIDTH} ${ahead.value.at(-1)!.y} L${WIDTH} ${BASE}Z`,
      ].join(' ')
    : '',
)
const goal = computed(() => props.day.goals.calls[1])
const pace = computed(() => `M0 ${BASE} L${WIDTH} ${y(Math.min(goal.value, most.value))}`)
const hours = computed(() => slots.value.filter((_, index) => index % 2 === 0))
const inWords = computed(
  () =>
    `${doneTotal.value} done today. ${props.day.callableNow} can be worked now. ${slots.value
      .filter((slot) => slot.at > props.now)
      .map((slot) => `${times.clock(slot.at)}: ${slot.open}`)
      .join(', ')}`,
)
const goals = computed(() => [
  { label: 'calls', of: props.day.goals.calls },
  { label: 'conversations', of: props.day.goals.conversations },
  { label: 'meetings', of: props.day.goals.meetings },
])
</script>

<template>
  <section class="ridge" aria-label="The day">
    <div class="today">
      <b>{{ times.longDay(now) }}</b>
      <p class="dim small">{{ times.clock(now) }} · <slot /></p>
    </div>
    <svg
      :viewBox="`0 0 ${WIDTH} 94`"
      width="100%"
      height="94"
      role="img"
      :aria-label="inWords"
      preserveAspectRatio="none"
      class="sky"
      @pointerdown="begin"
      @pointermove="follow"
      @pointerup="end"
      @pointercancel="drag = null"
    >
      <path
        :d="toCome"
        fill="var(--pine-soft)"
        stroke="var(--pine)"
        stroke-width="1.2"
        vector-effect="non-scaling-stroke"
      />
      <path :d="walked" fill="var(--pine)" />
      <rect v-if="band" :x="band.x" y="0" :width="band.width" :height="BASE" fill="var(--amber)" fill-opacity="0.22" />
      <path
        :d="pace"
        fill="none"
        stroke="var(--amber)"
        stroke-width="1.5"
        stroke-dasharray="3 4"
        vector-effect="non-scaling-stroke"
      >
        <title>The pace that today’s goal needs</title>
      </path>
      <line
        :x1="nowX"
        :x2="nowX"
        y1="4"
        :y2="BASE"
        stroke="var(--amber)"
        stroke-width="2"
        vector-effect="non-scaling-stroke"
      />
    </svg>
    <div class="labels" aria-hidden="true">
      <span v-for="slot in hours" :key="slot.at" :style="{ left: `${(x(slot.at) / WIDTH) * 100}%` }">{{
        times.hour(slot.at)
      }}</span>
      <em v-for="meeting in day.meetings" :key="meeting.at" :style="{ left: `${(x(meeting.at) / WIDTH) * 100}%` }"
        >⚑ {{ times.clock(meeting.at) }} meeting</em
      >
    </div>
    <div class="pace">
      <div v-for="one in goals" :key="one.label">
        <strong class="num"
          >{{ one.of[0] }}<span v-if="one.of[1]"> / {{ one.of[1] }}</span></strong
        >{{ one.label }}
      </div>
    </div>
  </section>
</template>

<style scoped>
.ridge {
  display: grid;
  grid-template-columns: 232px 1fr 250px;
  gap: 18px;
  padding: 8px 16px 0;
  border-bottom: 1px solid var(--line);
  height: 106px;
  overflow: hidden;
  position: relative;
}
.today b {
  font-size: 15px;
}
.sky {
  grid-column: 2;
  grid-row: 1;
  display: block;
  cursor: crosshair;
  touch-action: none;
}
.labels {
  grid-column: 2;
  grid-row: 1;
  position: relative;
  height: 94px;
  font-size: 11px;
  color: var(--dim);
  pointer-events: none;
}
.labels span {
  position: absolute;
  bottom: -1px;
}
.labels em {
  position: absolute;
  top: 0;
  font-style: normal;
  color: var(--amber-deep);
  white-space: nowrap;
}
.pace {
  display: grid;
  grid-template-columns: repeat(3, auto);
  gap: 8px;
  align-content: start;
  padding-top: 2px;
}
.pace div {
  font-size: 12.5px;
  color: var(--dim);
}
.pace strong {
  display: block;
  font-size: 20px;
  line-height: 1.3;
  color: var(--ink);
}
.pace strong span {
  font-size: 13px;
  color: var(--dim);
  font-weight: 500;
}
@media (max-width: 900px) {
  .ridge {
    grid-template-columns: 1fr auto;
    height: auto;
    padding-bottom: 8px;
  }
  .sky,
  .labels {
    display: none;
  }
  .pace {
    grid-column: 2;
  }
}
</style>
