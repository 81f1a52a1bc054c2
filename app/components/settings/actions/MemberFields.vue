<script setup lang="ts">
import type { Action } from '#core/actions/registry'
import type { Choice } from './choices'

/** Whether something is added or removed, and what: a tag, a list. */
const action = defineModel<Action & { type: 'changeTag' | 'changeList' }>({ required: true })
defineProps<{ field: string; label: string; choices: readonly Choice[] }>()
const ON = [
  { value: true, title: 'add' },
  { value: false, title: 'remove' },
]
</script>

<template>
  <v-select
    :model-value="action.on"
    :items="ON"
    label="Add or remove"
    class="mid"
    @update:model-value="action = { ...action, on: $event }"
  />
  <ChoiceField v-model="action" :field="field" :label="label" :choices="choices" />
</template>
