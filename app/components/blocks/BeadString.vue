<script setup lang="ts">
import { computed } from 'vue'
import { BLOCK_STATES } from '#core/enumerations'
import type { BlockBead } from '#shared/api/blocks/blocks'

/**
 * The people of a call block as beads on a string, in the order of calling: hollow to call, with a stroke no answer,
 * half a message left, filled reached, with a flag a meeting, crossed skipped. Whom a caller has in hand is ringed.
 */
const props = defineProps<{
  beads: readonly BlockBead[]
  /** The same in words. */
  label: string
  /** Small, in one row, for a line of a table. */
  mini?: boolean
  /** How many fit in a row. */
  columns?: number
}>()
const emit = defineEmits<{ pick: [prospectId: string] }>()
const MINI_SHOWN = 48
const size = computed(() => (props.mini ? 9 : 24))
const radius = computed(() => (props.mini ? 3 : 6.5))
const shown = computed(() => (props.mini ? props.beads.slice(0, MINI_SHOWN) : props.beads))
const perRow = computed(() => (props.mini ? MINI_SHOWN : (props.columns ?? 40)))
const rows = computed(() => Math.ceil(shown.value.length / perRow.value))
const width = computed(() => Math.min(perRow.value, Math.max(1, shown.value.length)) * size.value)
const rowHeight = computed(() => (props.mini ? 14 : 30))
const placed = computed(() =>
  shown.value.map((bead, index) => ({
    ...bead,
    x: (index % perRow.value) * size.value + size.value / 2,
    y: Math.floor(index / perRow.value) * rowHeight.value + rowHeight.value - radius.value - 3,
    title: `${bead.name}: ${bead.inHand ? 'being called' : BLOCK_STATES[bead.state]}`,
  })),
)
const threads = computed(() =>
  Array.from({ length: rows.value }, (_, row) => {
    const count = Math.min(perRow.value, shown.value.length - row * perRow.value)
    return { y: row * rowHeight.value + rowHeight.value - radius.value - 3, to: count * size.value }
  }),
)
const half = (x: number, y: number, r: number) => `M ${x} ${y - r} A ${r} ${r} 0 0 0 ${x} ${y + r} Z`
const cross = (x: number, y: number, r: number) =>
  `M ${x - r} ${y - r} L ${x + r} ${y + r} M ${x + r} ${y - r} L ${x - r} ${y + r}`
const flag = (x: number, y: number, r: number) =>
  `M ${x} ${y - r} V ${y - r - r * 1.5} L ${x + r * 1.3} ${y - r - r} L ${x} ${y - r - r * 0.5}`
</script>

<template>
  <span class="string">
    <svg
      role="img"
      :aria-label="label"
      :viewBox="`0 0 ${width} ${Math.max(1, rows) * rowHeight}`"
      :width="width"
      :height="Math.max(1, rows) * rowHeight"
    >
      <line
        v-for="thread in threads"
        :key="thread.y"
        class="thread"
        x1="0"
        :x2="thread.to"
        :y1="thread.y"
        :y2="thread.y"
      />
      <g
        v-for="bead in placed"
        :key="bead.prospectId"
        class="bead"
        :class="[bead.state, { hand: bead.inHand }]"
        @click="emit('pick', bead.prospectId)"
      >
        <title>{{ bead.title }}</title>
        <circle v-if="bead.inHand" class="ring" :cx="bead.x" :cy="bead.y" :r="radius + (mini ? 1 : 3)" />
        <circle class="body" :cx="bead.x" :cy="bead.y" :r="radius" />
        <path v-if="bead.state === 'message'" class="ink" :d="half(bead.x, bead.y, radius)" />
        <line
          v-if="bead.state === 'tried'"
          class="mark"
          :x1="bead.x - radius * 0.5"
          :x2="bead.x + radius * 0.5"
          :y1="bead.y"
          :y2="bead.y"
        />
        <path v-if="bead.state === 'meeting'" class="flag" :d="flag(bead.x, bead.y, radius)" />
        <path v-if="bead.state === 'skipped'" class="mark" :d="cross(bead.x, bead.y, radius)" />
      </g>
    </svg>
    <span v-if="beads.length > shown.length" class="dim small num">+{{ beads.length - shown.length }}</span>
  </span>
</template>

<style scoped>
.string {
  display: inline-flex;
  align-items: center;
  gap: 6px;
  max-width: 100%;
}
svg {
  max-width: 100%;
  display: block;
}
.thread {
  stroke: var(--line);
  stroke-width: 1.5;
}
.body {
  fill: var(--card);
  stroke: var(--pine);
  stroke-width: 1.4;
}
.reached .body,
.meeting .body,
.message .ink {
  fill: var(--pine);
}
.skipped .body {
  stroke: var(--dim);
}
.mark {
  stroke: var(--dim);
  stroke-width: 1.3;
  fill: none;
}
.tried .mark {
  stroke: var(--pine);
  stroke-width: 1.8;
}
.flag {
  fill: var(--amber);
  stroke: var(--amber);
  stroke-width: 1;
}
.ring {
  fill: none;
  stroke: var(--amber);
  stroke-width: 2;
}
</style>
