<script setup lang="ts">
import { reactive, watchEffect } from 'vue'
import type { BulkAction } from '#shared/api/bulk'
import { listUsers } from '#shared/api/settings/settings'
import { call } from '~/api/call'
import { useOptions } from '~/composables/options'

const action = defineModel<BulkAction | null>({ required: true })
const given = reactive({
  task: 'call' as 'call' | 'task',
  title: '',
  at: null as number | null,
  ownerId: null as string | null,
})
const users = useOptions(() => call(listUsers).then((answer) => answer.users.filter((user) => user.active)))
watchEffect(() => {
  const { task, at, ownerId } = given
  const title = given.title.trim()
  action.value = title && at !== null ? { type: 'plan', task, title, dueAt: at, ownerId } : null
})
</script>

<template>
  <div class="pair">
    <v-select
      v-model="given.task"
      :items="[
        { value: 'call', title: 'A call' },
        { value: 'task', title: 'A task' },
      ]"
      label="Type"
    /><v-select
      v-model="given.ownerId"
      :items="[{ id: null, name: 'Each one’s own owner' }, ...users]"
      item-value="id"
      item-title="name"
      label="Assign to"
    />
  </div>
  <v-text-field v-model="given.title" label="Title" maxlength="200" />
  <WhenField v-model="given.at" kind="task" :prospect-id="null" :time-zone="null" />
</template>

<style scoped>
.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px;
}
</style>
