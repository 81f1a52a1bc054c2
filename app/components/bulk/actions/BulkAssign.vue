<script setup lang="ts">
import { ref, watchEffect } from 'vue'
import type { BulkAction } from '#shared/api/bulk'
import { listUsers } from '#shared/api/settings/settings'
import { call } from '~/api/call'
import { useOptions } from '~/composables/options'

const action = defineModel<BulkAction | null>({ required: true })
const to = ref<string[]>([])
const apart = ref(false)
const users = useOptions(() => call(listUsers).then((answer) => answer.users.filter((user) => user.active)))
watchEffect(() => {
  action.value = to.value.length ? { type: 'assign', to: to.value, ...(apart.value && { apart: true }) } : null
})
</script>

<template>
  <v-select
    v-model="to"
    :items="users"
    item-value="id"
    item-title="name"
    label="Owner; several take turns"
    multiple
  /><CheckBox v-if="to.length > 1" v-model="apart" label="Companies may be split between them" />
</template>
