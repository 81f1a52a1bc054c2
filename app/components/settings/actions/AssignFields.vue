<script setup lang="ts">
import type { Action } from '#core/actions/registry'
import type { Choice } from './choices'

/** To whom the prospect is assigned. */
const action = defineModel<Action & { type: 'assign' }>({ required: true })
defineProps<{ users: readonly Choice[] }>()
</script>

<template>
  <v-select
    :model-value="action.to"
    :items="[{ value: 'companyOwner', title: 'the company’s owner' }, ...users]"
    label="To"
    class="wide"
    @update:model-value="action = { ...action, to: $event }"
  />
</template>
