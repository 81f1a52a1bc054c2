<script setup lang="ts">
import type { Wait } from '#core/cadence/wait'
import { WAIT_UNITS, choicesOf } from '#core/enumerations'

/** A length of time: a number and its unit. */
const wait = defineModel<Wait>({ required: true })
const { min = 0 } = defineProps<{ label: string; min?: number }>()
</script>

<template>
  <v-text-field
    :model-value="wait.amount"
    type="number"
    :min="min"
    :label="label"
    class="short"
    @update:model-value="wait = { ...wait, amount: Number($event) }"
  />
  <v-select
    :model-value="wait.unit"
    :items="choicesOf(WAIT_UNITS)"
    label="Unit"
    class="mid"
    @update:model-value="wait = { ...wait, unit: $event }"
  />
</template>
