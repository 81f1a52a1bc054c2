<script setup lang="ts">
import { computed } from 'vue'
import { STEP_KINDS, capitalized } from '#core/enumerations'
import { placeLabels } from '#core/text/placeLabels'
import type { SlopeStep } from '#shared/api/desk/desk'
import { useTimes } from '~/composables/times'

/** A cadence as a climb: days run right, every step gains height, the flag at the top is the meeting. */
const props = defineProps<{ steps: readonly SlopeStep[]; cadence: string }>()
const times = useTimes()
const WIDTH = 640
const TOP = 30
const BASE = 136
const spots = computed(() => {
  const count = props.steps.length
  const gap = (WIDTH - 90) / Math.max(1, count)
  return props.steps.map((step, index) => ({
    ...step,
    x: 26 + index * gap,
    y: BASE - 12 - (index * (BASE - TOP - 28)) / Math.max(1, count),
  }))
})
const top = computed(() => ({ x: WIDTH - 30, y: TOP }))
const line = (points: readonly { x: number; y: number }[]) =>
  points.map((point, index) => `${index ? 'L' : 'M'}${point.x} ${point.y}`).join(' ')
const nowAt = computed(() => spots.value.findIndex((spot) => spot.status === 'now'))
const walked = computed(() => line(spots.value.slice(0, nowAt.value < 0 ? spots.value.length : nowAt.value + 1)))
const ahead = computed(() => line([...spots.value.slice(Math.max(0, nowAt.value)), top.value]))
const label = (spot: SlopeStep) => {
  if (spot.status === 'done' || spot.status === 'left') return spot.summary ?? capitalized(STEP_KINDS[spot.kind])
  return spot.status === 'now'
    ? `${capitalized(STEP_KINDS[spot.kind])}, ${spot.summary}`
    : capitalized(STEP_KINDS[spot.kind])
}
/** Where the labels stand, by step; that of the step in hand comes first. */
const heights = computed(() => {
  const there = [
    ...spots.value.map(({ x, y }) => ({ from: x - 10, to: x + 10, y: y + 4 })),
    { from: top.value.x - 50, to: WIDTH, y: top.value.y - 10 },
  ]
  const labels = spots.value.map((spot, index) => ({
    id: spot.stepId,
    text: label(spot),
    x: spot.x,
    y: spot.y,
    ...(index === 0 && { from: 8 }),
  }))
  const inOrder = [...labels.filter((_, index) => index === nowAt.value), ...labels]
  return placeLabels([...new Set(inOrder)], there, { above: [16, 23, 30, 37, 44], line: 13, character: 6.2 })
})
const inWords = computed(
  () =>
    `${props.cadence}: ${props.steps.map((step, index) => `step ${index + 1}, ${label(step)}${step.at ? `, ${times.day(step.at)}` : ''}`).join('; ')}; then the meeting`,
)
</script>

<template>
  <svg :viewBox="`0 0 ${WIDTH} 160`" width="100%" class="climb" role="img" :aria-label="inWords">
    <path :d="`${line([...spots, top])} L${WIDTH - 30} ${BASE} L26 ${BASE}Z`" fill="var(--hill)" />
    <path :d="ahead" fill="none" stroke="var(--bark)" stroke-width="2" stroke-dasharray="5 4" />
    <path :d="walked" fill="none" stroke="var(--pine)" stroke-width="3" />
    <g v-for="(spot, index) in spots" :key="spot.stepId">
      <circle
        v-if="spot.status === 'now'"
        :cx="spot.x"
        :cy="spot.y"
        r="10"
        fill="var(--card)"
        stroke="var(--amber)"
        stroke-width="3.5"
      />
      <circle v-else-if="spot.status === 'done'" :cx="spot.x" :cy="spot.y" r="8" fill="var(--pine)" />
      <circle
        v-else
        :cx="spot.x"
        :cy="spot.y"
        r="7.5"
        fill="var(--card)"
        stroke="var(--stone)"
        stroke-width="2"
        :stroke-dasharray="spot.status === 'left' ? '2 3' : ''"
      />
      <text
        :x="index === 0 ? 8 : spot.x"
        :y="heights.get(spot.stepId)"
        :text-anchor="index === 0 ? 'start' : 'middle'"
        :class="{ now: spot.status === 'now' }"
      >
        {{ label(spot) }}
      </text>
      <text
        v-if="spot.at"
        :x="index === 0 ? 8 : spot.x"
        y="153"
        :text-anchor="index === 0 ? 'start' : 'middle'"
        class="date"
      >
        {{ times.day(spot.at) }}
      </text>
      <title>
        {{ spot.name }}{{ spot.at ? `, ${times.moment(spot.at)}` : '' }}{{ spot.summary ? `: ${spot.summary}` : '' }}
      </title>
    </g>
    <path :d="`M${top.x} ${top.y} v-20 l17 6 l-17 6`" fill="var(--amber)" stroke="var(--amber)" stroke-width="1.5" />
    <text :x="top.x - 6" :y="top.y - 10" text-anchor="end" class="now">Meeting</text>
  </svg>
</template>

<style scoped>
.climb {
  display: block;
  max-height: 190px;
}
text {
  font-size: 11.5px;
  fill: var(--ink);
}
.date {
  fill: var(--dim);
  font-size: 11px;
}
.now {
  font-weight: 650;
}
</style>
