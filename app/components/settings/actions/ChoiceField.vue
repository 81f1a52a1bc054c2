<script setup lang="ts">
import type { Action } from '#core/actions/registry'
import type { Choice } from './choices'

/** The one choice of an action. */
const action = defineModel<Action>({ required: true })
const props = defineProps<{ field: string; label: string; choices: readonly Choice[] }>()
const value = () => (action.value as unknown as Record<string, string>)[props.field] || null
</script>

<template>
  <v-select
    :model-value="value()"
    :items="choices"
    :label="label"
    no-data-text="There is none yet"
    class="wide"
    @update:model-value="action = { ...action, [field]: $event } as Action"
  />
</template>
