<script setup lang="ts">
import { computed, ref, watchEffect } from 'vue'
import { PROSPECT_STATUSES, choicesOf, type ProspectStatus } from '#core/enumerations'
import type { BulkAction } from '#shared/api/bulk'
import { useSession } from '~/stores/session'

const action = defineModel<BulkAction | null>({ required: true })
const session = useSession()
const status = ref<ProspectStatus>('paused')
const reason = ref('')
const choices = computed(() =>
  choicesOf(PROSPECT_STATUSES).filter(({ value }) => value !== 'archived' || session.manages),
)
watchEffect(() => {
  if (status.value !== 'archived') action.value = { type: 'work', status: status.value }
  else action.value = reason.value.trim() ? { type: 'work', status: 'archived', reason: reason.value.trim() } : null
})
</script>

<template>
  <v-select v-model="status" label="Status" :items="choices" />
  <v-text-field v-if="status === 'archived'" v-model="reason" label="Why" maxlength="500" />
</template>
