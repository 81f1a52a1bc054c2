<script setup lang="ts">
import { reactive, watchEffect } from 'vue'
import type { BulkAction } from '#shared/api/bulk'
import { stages as readStages } from '#shared/api/settings/stages'
import { call } from '~/api/call'
import { useOptions } from '~/composables/options'
import { useSession } from '~/stores/session'

const action = defineModel<BulkAction | null>({ required: true })
const session = useSession()
const given = reactive({ to: null as string | null, reason: '', override: '' })
const stages = useOptions(() => call(readStages).then((answer) => answer.stages.filter((stage) => !stage.archived)))
watchEffect(() => {
  const { to, reason, override } = given
  action.value = to ? { type: 'stage', to, reason: reason.trim() || null, override: override.trim() || null } : null
})
</script>

<template>
  <v-select v-model="given.to" :items="stages" item-value="id" item-title="name" label="Stage" />
  <v-text-field v-model="given.reason" label="Reason" maxlength="500" />
  <v-text-field
    v-if="session.manages"
    v-model="given.override"
    label="Override the gate: reason (optional)"
    maxlength="500"
  />
</template>
