<script setup lang="ts">
import { computed } from 'vue'
import type { Action } from '#core/actions/registry'
import { SETTABLE_FIELDS } from '#core/engine/state/settableFields'
import { listFields } from '#shared/api/settings/fields'
import { call } from '~/api/call'
import { useOptions } from '~/composables/options'

/** Which field, and what becomes of it. */
const action = defineModel<Action & { type: 'setField' }>({ required: true })
const custom = useOptions(() => call(listFields).then((answer) => answer.fields.filter((one) => one.of === 'prospect')))
const choices = computed(() => [
  ...Object.entries(SETTABLE_FIELDS).map(([value, title]) => ({ value, title: title as string })),
  ...custom.value.map((one) => ({ value: one.id, title: one.name })),
])
const field = computed(() => custom.value.find((one) => one.id === action.value.fieldId))
const modes = computed(() => [
  { value: 'set', title: 'set' },
  ...(field.value?.kind === 'choices' ? [{ value: 'add', title: 'add to' }] : []),
  { value: 'clear', title: 'clear' },
])
const YES_NO = [
  { value: true, title: 'yes' },
  { value: false, title: 'no' },
]
const change = (patch: object) => {
  action.value = { ...action.value, ...patch }
}
const isNumber = computed(() => field.value?.kind === 'number' || field.value?.kind === 'money')
const inputType = computed(() => {
  if (field.value?.kind === 'date') return 'date'
  return isNumber.value ? 'number' : 'text'
})
const items = computed(() => (field.value?.kind === 'yesNo' ? YES_NO : (field.value?.choices ?? [])))
</script>

<template>
  <v-select
    :model-value="action.fieldId || null"
    :items="choices"
    label="Field"
    class="mid"
    @update:model-value="change({ fieldId: $event, mode: 'set', value: undefined })"
  />
  <v-select
    :model-value="action.mode"
    :items="modes"
    label="Change"
    class="short"
    @update:model-value="change({ mode: $event, ...($event === 'clear' && { value: undefined }) })"
  />
  <template v-if="action.mode !== 'clear' && action.fieldId">
    <v-select
      v-if="items.length"
      :model-value="action.value ?? (field?.kind === 'choices' ? [] : null)"
      :items="items"
      :multiple="field?.kind === 'choices'"
      label="Value"
      class="mid"
      @update:model-value="change({ value: $event })"
    />
    <v-text-field
      v-else
      :model-value="action.value"
      :type="inputType"
      label="Value"
      class="mid"
      @update:model-value="change({ value: isNumber && $event !== '' ? Number($event) : $event })"
    />
  </template>
</template>
