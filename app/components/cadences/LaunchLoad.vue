<script setup lang="ts">
import { computed, ref } from 'vue'
import { LOAD_KINDS, type LoadKind } from '#core/cadence/forecast'
import type { forecastLaunch } from '#shared/api/cadences/launch'
import type { z } from 'zod'
import { useTimes } from '~/composables/times'

/**
 * The work of the next working days as columns: what the cadences that run bring, what a launch adds on top, and a line
 * at what fits. For all reps it concerns, or one.
 */
type Forecast = z.output<typeof forecastLaunch.response>
const props = defineProps<{ days: Forecast['days']; reps: Forecast['reps'] }>()
const times = useTimes()
const kind = ref<LoadKind>('calls')
const rep = ref<string | null>(null)
const KINDS = Object.entries(LOAD_KINDS) as [LoadKind, string][]
const shown = computed(() => props.reps.filter((one) => rep.value === null || one.id === rep.value))
const total = (numbers: readonly number[]) => numbers.reduce((sum, one) => sum + one, 0)
/** What fits into a day; 0 where nothing is said of it. */
const capacity = computed(() => {
  const of = kind.value
  return of === 'calls' || of === 'emails' ? total(shown.value.map((one) => one.capacity[of])) : 0
})
const columns = computed(() =>
  props.days.map((day, index) => {
    const running = total(shown.value.map((one) => one.running[kind.value][index]!))
    const added = total(shown.value.map((one) => one.added[kind.value][index]!))
    const over = capacity.value > 0 && running + added > capacity.value
    return { day, label: times.day(Date.parse(`${day}T12:00:00Z`), 'UTC'), running, added, over }
  }),
)
const [WIDTH, HEIGHT, BASE] = [900, 220, 176]
const most = computed(() => Math.max(1, capacity.value, ...columns.value.map((one) => one.running + one.added)))
const high = (count: number) => (count / most.value) * (BASE - 24)
const step = WIDTH / 15
const words = computed(() =>
  columns.value
    .map(({ label, running, added, over }) => `${label}: ${running} and ${added} more${over ? ', more than fits' : ''}`)
    .join('; '),
)
</script>

<template>
  <section class="panel">
    <div class="spread">
      <h2>Work of the next 15 working days</h2>
      <div class="row">
        <v-btn-toggle v-model="kind" mandatory density="compact" variant="outlined">
          <v-btn v-for="[value, label] in KINDS" :key="value" :value="value" size="small">{{ label }}</v-btn>
        </v-btn-toggle>
        <v-select
          v-if="reps.length > 1"
          v-model="rep"
          :items="[{ id: null, name: `All ${reps.length} reps` }, ...reps]"
          item-value="id"
          item-title="name"
          label="For"
          class="rep"
        />
      </div>
    </div>
    <svg :viewBox="`0 0 ${WIDTH} ${HEIGHT}`" width="100%" role="img" :aria-label="`${LOAD_KINDS[kind]}. ${words}`">
      <g v-for="(one, index) in columns" :key="one.day" :transform="`translate(${index * step} 0)`">
        <rect :x="8" :y="BASE - high(one.running)" :width="step - 16" :height="high(one.running)" fill="var(--stone)" />
        <rect
          :x="8"
          :y="BASE - high(one.running + one.added)"
          :width="step - 16"
          :height="high(one.added)"
          :fill="one.over ? 'var(--clay)' : 'var(--pine)'"
        />
        <text
          v-if="one.running + one.added"
          :x="step / 2"
          :y="BASE - high(one.running + one.added) - 5"
          text-anchor="middle"
          class="count"
        >
          {{ one.running + one.added }}
        </text>
        <text :x="step / 2" :y="BASE + 16" text-anchor="middle">{{ one.label.split(', ')[0] }}</text>
        <text :x="step / 2" :y="BASE + 31" text-anchor="middle">{{ one.label.split(', ')[1] }}</text>
      </g>
      <line x1="0" :x2="WIDTH" :y1="BASE" :y2="BASE" stroke="var(--bark)" />
      <g v-if="capacity">
        <line
          x1="0"
          :x2="WIDTH"
          :y1="BASE - high(capacity)"
          :y2="BASE - high(capacity)"
          stroke="var(--amber)"
          stroke-width="1.5"
          stroke-dasharray="5 4"
        />
        <text :x="WIDTH" :y="BASE - high(capacity) - 5" text-anchor="end" class="line">{{ capacity }} fit</text>
      </g>
    </svg>
    <p class="dim small">
      <span class="key stone" /> what runs now <span class="key pine" /> what this adds, at most: every step done when
      it is due, and nobody leaving early.
    </p>
  </section>
</template>

<style scoped>
svg {
  display: block;
  overflow: visible;
  margin-top: 6px;
}
text {
  font-size: 11.5px;
  fill: var(--dim);
}
.count {
  fill: var(--ink);
  font-weight: 600;
}
.line {
  fill: var(--amber);
  font-weight: 600;
}
.rep {
  width: 170px;
}
.key {
  display: inline-block;
  width: 10px;
  height: 10px;
  border-radius: 2px;
  margin: 0 4px 0 8px;
}
.key.stone {
  background: var(--stone);
}
.key.pine {
  background: var(--pine);
}
</style>
