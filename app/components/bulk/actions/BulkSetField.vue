<script setup lang="ts">
import { computed, ref, watch, watchEffect } from 'vue'
import type { BulkAction } from '#shared/api/bulk'
import { listFields } from '#shared/api/settings/fields'
import { call } from '~/api/call'
import { useOptions } from '~/composables/options'

const action = defineModel<BulkAction | null>({ required: true })
const key = ref('source')
const value = ref<string | string[]>('')
const custom = useOptions(() => call(listFields).then((answer) => answer.fields.filter((one) => one.of === 'prospect')))
const field = computed(() => custom.value.find((one) => `custom:${one.id}` === key.value))
const choices = computed(() => [
  { value: 'source', title: 'Source' },
  { value: 'title', title: 'Job title' },
  { value: 'city', title: 'City' },
  { value: 'region', title: 'State or region' },
  { value: 'postalCode', title: 'Postal code' },
  { value: 'country', title: 'Country' },
  { value: 'timeZone', title: 'Time zone' },
  ...custom.value.map((one) => ({ value: `custom:${one.id}`, title: one.name })),
])
const hint = computed(() =>
  key.value === 'country'
    ? 'A name or two letters. Time zones follow, except those set by hand'
    : 'Leave it empty to clear the field',
)
watch(key, () => {
  value.value = field.value?.kind === 'choices' ? [] : ''
})
watchEffect(() => {
  action.value = { type: 'setField', field: key.value as 'source', value: value.value?.length ? value.value : null }
})
</script>

<template>
  <v-select v-model="key" :items="choices" label="Field" />
  <v-select
    v-if="field?.choices.length"
    v-model="value"
    :items="field.choices"
    :multiple="field.kind === 'choices'"
    label="Value"
    clearable
    hint="Leave it empty to clear the field"
    persistent-hint
  />
  <ZoneField
    v-else-if="key === 'timeZone'"
    v-model="value as string"
    label="Value"
    clearable
    hint="Empty: by address, then number"
    persistent-hint
  />
  <v-text-field
    v-else
    v-model="value as string"
    label="Value"
    :type="field?.kind === 'date' ? 'date' : 'text'"
    :hint="hint"
    persistent-hint
  />
</template>
