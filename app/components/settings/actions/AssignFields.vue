<script setup lang="ts">
import { computed } from 'vue'
import type { Action } from '#core/actions/registry'
import type { Choice } from './choices'

/** To whom the prospect is assigned: to one user, to several in turn, or to the company's owner. */
const action = defineModel<Action & { type: 'assign' }>({ required: true })
const props = defineProps<{ users: readonly Choice[] }>()
const SEVERAL = 'several'
const several = computed(() => (typeof action.value.to === 'string' ? null : action.value.to))
const choices = computed(() => [
  { value: 'companyOwner', title: 'the company’s owner' },
  { value: SEVERAL, title: 'several users, in turn' },
  ...props.users,
])
function choose(to: unknown): void {
  action.value = { ...action.value, to: to === SEVERAL ? [] : (to as string) }
}
</script>

<template>
  <v-select
    :model-value="several ? SEVERAL : action.to"
    :items="choices"
    label="To"
    class="mid"
    @update:model-value="choose"
  />
  <v-select
    v-if="several"
    :model-value="several"
    :items="users"
    label="Users"
    multiple
    class="wide"
    @update:model-value="action = { ...action, to: [...$event] }"
  />
</template>
