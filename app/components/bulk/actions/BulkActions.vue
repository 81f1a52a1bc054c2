<script setup lang="ts">
import { shallowRef, watch } from 'vue'
import { FORM_ACTIONS, type Action } from '#core/actions/registry'
import type { BulkAction } from '#shared/api/bulk'

/** Actions as outcomes and forms have them, done one after the other with everyone. */
const action = defineModel<BulkAction | null>({ required: true })
const actions = shallowRef<Action[]>([])
watch(actions, (now) => {
  action.value = now.length ? { type: 'actions', actions: now } : null
})
</script>

<template>
  <ActionList
    v-model="actions"
    title="What is done with each"
    none="Add what is to be done, in order."
    field="action.actions"
    :form-error="null"
    :also="FORM_ACTIONS"
  />
</template>
