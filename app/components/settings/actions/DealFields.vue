<script setup lang="ts">
import type { Action } from '#core/actions/registry'

/** How likely the deal is. */
const action = defineModel<Action & { type: 'openDeal' }>({ required: true })
</script>

<template>
  <v-text-field
    :model-value="action.likelihood"
    type="number"
    min="0"
    max="100"
    label="Likelihood, %"
    class="short"
    @update:model-value="action = { ...action, likelihood: Number($event) }"
  />
</template>
