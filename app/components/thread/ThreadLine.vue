<script setup lang="ts">
import { computed } from 'vue'
import { DAY } from '#core/instant'
import { thread, type Knot } from '#core/queue/thread'
import { useTimes } from '~/composables/times'

/** A relationship as a thread with knots: each touch a knot, silence between them sags. */
const props = withDefaults(
  defineProps<{
    touches: readonly (Knot & { summary: string })[]
    now: number
    next?: number | null
    since?: number | null
    goalDays?: number
    days?: number
    deals?: readonly { name: string; status: string; openedAt: number }[]
  }>(),
  { goalDays: 30, days: 365, next: null, since: null, deals: () => [] },
)
const times = useTimes()
const WIDTH = 600
const LEVEL = 20
const DEEP = 44
const start = computed(() => {
  const first = Math.min(
    props.now - 30 * DAY,
    ...(props.since === null ? [] : [props.since]),
    ...props.touches.map((touch) => touch.at),
  )
  return Math.max(first - 2 * DAY, props.now - props.days * DAY)
})
const drawn = computed(() => thread(props.touches, start.value, props.now, props.goalDays, props.since))
const sagPath = (sag: { from: number; to: number; depth: number }) =>
  [
    `M${sag.from * WIDTH} ${LEVEL}`,
    `Q${((sag.from + sag.to) / 2) * WIDTH} ${LEVEL + sag.depth * DEEP * 2} ${sag.to * WIDTH} ${LEVEL}`,
  ].join(' ')
const inWords = computed(
  () =>
    `${props.touches.length} touches. ${props.touches
      .slice(0, 8)
      .map((touch) => `${times.day(touch.at)}: ${touch.summary}`)
      .join(
        '; ',
      )}${props.deals.map((deal) => `. Deal ${deal.status}: ${deal.name}`).join('')}${props.next ? `. Next: ${times.moment(props.next)}` : ''}`,
)
/** Deals are tabs that hang below the thread, from where they were opened. */
const tabs = computed(() =>
  props.deals
    .filter((deal) => deal.openedAt >= start.value && deal.openedAt <= props.now)
    .map((deal) => ({ ...deal, x: ((deal.openedAt - start.value) / Math.max(1, props.now - start.value)) * WIDTH })),
)
const longest = computed(() => drawn.value.sags.filter((sag) => sag.broken).sort((a, b) => b.days - a.days)[0])
</script>

<template>
  <svg
    :viewBox="`-6 0 ${WIDTH + 54} ${tabs.length ? 102 : 84}`"
    width="100%"
    role="img"
    :aria-label="inWords"
    class="thread"
  >
    <line
      x1="0"
      :x2="WIDTH"
      :y1="LEVEL + drawn.touchGoal * DEEP"
      :y2="LEVEL + drawn.touchGoal * DEEP"
      stroke="var(--line)"
      stroke-dasharray="2 4"
    />
    <path
      v-for="(sag, index) in drawn.sags"
      :key="index"
      :d="sagPath(sag)"
      fill="none"
      :stroke="sag.broken ? 'var(--clay)' : 'var(--pine)'"
      :stroke-width="sag.broken ? 2 : 1.6"
    />
    <text :x="WIDTH + 5" :y="LEVEL + drawn.touchGoal * DEEP + 4" class="dim">{{ goalDays }} days</text>
    <text
      v-if="longest"
      :x="Math.min(WIDTH - 88, Math.max(96, ((longest.from + longest.to) / 2) * WIDTH))"
      :y="LEVEL + longest.depth * DEEP + 13"
      text-anchor="middle"
      class="clay halo"
    >
      {{ Math.round(longest.days) }} days of silence
    </text>
    <path v-if="next" :d="`M${WIDTH} ${LEVEL} l26 -10`" stroke="var(--stone)" stroke-dasharray="3 3" fill="none">
      <title>Next: {{ times.moment(next) }}</title>
    </path>
    <g v-for="(knot, index) in drawn.knots" :key="`k${index}`" :transform="`translate(${knot.x * WIDTH} ${LEVEL})`">
      <circle v-if="knot.kind === 'call'" r="4.5" fill="var(--pine)" />
      <rect v-else-if="knot.kind === 'email'" x="-4" y="-4" width="8" height="8" fill="var(--slate)" />
      <path v-else-if="knot.kind === 'reply'" d="M0 -6 L6 5 L-6 5Z" fill="var(--amber)" />
      <path v-else-if="knot.kind === 'meeting'" d="M-1 6 V-10 l11 4 l-9 4" fill="var(--amber)" stroke="var(--amber)" />
      <rect
        v-else
        x="-4"
        y="-4"
        width="8"
        height="8"
        fill="var(--card)"
        stroke="var(--pine)"
        stroke-width="1.6"
        transform="rotate(45)"
      />
      <title>{{ times.moment(knot.at) }}: {{ (knot as unknown as { summary: string }).summary }}</title>
    </g>
    <g v-for="tab in tabs" :key="tab.name + tab.openedAt" :transform="`translate(${tab.x} ${LEVEL})`">
      <path d="M0 6 V67" stroke="var(--bark)" stroke-width="0.8" fill="none" />
      <g :transform="`translate(${Math.min(0, WIDTH - 78 - tab.x)} 67)`">
        <rect
          width="78"
          height="14"
          rx="2"
          fill="var(--card)"
          :stroke="tab.status === 'lost' ? 'var(--clay)' : 'var(--pine)'"
          :stroke-dasharray="tab.status === 'open' ? '3 2' : undefined"
        />
        <text x="6" y="10.5" class="tab">deal {{ tab.status }}</text>
        <title>{{ tab.name }}, {{ tab.status }}, opened {{ times.day(tab.openedAt) }}</title>
      </g>
    </g>
    <text x="0" y="82" class="dim">{{ times.day(start) }}</text>
    <text :x="WIDTH" y="82" text-anchor="end" class="dim">today</text>
  </svg>
</template>

<style scoped>
.thread {
  display: block;
  max-height: 126px;
}
text {
  font-size: 10.5px;
}
.halo {
  paint-order: stroke;
  stroke: var(--card);
  stroke-width: 4px;
}
.tab {
  fill: var(--ink);
  font-size: 9.5px;
}
.dim {
  fill: var(--dim);
}
.clay {
  fill: var(--clay-deep);
}
</style>
