<script setup lang="ts">
import { ref, watchEffect } from 'vue'
import { CHANNELS, choicesOf, type Channel } from '#core/enumerations'
import type { BulkAction } from '#shared/api/bulk'

const action = defineModel<BulkAction | null>({ required: true })
const channel = ref<Channel>('all')
watchEffect(() => {
  action.value = { type: 'stop', channel: channel.value }
})
</script>

<template>
  <v-select v-model="channel" :items="choicesOf(CHANNELS)" label="Do not contact by" />
</template>
