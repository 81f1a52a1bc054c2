<script setup lang="ts">
import { computed } from 'vue'
import type { List } from '#shared/api/lists'

/** What stands where people would: why there is nobody, and what to do about it. */
const props = defineProps<{ narrowed: boolean; list: List | null }>()
const text = computed(() => {
  if (props.narrowed) return { label: 'Nobody matches these filters.', next: 'Clear them to see everyone again.' }
  if (!props.list) {
    return { label: 'There is nobody here yet.', next: 'Import a file, or add a person with a name and a number.' }
  }
  const next =
    props.list.kind === 'live'
      ? 'People who match are added on their own.'
      : 'Select people in another list and add them here.'
  return { label: 'Nobody is on this list now.', next }
})
</script>

<template>
  <div class="empty">
    <h2>{{ text.label }}</h2>
    <p class="dim mb-3">{{ text.next }}</p>
    <v-btn v-if="!narrowed && !list" color="primary" to="/imports">Import</v-btn>
  </div>
</template>

<style scoped>
.empty {
  margin: 10vh auto;
  text-align: center;
}
</style>
