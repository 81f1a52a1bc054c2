<script setup lang="ts">
import type { Action } from '#core/actions/registry'
import { TASKS_MADE } from '#core/actions/followUp/makeTask'
import { choicesOf } from '#core/enumerations'
import type { Choice } from './choices'

/** What is put on whose Desk, and when. */
const action = defineModel<Action & { type: 'makeTask' }>({ required: true })
defineProps<{ owners: readonly Choice[] }>()
</script>

<template>
  <v-select
    :model-value="action.task"
    :items="choicesOf(TASKS_MADE)"
    label="What"
    class="mid"
    @update:model-value="action = { ...action, task: $event }"
  />
  <v-text-field
    :model-value="action.title"
    label="Task title"
    maxlength="200"
    class="wide"
    @update:model-value="action = { ...action, title: $event }"
  />
  <WaitFields v-model="action.wait" label="Due in" />
  <v-select
    :model-value="action.whose"
    :items="owners"
    label="For"
    class="mid"
    @update:model-value="action = { ...action, whose: $event }"
  />
</template>
