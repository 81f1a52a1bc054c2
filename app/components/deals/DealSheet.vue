<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'
import { editDeal, listDealStages } from '#shared/api/deals'
import { listFields, type CustomField } from '#shared/api/settings/fields'
import type { Prospect } from '#shared/api/prospects'
import { call } from '~/api/call'
import { readMoney, useMoney } from '~/composables/money'
import { useTimes } from '~/composables/times'
import { ownFacts, valueInWords, type Fact } from '~/components/fields/facts'

/** A deal with what is known of it, changed where it stands; open, it can be closed as won or lost. */
const props = defineProps<{ deal: Prospect['deals'][number] }>()
const emit = defineEmits<{ changed: [] }>()
const money = useMoney()
const times = useTimes()
const own = ref<CustomField[]>([])
const stages = ref<{ id: string; name: string }[]>([])
onMounted(async () => {
  const none = () => []
  ;[own.value, stages.value] = await Promise.all([
    call(listFields).then(({ fields }) => fields.filter((field) => field.of === 'deal'), none),
    call(listDealStages).then((answer) => answer.stages, none),
  ])
})
const open = computed(() => props.deal.status === 'open')
const key = (name: string) => `${props.deal.id}-${name}`
const status = computed(() =>
  open.value
    ? 'open'
    : [props.deal.status, props.deal.closedAt && times.day(props.deal.closedAt), props.deal.reason]
        .filter(Boolean)
        .join(', '),
)
const stageOptions = computed(() => stages.value.map((stage) => ({ value: stage.id, title: stage.name })))
const facts = computed<Fact[]>(() => [
  { key: key('status'), label: 'Status', kind: 'text', shown: status.value, raw: '', fixed: true, body: () => ({}) },
  {
    key: key('name'),
    label: 'Name',
    kind: 'text',
    shown: props.deal.name,
    raw: props.deal.name,
    always: true,
    fixed: !open.value,
    body: (value) => ({ name: value }),
  },
  {
    key: key('value'),
    label: 'Value',
    kind: 'money',
    shown: money.show(props.deal.value),
    raw: String(props.deal.value ?? ''),
    fixed: !open.value,
    body: (value) => ({ value: readMoney(String(value)) }),
  },
  {
    key: key('stage'),
    label: 'Stage',
    kind: 'choice',
    shown: stages.value.find((stage) => stage.id === props.deal.stageId)?.name ?? '',
    raw: props.deal.stageId ?? '',
    options: stageOptions.value,
    fixed: !open.value,
    body: (value) => ({ stageId: value || null }),
  },
  {
    key: key('likelihood'),
    label: 'Likelihood',
    kind: 'number',
    shown: `${props.deal.likelihood}%`,
    raw: String(props.deal.likelihood),
    always: true,
    fixed: !open.value,
    body: (value) => ({ likelihood: Number(value) }),
  },
  {
    key: key('close'),
    label: 'Expected close',
    kind: 'date',
    shown: valueInWords({ kind: 'date' }, props.deal.expectedClose),
    raw: props.deal.expectedClose ?? '',
    fixed: !open.value,
    body: (value) => ({ expectedClose: value || null }),
  },
  ...ownFacts(own.value, props.deal.custom),
])
async function save(body: object): Promise<void> {
  await call(editDeal, { params: { id: props.deal.id }, body })
  changed()
}
/** Whether what was changed of it is shown, and how often that was changed here. */
const showsChanges = ref(false)
const changes = ref(0)
function changed(): void {
  changes.value++
  emit('changed')
}
</script>

<template>
  <div>
    <FactSheet title="Deal" :facts="facts" :save="save" @stale="emit('changed')" />
    <div class="spread mt-1">
      <CloseDeal v-if="open" :deal="deal" @done="changed" />
      <button class="link small" :aria-expanded="showsChanges" @click="showsChanges = !showsChanges">
        {{ showsChanges ? 'Hide changes' : 'Changes' }}
      </button>
    </div>
    <RecordChanges
      v-if="showsChanges"
      :id="deal.id"
      :key="changes"
      of="deal"
      title="Changes of the deal"
      class="mt-2"
      @changed="emit('changed')"
    />
  </div>
</template>
