<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'
import { listFields, type CustomField } from '#shared/api/fields'
import { editDeal, type Prospect } from '#shared/api/prospects'
import { call } from '~/composables/api'
import { ownFacts, valueInWords, type Fact } from './facts'

/** A deal with what is known of it: value and the team's own fields, changed where they stand. */
const props = defineProps<{ deal: Prospect['deals'][number] }>()
const emit = defineEmits<{ changed: [] }>()
const own = ref<CustomField[]>([])
onMounted(async () => { own.value = await call(listFields).then(({ fields }) => fields.filter(field => field.of === 'deal'), () => []) })
const facts = computed<Fact[]>(() => [
  { key: `${props.deal.id}-state`, says: 'Stands', kind: 'text', shown: `${props.deal.state}, ${props.deal.likelihood} %`, raw: '', fixed: true, body: () => ({}) },
  { key: `${props.deal.id}-name`, says: 'Name', kind: 'text', shown: props.deal.name, raw: props.deal.name, always: true, body: value => ({ name: value }) },
  { key: `${props.deal.id}-value`, says: 'Value', kind: 'money', shown: valueInWords({ kind: 'money' }, props.deal.value), raw: String(props.deal.value ?? ''), body: value => ({ value: value === '' ? null : Number(String(value).replace(/,/g, '')) }) },
  ...ownFacts(own.value, props.deal.custom),
])
async function save(body: object): Promise<void> {
  await call(editDeal, { params: { id: props.deal.id }, body })
  emit('changed')
}
</script>

<template>
  <FactSheet title="Deal" :facts="facts" :save="save" @stale="emit('changed')" />
</template>
