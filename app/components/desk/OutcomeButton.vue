<script setup lang="ts">
import { computed, ref } from 'vue'
import { keyShown } from '#core/queue/outcomeKey'
import type { OutcomeChoice } from '#shared/api/desk/desk'

/**
 * An outcome with its key and what it will do: on as many lines as that needs, tight on two, tightest on one; then with
 * the whole sentence beside the pointer.
 */
const props = defineProps<{
  outcome: OutcomeChoice
  density: '' | 'tight' | 'tight tightest'
  expanded: boolean | undefined
}>()
const emit = defineEmits<{ pick: [] }>()
const shown = ref(false)
const sentence = computed(() => props.outcome.blocked ?? props.outcome.summary)
</script>

<template>
  <button
    class="plain head"
    :class="density"
    :aria-expanded="expanded"
    :disabled="Boolean(outcome.blocked)"
    @click="emit('pick')"
    @pointerenter="shown = true"
    @pointerleave="shown = false"
    @focus="shown = true"
    @blur="shown = false"
  >
    <kbd>{{ keyShown(outcome.key) || '·' }}</kbd>
    <span
      ><b>{{ outcome.name }}</b
      ><small>{{ sentence }}</small></span
    >
    <v-tooltip
      v-if="density && shown"
      :model-value="true"
      activator="parent"
      location="start"
      max-width="320"
      :text="sentence"
    />
  </button>
</template>

<style scoped>
.head {
  display: grid;
  grid-template-columns: 30px 1fr;
  gap: 8px;
  padding: 4px 9px;
  width: 100%;
  align-items: start;
}
.head:hover:not(:disabled) {
  background: var(--pine-soft);
  border-radius: 6px;
}
.head:disabled b {
  color: var(--dim);
  font-weight: 500;
}
b {
  font-weight: 600;
}
small {
  display: block;
  color: var(--dim);
  line-height: 1.25;
}
kbd {
  white-space: nowrap;
  justify-self: start;
}
.tight {
  padding: 0 9px;
  align-items: center;
}
.tight b {
  display: block;
  font-size: 13px;
  line-height: 15px;
}
.tight span {
  min-width: 0;
}
.tight small {
  font-size: 12px;
  line-height: 14px;
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
}
.tightest {
  min-height: 23px;
}
.tightest span {
  display: flex;
  gap: 7px;
  align-items: baseline;
}
.tightest b {
  flex: 0 1 auto;
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
}
.tightest small {
  flex: 1 1 60px;
}
</style>
