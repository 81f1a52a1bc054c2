<script setup lang="ts">
import { computed } from 'vue'
import { DAY } from '#core/instant'
import { thread, type Knot } from '#core/queue/thread'
import { useTimes } from '~/composables/times'

/**
 * A relationship's last half year in a row of a table: all rows on one scale, so that they can be compared down the
 * page.
 */
const props = defineProps<{
  knots: readonly (readonly [at: number, kind: string])[]
  now: number
  next: number | null
  goalDays: number
  since: number
  width: number
}>()
const times = useTimes()
const DAYS = 180
const LEVEL = 9
const DEEP = 26
const drawn = computed(() =>
  thread(
    props.knots.map(([at, kind]) => ({ at, kind: kind as Knot['kind'] })),
    props.now - DAYS * DAY,
    props.now,
    props.goalDays,
    props.since,
  ),
)
const span = computed(() => props.width - 22)
const sag = (one: { from: number; to: number; depth: number }) =>
  [
    `M${one.from * span.value} ${LEVEL}`,
    `Q${((one.from + one.to) / 2) * span.value} ${LEVEL + one.depth * DEEP * 2} ${one.to * span.value} ${LEVEL}`,
  ].join(' ')
const label = computed(() => {
  const last = props.knots.at(-1)
  const silent = last ? Math.floor((props.now - last[0]) / DAY) : null
  if (silent === null) {
    return `no touch in the ${Math.floor((props.now - props.since) / DAY)} days since they were added${props.next ? `; next ${times.moment(props.next)}` : ''}`
  }
  return `${props.knots.length} ${props.knots.length === 1 ? 'touch' : 'touches'}; the last ${silent === 0 ? 'today' : `${silent} ${silent === 1 ? 'day' : 'days'} ago`}${silent > props.goalDays ? ', silent longer than the touch goal' : ''}${props.next ? `; next ${times.moment(props.next)}` : ''}`
})
</script>

<template>
  <svg :width="width" height="40" :viewBox="`-4 0 ${width} 40`" role="img" :aria-label="label">
    <title>{{ label }}</title>
    <path
      v-for="(one, index) in drawn.sags"
      :key="index"
      :d="sag(one)"
      fill="none"
      :stroke="one.broken ? 'var(--clay)' : 'var(--pine)'"
      :stroke-width="one.broken ? 1.8 : 1.3"
    />
    <line v-if="!drawn.sags.length" x1="0" :x2="span" :y1="LEVEL" :y2="LEVEL" stroke="var(--line)" />
    <path v-if="next" :d="`M${span} ${LEVEL} l14 -6`" stroke="var(--stone)" stroke-dasharray="2 2" fill="none" />
    <g v-for="(knot, index) in drawn.knots" :key="`k${index}`" :transform="`translate(${knot.x * span} ${LEVEL})`">
      <circle v-if="knot.kind === 'call'" r="2.8" fill="var(--pine)" />
      <rect v-else-if="knot.kind === 'email'" x="-2.6" y="-2.6" width="5.2" height="5.2" fill="var(--slate)" />
      <path v-else-if="knot.kind === 'reply'" d="M0 -4.4 L4.4 3.6 L-4.4 3.6Z" fill="var(--amber)" />
      <path v-else-if="knot.kind === 'meeting'" d="M-1 4 V-7 l8 3 l-7 3" fill="var(--amber)" stroke="var(--amber)" />
      <rect
        v-else
        x="-2.4"
        y="-2.4"
        width="4.8"
        height="4.8"
        fill="var(--card)"
        stroke="var(--pine)"
        transform="rotate(45)"
      />
    </g>
  </svg>
</template>

<style scoped>
svg {
  display: block;
  max-width: 100%;
}
</style>
