<script setup lang="ts">
import { computed } from 'vue'
import type { Cadence } from '#shared/api/cadences/cadences'

/** What kind of cadence it is and what for; of a rep’s own, whether the team shares it. */
const cadence = defineModel<Cadence>({ required: true })
defineProps<{ readonly: boolean }>()
const field = <K extends 'category' | 'description' | 'shared'>(key: K) =>
  computed({
    get: () => cadence.value[key],
    set: (value) => {
      cadence.value = { ...cadence.value, [key]: value }
    },
  })
const [category, description, shared] = [field('category'), field('description'), field('shared')]
</script>

<template>
  <div v-if="!readonly || description || category" class="row">
    <v-text-field v-model="category" label="Category" maxlength="60" :readonly="readonly" class="category" />
    <v-text-field v-model="description" label="What it is for" maxlength="2000" :readonly="readonly" />
    <CheckBox v-model="shared" label="Shared with the team" :readonly="readonly" class="shared" />
  </div>
</template>

<style scoped>
.category {
  flex: 0 0 180px;
}
.shared {
  flex: none;
}
@media (max-width: 760px) {
  .row {
    flex-wrap: wrap;
  }
}
</style>
