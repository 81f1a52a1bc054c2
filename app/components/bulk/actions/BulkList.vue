<script setup lang="ts">
import { ref, watchEffect } from 'vue'
import type { BulkAction } from '#shared/api/bulk'
import { listLists } from '#shared/api/lists'
import { call } from '~/api/call'
import { useOptions } from '~/composables/options'

const action = defineModel<BulkAction | null>({ required: true })
const listId = ref<string | null>(null)
const lists = useOptions(() =>
  call(listLists).then((answer) => answer.lists.filter((list) => list.kind === 'fixed' && list.mayEdit)),
)
watchEffect(() => {
  action.value = listId.value ? { type: 'putOn', listId: listId.value } : null
})
</script>

<template>
  <v-select v-model="listId" :items="lists" item-value="id" item-title="name" label="List" />
</template>
