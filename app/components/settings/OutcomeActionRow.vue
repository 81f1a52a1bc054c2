<script setup lang="ts">
import { computed } from 'vue'
import { ACTIONS, ACTION_TYPES, type Action, type ActionType } from '#core/actions/registry'
import type { ActionNames } from '#core/actions/kind/define'
import type { Wait } from '#core/cadence/wait'
import type { Field } from '#core/filter/fields'
import { normalize } from '#core/filter/filter'
import { ACTION_FORMS, blankAction } from './actions/actionForms'
import { inOrder, namedChoices } from './actions/choices'

/** One action of an outcome, as a sentence of small choices: what it does, then when. */
const action = defineModel<Action>({ required: true })
const props = defineProps<{
  names: ActionNames
  fields: readonly Field[]
  formError?: readonly string[]
  /** For actions that belong to no call: those that need one, and conditions about it, are not offered. */
  withoutCall?: boolean
  /** Offered all the same. */ also?: readonly ActionType[]
}>()
const emit = defineEmits<{ remove: []; up: []; down: [] }>()

const types = computed(() =>
  ACTION_TYPES.filter((type) => !props.withoutCall || ACTIONS[type]!.mayWait || props.also?.includes(type)).map(
    (type) => ({
      value: type,
      title: ACTIONS[type]!.label,
    }),
  ),
)
const form = computed(() => ACTION_FORMS[action.value.type])
const mayWait = computed(() => ACTIONS[action.value.type]!.mayWait)
const CONDITIONS = [
  { value: 'always', title: 'always' },
  { value: 'from', title: 'from attempt' },
  { value: 'before', title: 'before attempt' },
  { value: 'stages', title: 'only in stages' },
  { value: 'cadences', title: 'only in cadences' },
  { value: 'none', title: 'only in no cadence' },
  { value: 'where', title: 'only if' },
]
const condition = computed(() => {
  const { fromAttempt, beforeAttempt, inStages, inCadences, noCadence, where } = action.value
  if (where) return 'where'
  if (noCadence) return 'none'
  if (fromAttempt) return 'from'
  if (beforeAttempt) return 'before'
  if (inStages) return 'stages'
  return inCadences ? 'cadences' : 'always'
})
const attempt = computed(() => action.value.fromAttempt ?? action.value.beforeAttempt ?? 3)
const stages = computed(() => inOrder(props.names.stages))
const change = (patch: object) => {
  action.value = { ...action.value, ...patch } as Action
}
/** Makes one condition hold, with its value; those there were are off. */
function setCondition(which: string, count: number): void {
  change({
    fromAttempt: which === 'from' ? count : undefined,
    beforeAttempt: which === 'before' ? count : undefined,
    inStages: which === 'stages' ? [] : undefined,
    inCadences: which === 'cadences' ? [] : undefined,
    noCadence: which === 'none' ? true : undefined,
    where: which === 'where' ? normalize({ all: [] }) : undefined,
  })
}
function setType(type: ActionType): void {
  const { fromAttempt, beforeAttempt, inStages, inCadences, noCadence, where } = action.value
  const terms = { fromAttempt, beforeAttempt, inStages, inCadences, noCadence, where }
  action.value = { ...blankAction(type), ...terms } as Action
}
const DELAYS = [
  { value: false, title: 'at once' },
  { value: true, title: 'later' },
]
const setDelay = (later: boolean) => change({ after: later ? { amount: 2, unit: 'hours' } : undefined })
</script>

<template>
  <li class="one">
    <div class="row wrap">
      <v-select :model-value="action.type" :items="types" label="Action" class="what" @update:model-value="setType" />
      <component :is="form.fields" v-if="form.fields" v-model="action" v-bind="form.props?.(names) ?? {}" />
    </div>
    <div class="row wrap">
      <template v-if="mayWait">
        <v-select
          :model-value="action.after !== undefined"
          :items="DELAYS"
          label="Starts"
          class="short"
          @update:model-value="setDelay($event)"
        />
        <WaitFields
          v-if="action.after"
          :model-value="action.after"
          label="After"
          :min="1"
          @update:model-value="change({ after: $event as Wait })"
        />
      </template>
      <v-select
        :model-value="condition"
        :items="
          withoutCall
            ? CONDITIONS.filter(({ value }) => ['always', 'stages', 'none', 'where'].includes(value))
            : CONDITIONS
        "
        label="When"
        class="mid"
        @update:model-value="setCondition($event, attempt)"
      />
      <v-text-field
        v-if="condition === 'from' || condition === 'before'"
        :model-value="attempt"
        type="number"
        min="1"
        max="99"
        label="Attempt"
        class="short"
        @update:model-value="setCondition(condition, Number($event))"
      />
      <v-select
        v-if="condition === 'stages'"
        :model-value="action.inStages"
        :items="stages"
        multiple
        label="Stages"
        class="wide"
        @update:model-value="change({ inStages: [...$event] })"
      />
      <v-select
        v-if="condition === 'cadences'"
        :model-value="action.inCadences"
        :items="namedChoices(names.cadences)"
        multiple
        label="Cadences"
        class="wide"
        @update:model-value="change({ inCadences: [...$event] })"
      />
      <span class="links">
        <button type="button" class="link small" aria-label="Move this action up" @click="emit('up')">Up</button>
        <button type="button" class="link small" aria-label="Move this action down" @click="emit('down')">Down</button>
        <button type="button" class="link small" @click="emit('remove')">Remove</button>
      </span>
    </div>
    <div v-if="action.where" class="row where">
      <span class="dim">{{ action.after ? 'if then' : 'if' }}</span>
      <FilterSentence
        :model-value="action.where"
        :fields="fields"
        class="grow"
        @update:model-value="change({ where: $event })"
      />
    </div>
    <p v-if="formError?.length" class="clay small" role="alert">{{ formError.join('. ') }}</p>
  </li>
</template>

<style scoped>
.one {
  display: grid;
  gap: 8px;
  padding: 10px 0;
  border-top: 1px solid var(--line);
}
.wrap {
  flex-wrap: wrap;
}
.what {
  flex: 0 0 216px;
}
.one :deep(.wide) {
  flex: 2 1 190px;
}
.one :deep(.mid) {
  flex: 1 1 112px;
  max-width: 240px;
}
.one :deep(.short) {
  flex: 0 0 96px;
}
.where {
  align-items: baseline;
}
.links {
  margin-left: auto;
  display: flex;
  gap: 8px;
}
.clay {
  color: var(--clay-deep);
}
</style>
