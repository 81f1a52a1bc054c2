<script setup lang="ts">
import { BLOCK_STATES, type BlockState } from '#core/enumerations'

/** What each kind of bead stands for. */
const states = Object.entries(BLOCK_STATES) as [BlockState, string][]
const bead = (state: BlockState) => [
  { prospectId: state, name: '', state, callerId: null, inHand: false, dialer: null, open: false },
]
</script>

<template>
  <p class="legend dim small">
    <span v-for="[state, label] in states" :key="state"
      ><BeadString :beads="bead(state)" label="" mini aria-hidden="true" />{{ label }}</span
    >
  </p>
</template>

<style scoped>
.legend {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
}
.legend > span {
  display: inline-flex;
  align-items: center;
  gap: 4px;
}
</style>
