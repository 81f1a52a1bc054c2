<script setup lang="ts">
import { ref, watchEffect } from 'vue'
import { RATINGS, choicesOf } from '#core/enumerations'
import type { BulkAction } from '#shared/api/bulk'
import type { RatingGiven } from '#shared/api/prospects'

const action = defineModel<BulkAction | null>({ required: true })
const rating = ref<RatingGiven>('warm')
const choices = [...choicesOf(RATINGS), { value: null, title: 'none' }, { value: 'score', title: 'by score' }]
watchEffect(() => {
  action.value = { type: 'rate', rating: rating.value }
})
</script>

<template>
  <v-select v-model="rating" label="Rating" :items="choices" />
</template>
