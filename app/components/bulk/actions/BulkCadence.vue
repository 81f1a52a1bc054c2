<script setup lang="ts">
import { computed, ref, watchEffect } from 'vue'
import type { BulkAction } from '#shared/api/bulk'
import { listCadences } from '#shared/api/cadences/cadences'
import { call } from '~/api/call'
import { useOptions } from '~/composables/options'

const action = defineModel<BulkAction | null>({ required: true })
const props = defineProps<{ type: 'enroll' | 'leaveCadences' }>()
const cadenceId = ref<string | null>(null)
const active = useOptions(() =>
  call(listCadences).then((answer) => answer.cadences.filter((one) => one.status === 'active')),
)
const choices = computed(() => [
  ...(props.type === 'leaveCadences' ? [{ id: null, name: 'All cadences' }] : []),
  ...active.value,
])
watchEffect(() => {
  const { type } = props
  if (type === 'leaveCadences') action.value = { type, cadenceId: cadenceId.value }
  else action.value = cadenceId.value ? { type, cadenceId: cadenceId.value } : null
})
</script>

<template>
  <v-select v-model="cadenceId" :items="choices" item-value="id" item-title="name" label="Cadence" />
</template>
