<script setup lang="ts">
import { computed } from 'vue'
import { WAIT_UNITS, choicesOf } from '#core/enumerations'
import { endsAtTime, type Wait } from '#core/cadence/wait'
import { useDayHours } from '~/composables/dayHours'

/** How long a step waits: an amount, its unit, and for days the time of day it ends at. */
const wait = defineModel<Wait>({ required: true })
defineProps<{ label: string; errorMessage: string | undefined }>()
const hours = useDayHours()
const times = computed(() => [{ value: null, title: 'the same time of day' }, ...hours.slice(0, -1)])
function change(changed: Partial<Wait>): void {
  const next = { ...wait.value, ...changed }
  wait.value = { ...next, at: endsAtTime(next.unit) ? (next.at ?? null) : null }
}
</script>

<template>
  <div class="row">
    <v-text-field
      :model-value="wait.amount"
      type="number"
      min="0"
      max="730"
      :label="label"
      :error-messages="errorMessage"
      @update:model-value="change({ amount: Number($event) })"
    />
    <v-select
      :model-value="wait.unit"
      :items="choicesOf(WAIT_UNITS)"
      label="Unit"
      @update:model-value="change({ unit: $event })"
    />
    <v-select
      v-if="endsAtTime(wait.unit)"
      :model-value="wait.at ?? null"
      :items="times"
      label="At"
      @update:model-value="change({ at: $event })"
    />
  </div>
</template>
