<script setup lang="ts">
import type { Action } from '#core/actions/registry'
import type { Choice } from './choices'

/** To which stage, from which, and whether everyone at the company goes along. */
const action = defineModel<Action & { type: 'moveStage' }>({ required: true })
defineProps<{ stages: readonly Choice[] }>()
const SCOPES = [
  { value: 'person', title: 'this person' },
  { value: 'company', title: 'everyone there' },
]
</script>

<template>
  <v-select
    :model-value="action.to || null"
    :items="stages"
    label="To"
    class="mid"
    @update:model-value="action = { ...action, to: $event }"
  />
  <v-select
    :model-value="action.onlyFrom ?? []"
    :items="stages"
    label="Only from"
    placeholder="anywhere"
    persistent-placeholder
    multiple
    class="mid"
    @update:model-value="action = { ...action, onlyFrom: $event.length ? [...$event] : undefined }"
  />
  <v-select
    :model-value="action.scope ?? 'person'"
    :items="SCOPES"
    label="Applies to"
    class="mid"
    @update:model-value="action = { ...action, scope: $event }"
  />
</template>
