<script setup lang="ts">
import { OUTCOME_EXITS } from '#core/actions/cadence/exit'
import type { Action } from '#core/actions/registry'
import { EXIT_REASONS, choicesOf } from '#core/enumerations'

/** Which cadences are left, and why. */
const action = defineModel<Action & { type: 'exit' }>({ required: true })
const SCOPES = [
  { value: 'cadence', title: 'this cadence' },
  { value: 'all', title: 'every cadence' },
  { value: 'company', title: 'every cadence, with everyone at the company' },
]
</script>

<template>
  <v-select
    :model-value="action.scope"
    :items="SCOPES"
    label="Which"
    class="wide"
    @update:model-value="action = { ...action, scope: $event }"
  />
  <v-select
    :model-value="action.as"
    :items="choicesOf(EXIT_REASONS, OUTCOME_EXITS)"
    label="Exit reason"
    :error-messages="action.as ? '' : 'Choose one'"
    class="mid"
    @update:model-value="action = { ...action, as: $event }"
  />
</template>
