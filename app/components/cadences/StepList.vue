<script setup lang="ts">
import { VueDraggable } from 'vue-draggable-plus'
import { waitInWords } from '#core/cadence/wait'
import type { StepDraft } from '#shared/api/cadences'
import { useTimes } from '~/composables/times'

/** The steps of a cadence in order, each with its wait, how many are at it, and when it comes; dragged to reorder. */
const steps = defineModel<StepDraft[]>({ required: true })
const selected = defineModel<string | null>('selected', { required: true })
defineProps<{
  /** How many are at each step, by its id. */
  peopleAt: Record<string, number>
  planned: Record<string, { at: number }>
  timeZone: string | undefined
  disabled: boolean
}>()
const times = useTimes()
</script>

<template>
  <VueDraggable v-model="steps" tag="ol" class="steps" handle=".grip" :disabled="disabled" :animation="120">
    <li v-for="(one, index) in steps" :key="one.id" :class="{ on: one.id === selected }">
      <span class="grip" aria-hidden="true" title="Drag to reorder">⋮⋮</span>
      <button class="plain pick" @click="selected = one.id">
        <StepIcon :kind="one.kind" :size="16" color="var(--pine)" /><span class="grow"
          ><b class="cut">{{ index + 1 }}. {{ one.name }}</b
          ><small class="dim num"
            >{{ waitInWords(one.wait)
            }}<template v-if="index > 0 && one.requiresPrevious"> · only after “{{ steps[index - 1]!.name }}”</template
            ><template v-if="peopleAt[one.id]"> · {{ peopleAt[one.id] }} here</template
            ><template v-if="planned[one.id]"> · {{ times.moment(planned[one.id]!.at, timeZone) }}</template></small
          ></span
        >
      </button>
    </li>
  </VueDraggable>
</template>

<style scoped>
.steps {
  list-style: none;
  padding: 0;
  margin: 0;
}
.steps li {
  display: flex;
  align-items: center;
  border-top: 1px solid var(--line);
}
.steps li.on {
  background: var(--card);
  box-shadow: inset 3px 0 var(--amber);
}
.grip {
  cursor: grab;
  color: var(--bark);
  padding: 10px 8px;
  letter-spacing: -2px;
}
.pick {
  display: flex;
  gap: 8px;
  align-items: center;
  padding: 6px 8px 6px 0;
  flex: 1;
  min-width: 0;
}
.pick small {
  display: block;
}
</style>
