<script setup lang="ts">
import type { Action } from '#core/actions/registry'
import type { Choice } from './choices'

/** Who is notified. */
const action = defineModel<Action & { type: 'notifyUsers' }>({ required: true })
defineProps<{ users: readonly Choice[] }>()
</script>

<template>
  <v-select
    :model-value="action.users"
    :items="users"
    label="Who"
    multiple
    class="wide"
    @update:model-value="action = { ...action, users: [...$event] }"
  />
</template>
