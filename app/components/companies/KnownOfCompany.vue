<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'
import type { z } from 'zod'
import { listFields, type CustomField } from '#shared/api/settings/fields'
import { editCompany, type getCompany } from '#shared/api/companies'
import { call } from '~/api/call'
import { ownFacts, type Fact } from '../fields/facts'

/** What is known of a company, custom fields included. */
const props = defineProps<{ id: string; company: z.output<typeof getCompany.response> }>()
const emit = defineEmits<{ changed: [] }>()
const own = ref<CustomField[]>([])
onMounted(async () => {
  own.value = await call(listFields).then(
    ({ fields }) => fields.filter((field) => field.of === 'company'),
    () => [],
  )
})
const text = (key: 'industry' | 'city' | 'region' | 'country', label: string): Fact => ({
  key,
  label,
  kind: 'text',
  shown: props.company[key] ?? '',
  raw: props.company[key] ?? '',
  body: (value) => ({ [key]: (key === 'country' ? String(value).toUpperCase() : value) || null }),
})
const facts = computed<Fact[]>(() => [
  text('industry', 'Industry'),
  {
    key: 'size',
    label: 'Size',
    kind: 'number',
    shown:
      props.company.size === null
        ? ''
        : `${props.company.size.toLocaleString('en-US')} ${props.company.size === 1 ? 'person' : 'people'}`,
    raw: String(props.company.size ?? ''),
    body: (value) => ({ size: value === '' ? null : Number(value) }),
  },
  text('city', 'City'),
  text('region', 'Region'),
  text('country', 'Country'),
  ...ownFacts(own.value, props.company.custom),
])
async function save(body: object): Promise<void> {
  await call(editCompany, { params: { id: props.id }, body: { version: props.company.version, ...body } })
  emit('changed')
}
</script>

<template>
  <FactSheet :facts="facts" :save="save" @stale="emit('changed')" />
</template>
