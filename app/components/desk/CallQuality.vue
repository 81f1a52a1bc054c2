<script lang="ts">
/** How a call went, as far as the rep said. */
export interface Quality {
  quality?: string
  succeeded?: boolean
}
</script>

<script setup lang="ts">
import { computed } from 'vue'
import { useSession } from '~/stores/session'

/** How the call went, in one of the team's words, and whether it succeeded: both may be left open. */
const said = defineModel<Quality>({ required: true })
const words = computed(() => useSession().team.callQualities)
function choose(word: string): void {
  const { quality, ...rest } = said.value
  said.value = quality === word ? rest : { ...rest, quality: word }
}
function setSucceeded(now: boolean): void {
  const { succeeded: _succeeded, ...rest } = said.value
  said.value = now ? { ...rest, succeeded: true } : rest
}
defineExpose({
  /** Takes the next word, and none after the last. */
  cycle(): void {
    const { quality, ...rest } = said.value
    const next = words.value[quality ? words.value.indexOf(quality) + 1 : 0]
    said.value = next ? { ...rest, quality: next } : rest
  },
})
</script>

<template>
  <div v-if="words.length" class="row wrap went" role="group" aria-label="How it went">
    <span class="dim small">How it went <slot /></span>
    <button
      v-for="word in words"
      :key="word"
      type="button"
      class="plain chip"
      :aria-pressed="said.quality === word"
      @click="choose(word)"
    >
      {{ word }}
    </button>
    <label class="dim small"
      ><input
        type="checkbox"
        :checked="said.succeeded === true"
        @change="setSucceeded(($event.target as HTMLInputElement).checked)"
      />
      Succeeded</label
    >
    <span class="sr" aria-live="polite">{{ said.quality ?? '' }}</span>
  </div>
</template>

<style scoped>
.went {
  flex-wrap: wrap;
  gap: 6px;
}
.chip {
  padding: 2px 8px;
}
.chip[aria-pressed='true'] {
  background: var(--pine-soft);
  border-color: var(--pine);
}
label {
  display: inline-flex;
  gap: 5px;
  align-items: center;
  min-height: 24px;
  margin-left: 6px;
}
</style>
