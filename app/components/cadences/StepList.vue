<script setup lang="ts">
import { computed } from 'vue'
import { VueDraggable } from 'vue-draggable-plus'
import { rowsOf, stepsOfRows, type StepRow } from '#core/cadence/arrange'
import { lengthInWords, waitInWords } from '#core/cadence/wait'
import type { StepDraft, WayDraft } from '#shared/api/cadences/cadences'
import { useTimes } from '~/composables/times'

/**
 * The steps of a cadence in order, each with its wait, how many are at it, and when it comes; the ways of a branch are
 * set in. Steps are dragged to reorder, onto another way too; branches keep their place.
 */
const steps = defineModel<StepDraft[]>({ required: true })
const selected = defineModel<string | null>('selected', { required: true })
const props = defineProps<{
  /** How many are at each step, by its id. */
  peopleAt: Record<string, number>
  planned: Record<string, { at: number; wayId: string | null }>
  timeZone: string | undefined
  /** For whom it is planned; empty for no one in particular. */
  who: string
  /** A way's condition as a sentence. */
  wayInWords: (way: WayDraft) => string
  /** The way that new steps are added to, where a heading was chosen. */
  target: string | null
  disabled: boolean
}>()
const emit = defineEmits<{ target: [wayId: string] }>()
const times = useTimes()
const rows = computed({
  get: () => rowsOf(steps.value),
  set: (moved: StepRow<StepDraft>[]) => {
    steps.value = stepsOfRows(moved)
  },
})
const numberOf = computed(() => new Map(steps.value.map((step, index) => [step.id, index + 1])))
/** The step before one on the same way. */
const before = (step: StepDraft) => {
  const mates = steps.value.filter((one) => one.wayId === step.wayId)
  return mates[mates.indexOf(step) - 1]
}
/** How long it waits; a branch may go on before. */
const waitOf = ({ wait, endsEarly }: StepDraft) =>
  endsEarly && wait.amount ? `waits up to ${lengthInWords(wait)}` : waitInWords(wait)
const taken = (row: { branch: StepDraft; way: { id: string } }) =>
  props.who !== '' && props.planned[row.branch.id]?.wayId === row.way.id
const wayOf = (row: { branch: StepDraft; way: { id: string } }) => row.branch.ways.find(({ id }) => id === row.way.id)!
</script>

<template>
  <VueDraggable v-model="rows" tag="ol" class="steps" handle=".grip" :disabled="disabled" :animation="120">
    <li
      v-for="row in rows"
      :key="row.key"
      :class="[row.type, { on: row.type === 'step' && row.step.id === selected }]"
      :style="{ marginLeft: `${row.depth * 12}px` }"
    >
      <template v-if="row.type === 'step'">
        <span class="grip" :class="{ fixed: row.step.kind === 'branch' }" aria-hidden="true" title="Drag to reorder"
          >⋮⋮</span
        >
        <button class="plain pick" @click="selected = row.step.id">
          <StepIcon :kind="row.step.kind" :size="16" color="var(--pine)" /><span class="grow"
            ><b class="cut">{{ numberOf.get(row.step.id) }}. {{ row.step.name }}</b
            ><small class="dim num"
              >{{ waitOf(row.step)
              }}<template v-if="row.step.requiresPrevious && before(row.step)">
                · only after “{{ before(row.step)!.name }}”</template
              ><template v-if="peopleAt[row.step.id]"> · {{ peopleAt[row.step.id] }} here</template
              ><template v-if="planned[row.step.id]">
                · {{ times.moment(planned[row.step.id]!.at, timeZone) }}</template
              ></small
            ></span
          >
        </button>
      </template>
      <button
        v-else-if="row.type === 'way'"
        class="plain way"
        :class="{ target: target === row.way.id }"
        :aria-pressed="target === row.way.id"
        :disabled="disabled"
        title="Add steps to this way"
        @click="emit('target', row.way.id)"
      >
        <b>{{ wayOf(row).name }}</b> <span class="dim small">{{ wayInWords(wayOf(row)) }}</span>
        <span v-if="wayOf(row).ends" class="dim small">, then the cadence ends</span>
        <span v-if="taken(row)" class="chip amber">{{ who }} goes here</span>
      </button>
      <span v-else class="dim small">behind “{{ row.branch.name }}”</span>
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
.steps li.way,
.steps li.join {
  border-left: 2px dotted var(--stone);
  padding-left: 8px;
  min-height: 26px;
}
.grip {
  cursor: grab;
  color: var(--bark);
  padding: 10px 8px;
  letter-spacing: -2px;
}
.grip.fixed {
  visibility: hidden;
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
.way {
  flex: 1;
  text-align: left;
  padding: 4px 6px;
  border-radius: 5px;
}
.way.target {
  background: var(--pine-soft);
}
</style>
