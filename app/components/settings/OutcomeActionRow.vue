<script setup lang="ts">
import { CHANNELS, COMPANY_STATUSES, EXIT_REASONS, PHONE_STATUSES, choicesOf } from '#core/enumerations'
import { MARKED, OUTCOME_EXITS, type OutcomeAction } from '#core/engine/state/playbook'
import { blankAction, ACTION_NAMES } from './outcomeActions'

/** One action of an outcome, as a sentence of small choices. */
const action = defineModel<OutcomeAction>({ required: true })
defineProps<{ stages: readonly { id: string; name: string }[]; formError?: string | string[] }>()
const emit = defineEmits<{ remove: [] }>()
const SCOPES = [
  { value: 'cadence', title: 'this cadence' },
  { value: 'all', title: 'every cadence' },
  { value: 'company', title: 'every cadence, with everyone at the company' },
]
const exits = choicesOf(EXIT_REASONS, OUTCOME_EXITS)
const companyStatuses = choicesOf(COMPANY_STATUSES)
const numberStatuses = choicesOf(PHONE_STATUSES, MARKED)
const channels = choicesOf(CHANNELS)
const WHEN = [
  { value: 'always', title: 'always' },
  { value: 'from', title: 'from attempt' },
  { value: 'before', title: 'before attempt' },
]

const when = () => {
  if (action.value.fromAttempt) return 'from'
  return action.value.beforeAttempt ? 'before' : 'always'
}
const attempt = () => action.value.fromAttempt ?? action.value.beforeAttempt ?? 3
function time(which: string, count: number): void {
  const { fromAttempt: _from, beforeAttempt: _before, ...rest } = action.value
  action.value = {
    ...rest,
    ...(which === 'from' && { fromAttempt: count }),
    ...(which === 'before' && { beforeAttempt: count }),
  } as OutcomeAction
}
function become(kind: OutcomeAction['type']): void {
  const { fromAttempt, beforeAttempt } = action.value
  action.value = {
    ...blankAction(kind),
    ...(fromAttempt && { fromAttempt }),
    ...(beforeAttempt && { beforeAttempt }),
  } as OutcomeAction
}
const change = (patch: Partial<Record<string, unknown>>) => {
  action.value = { ...action.value, ...patch } as OutcomeAction
}
</script>

<template>
  <li class="one">
    <div class="row wrap">
      <v-select
        :model-value="action.type"
        :items="ACTION_NAMES"
        label="Action"
        class="what"
        @update:model-value="become"
      />
      <template v-if="action.type === 'exit'">
        <v-select
          :model-value="action.scope"
          :items="SCOPES"
          label="Which"
          class="wide"
          @update:model-value="change({ scope: $event })"
        />
        <v-select
          :model-value="action.as"
          :items="exits"
          label="Exit reason"
          :error-messages="action.as ? '' : 'Choose one'"
          class="mid"
          @update:model-value="change({ as: $event })"
        />
      </template>
      <template v-if="action.type === 'moveStage'">
        <v-select
          :model-value="action.to"
          :items="stages"
          item-value="id"
          item-title="name"
          label="To"
          class="mid"
          @update:model-value="change({ to: $event })"
        />
        <v-select
          :model-value="action.onlyFrom ?? []"
          :items="stages"
          item-value="id"
          item-title="name"
          label="Only from"
          placeholder="anywhere"
          multiple
          class="mid"
          @update:model-value="change({ onlyFrom: $event.length ? $event : undefined })"
        />
        <v-select
          :model-value="action.scope ?? 'person'"
          :items="[
            { value: 'person', title: 'this person' },
            { value: 'company', title: 'everyone there' },
          ]"
          label="Applies to"
          class="mid"
          @update:model-value="change({ scope: $event })"
        />
      </template>
      <v-select
        v-if="action.type === 'setCompanyStatus'"
        :model-value="action.to"
        :items="companyStatuses"
        label="As"
        class="mid"
        @update:model-value="change({ to: $event })"
      />
      <v-select
        v-if="action.type === 'markNumber'"
        :model-value="action.as"
        :items="numberStatuses"
        label="As"
        class="mid"
        @update:model-value="change({ as: $event })"
      />
      <v-select
        v-if="action.type === 'stop'"
        :model-value="action.channel"
        :items="channels"
        label="Stop"
        class="mid"
        @update:model-value="change({ channel: $event })"
      />
      <template v-if="action.type === 'makeTask'">
        <v-text-field
          :model-value="action.title"
          label="Task title"
          class="wide"
          @update:model-value="change({ title: $event })"
        />
        <v-text-field
          :model-value="action.days"
          type="number"
          min="0"
          max="730"
          label="In days"
          class="short"
          @update:model-value="change({ days: Number($event) })"
        />
      </template>
      <v-text-field
        v-if="action.type === 'openDeal'"
        :model-value="action.likelihood"
        type="number"
        min="0"
        max="100"
        label="Likelihood, %"
        class="short"
        @update:model-value="change({ likelihood: Number($event) })"
      />
      <v-select
        :model-value="when()"
        :items="WHEN"
        label="When"
        class="short when"
        @update:model-value="time($event, attempt())"
      />
      <v-text-field
        v-if="when() !== 'always'"
        :model-value="attempt()"
        type="number"
        min="1"
        max="99"
        label="Attempt"
        class="short"
        @update:model-value="time(when(), Number($event))"
      />
      <button type="button" class="link small" @click="emit('remove')">Remove</button>
    </div>
    <p v-if="formError?.length" class="clay small" role="alert">{{ formError }}</p>
  </li>
</template>

<style scoped>
.one {
  padding: 8px 0;
  border-top: 1px solid var(--line);
}
.wrap {
  flex-wrap: wrap;
}
.what {
  flex: 0 0 196px;
}
.wide {
  flex: 2 1 190px;
}
.mid {
  flex: 1 1 112px;
}
.short {
  flex: 0 0 96px;
}
.link {
  margin-left: auto;
}
.clay {
  color: var(--clay-deep);
}
.when {
  flex-basis: 124px;
}
</style>
