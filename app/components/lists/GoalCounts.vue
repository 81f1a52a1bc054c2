<script setup lang="ts">
import type { GoalState } from '#shared/api/lists'

/** How a list's touch goal stands, counted; each number shows the people behind it. */
const props = defineProps<{
  counts: { overdue: number; dueSoon: number; onTrack: number; unscheduled: number }
  chosen?: GoalState
}>()
const emit = defineEmits<{ choose: [goal: GoalState | undefined] }>()
const STATES: { goal: GoalState; count: (counts: typeof props.counts) => number; label: string }[] = [
  { goal: 'overdue', count: (counts) => counts.overdue, label: 'overdue' },
  { goal: 'unscheduled', count: (counts) => counts.unscheduled, label: 'overdue with nothing scheduled' },
  { goal: 'due_soon', count: (counts) => counts.dueSoon, label: 'due soon' },
  { goal: 'on_track', count: (counts) => counts.onTrack, label: 'on track' },
]
</script>

<template>
  <p class="row goals num" role="group" aria-label="Touch goal">
    <template v-for="state in STATES" :key="state.goal">
      <button
        class="plain"
        :class="{ on: chosen === state.goal, past: state.goal === 'overdue' && counts.overdue }"
        :aria-pressed="chosen === state.goal"
        :disabled="!state.count(counts) && chosen !== state.goal"
        @click="emit('choose', chosen === state.goal ? undefined : state.goal)"
      >
        <b>{{ state.count(counts) }}</b> {{ state.label }}
      </button>
    </template>
  </p>
</template>

<style scoped>
.goals {
  gap: 4px;
  flex-wrap: wrap;
}
button {
  padding: 2px 9px;
  border: 1px solid var(--line);
  border-radius: 999px;
  min-height: 26px;
  color: var(--dim);
}
button:disabled {
  opacity: 0.6;
}
button.on {
  background: var(--pine-soft);
  color: var(--ink);
  border-color: var(--pine);
}
.past b {
  color: var(--clay-deep);
}
</style>
