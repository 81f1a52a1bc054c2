<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'
import { EMAIL_TYPES, PROSPECT_STATUSES, RATINGS, choicesOf } from '#core/enumerations'
import { listFields, type CustomField } from '#shared/api/settings/fields'
import { editProspect, type Prospect } from '#shared/api/prospects'
import { listUsers } from '#shared/api/settings/settings'
import { call } from '~/api/call'
import { ownFacts, type Fact } from '../fields/facts'

/** What else is known of a person, custom fields included. */
const props = defineProps<{ person: Prospect }>()
const emit = defineEmits<{ changed: [] }>()
const own = ref<CustomField[]>([])
const users = ref<{ id: string; name: string }[]>([])
onMounted(async () => {
  const none = () => []
  ;[own.value, users.value] = await Promise.all([
    call(listFields).then(({ fields }) => fields.filter((field) => field.of === 'prospect'), none),
    call(listUsers).then(({ users }) => users.filter((user) => user.active), none),
  ])
})
const ratings = [...choicesOf(RATINGS), { value: 'score', title: 'by score' }]
const ratingInWords = computed(() => {
  if (props.person.ratedByScore) {
    return props.person.rating ? `${props.person.rating}, by the score of ${props.person.score}` : 'none yet (by score)'
  }
  return [props.person.rating ?? '', props.person.score ? `score ${props.person.score}` : '']
    .filter(Boolean)
    .join(' · ')
})
const facts = computed<Fact[]>(() => [
  {
    key: 'rating',
    label: 'Rating',
    kind: 'choice',
    shown: ratingInWords.value,
    raw: props.person.ratedByScore ? 'score' : (props.person.rating ?? ''),
    options: ratings,
    body: (value) => ({ rating: value || null }),
  },
  {
    key: 'status',
    label: 'Status',
    kind: 'choice',
    shown: PROSPECT_STATUSES[props.person.status],
    raw: props.person.status,
    options: choicesOf(PROSPECT_STATUSES).filter(
      ({ value }) => value !== 'archived' || props.person.status === 'archived',
    ),
    always: true,
    body: (value) => ({ status: value }),
  },
  {
    key: 'relationshipOwner',
    label: 'Relationship owner',
    kind: 'choice',
    shown: props.person.relationshipOwner?.name ?? '',
    raw: props.person.relationshipOwner?.id ?? '',
    options: users.value.map((user) => ({ value: user.id, title: user.name })),
    body: (value) => ({ relationshipOwnerId: value || null }),
  },
  {
    key: 'source',
    label: 'Source',
    kind: 'text',
    shown: props.person.source ?? '',
    raw: props.person.source ?? '',
    body: (value) => ({ source: value || null }),
  },
  {
    key: 'postalCode',
    label: 'Postal code',
    kind: 'text',
    shown: props.person.postalCode ?? '',
    raw: props.person.postalCode ?? '',
    body: (value) => ({ postalCode: value || null }),
  },
  {
    key: 'emailTypes',
    label: 'Email preferences',
    kind: 'choices',
    shown:
      choicesOf(EMAIL_TYPES)
        .filter((one) => props.person.emailTypes.includes(one.value))
        .map((one) => one.title)
        .join(', ') || 'none',
    raw: [...props.person.emailTypes],
    options: choicesOf(EMAIL_TYPES),
    body: (value) => ({ emailTypes: value }),
  },
  ...ownFacts(own.value, props.person.custom),
])
async function save(body: object): Promise<void> {
  await call(editProspect, { params: { id: props.person.id }, body: { version: props.person.version, ...body } })
  emit('changed')
}
</script>

<template>
  <FactSheet :facts="facts" :save="save" @stale="emit('changed')" />
</template>
