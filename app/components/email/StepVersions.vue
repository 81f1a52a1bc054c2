<script setup lang="ts">
import { computed } from 'vue'
import { MOST_VERSIONS, versionName } from '#core/cadence/versions'
import type { StepDraft } from '#shared/api/cadences/cadences'
import { newId } from '#shared/newId'

/** The versions of an email, tried side by side: which one is shown, how many get each, one more or one less. */
const props = defineProps<{ step: StepDraft; editable: boolean; errorAt: (field: string) => string | undefined }>()
const emit = defineEmits<{ change: [changed: Partial<StepDraft>] }>()
/** The place of the version that is shown: 0 is the step’s own text. */
const shown = defineModel<number>({ required: true })
const weights = computed(() => [props.step.weight, ...props.step.versions.map(({ weight }) => weight)])
const total = computed(() => weights.value.reduce((sum, weight) => sum + weight, 0))
const shareOf = (weight: number) => (total.value ? `${Math.round((weight / total.value) * 100)}%` : 'nobody')
function add(): void {
  const { subject, body, html, versions } = props.step
  emit('change', { versions: [...versions, { id: newId(), weight: 1, subject, body, html }] })
  shown.value = versions.length + 1
}
function remove(): void {
  const index = shown.value - 1
  shown.value = 0
  emit('change', { versions: props.step.versions.filter((_, place) => place !== index) })
}
const weight = computed({
  get: () => String(weights.value[shown.value] ?? 0),
  set: (text) => {
    const next = Math.max(0, Math.min(100, Math.round(Number(text) || 0)))
    if (shown.value === 0) emit('change', { weight: next })
    else {
      const versions = props.step.versions.map((one, place) =>
        place === shown.value - 1 ? { ...one, weight: next } : one,
      )
      emit('change', { versions })
    }
  },
})
const faulty = (index: number) =>
  ['subject', 'body'].some((field) => props.errorAt(index ? `versions.${index - 1}.${field}` : field))
</script>

<template>
  <div v-if="step.versions.length || editable" class="versions">
    <template v-if="step.versions.length">
      <div class="row" role="group" aria-label="Versions">
        <button
          v-for="(one, index) in weights"
          :key="index"
          type="button"
          class="plain chip"
          :class="{ amber: shown === index, clay: faulty(index) }"
          :aria-pressed="shown === index"
          @click="shown = index"
        >
          Version {{ versionName(index) }} <span class="num">{{ shareOf(one) }}</span>
        </button>
        <button v-if="editable && weights.length < MOST_VERSIONS" type="button" class="link small" @click="add">
          Add a version
        </button>
      </div>
      <div v-if="editable" class="row">
        <v-text-field
          v-model="weight"
          type="number"
          min="0"
          max="100"
          :label="`Weight of version ${versionName(shown)}`"
          :error-messages="errorAt('weight')"
          class="weight"
        />
        <button v-if="shown > 0" type="button" class="link small" @click="remove">
          Delete version {{ versionName(shown) }}
        </button>
      </div>
      <p class="dim small">
        Each prospect is given one version at random and keeps it. The numbers of each are under Results.
      </p>
    </template>
    <button v-else type="button" class="link small" @click="add">Try another version beside it (A/B test)</button>
  </div>
</template>

<style scoped>
.versions {
  display: grid;
  gap: 6px;
  justify-items: start;
}
.row {
  gap: 8px 12px;
  align-items: end;
}
.weight {
  width: 190px;
}
</style>
