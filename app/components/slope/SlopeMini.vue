<script setup lang="ts">
import { computed } from 'vue'

/** A climb as small as a row: done filled, now ringed, ahead pale. */
const props = defineProps<{ step: number; steps: number }>()
const points = computed(() =>
  Array.from({ length: props.steps + 1 }, (_, index) => ({
    x: 2 + (index * 44) / props.steps,
    y: 14 - (index * 11) / props.steps,
  })),
)
const path = (from: number, to: number) =>
  points.value
    .slice(from, to + 1)
    .map((point, index) => `${index ? 'L' : 'M'}${point.x.toFixed(1)} ${point.y.toFixed(1)}`)
    .join(' ')
const here = computed(() => points.value[Math.min(props.steps, props.step - 1)]!)
</script>

<template>
  <svg width="50" height="18" viewBox="0 0 50 18" role="img" :aria-label="`Step ${step} of ${steps}`">
    <path :d="path(0, steps)" fill="none" stroke="var(--bark)" stroke-width="1.5" />
    <path :d="path(0, step - 1)" fill="none" stroke="var(--pine)" stroke-width="2.2" />
    <circle :cx="here.x" :cy="here.y" r="3" fill="var(--card)" stroke="var(--amber)" stroke-width="2" />
  </svg>
</template>
