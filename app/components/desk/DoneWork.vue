<script setup lang="ts">
import { computed } from 'vue'
import type { Brief } from '#shared/api/desk/desk'
import { DONE_LABELS } from './keyLabels'

/** Work that is done without a call: ticked off as such, or with one of the outcomes below. */
const props = defineProps<{ brief: Brief }>()
const emit = defineEmits<{ done: [] }>()
/** What is written and sent comes first; that it is done without that is second. */
const second = computed(() => {
  const kind = props.brief.task?.kind ?? ''
  return ['email', 'reply'].includes(kind) || (kind === 'text' && props.brief.textGateway)
})
const heading = computed(() => {
  if (props.brief.work === 'call') return `What came of the call with ${props.brief.prospect.firstName}:`
  if (!props.brief.outcomes.length) return 'After a call, its outcomes are here.'
  return props.brief.work === 'reply' ? 'Or log what came of it:' : 'Or mark it done with an outcome:'
})
</script>

<template>
  <div class="mb-2">
    <v-btn
      v-if="brief.work !== 'call'"
      :color="second ? undefined : 'primary'"
      :variant="second ? 'outlined' : 'flat'"
      block
      @click="emit('done')"
      >{{ DONE_LABELS[brief.task?.kind ?? ''] }} <kbd class="ml-2">D</kbd></v-btn
    >
    <p class="dim small" :class="{ 'mt-3': brief.work !== 'call' }">{{ heading }}</p>
  </div>
</template>
