<script setup lang="ts">
import { STEP_KINDS, capitalized, valuesOf, type StepKind } from '#core/enumerations'
import { useCopiedSteps } from './copiedSteps'

/** Adds a step of a kind, or the steps that were copied, here or in another cadence. */
defineProps<{
  /** Where they go: "after “First call”". */
  where: string
}>()
const emit = defineEmits<{ add: [kind: StepKind]; paste: [] }>()
const copied = useCopiedSteps()
const KINDS = valuesOf(STEP_KINDS)
</script>

<template>
  <div class="mt-2">
    <p class="dim small">Add {{ where }}:</p>
    <div class="kinds">
      <v-btn v-for="kind in KINDS" :key="kind" size="small" variant="outlined" @click="emit('add', kind)"
        >+ {{ capitalized(STEP_KINDS[kind]) }}</v-btn
      ><v-btn v-if="copied.length" size="small" variant="tonal" @click="emit('paste')"
        >Paste {{ copied.length === 1 ? `“${copied[0]!.name}”` : `${copied.length} steps` }}</v-btn
      >
    </div>
  </div>
</template>

<style scoped>
.kinds {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  margin-top: 4px;
}
</style>
