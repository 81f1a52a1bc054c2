<script setup lang="ts">
import type { Action } from '#core/actions/registry'

/** How long a cadence rests. */
const action = defineModel<Action & { type: 'pauseCadence' }>({ required: true })
</script>

<template>
  <WaitFields v-model="action.wait" label="At least" :min="1" />
</template>
