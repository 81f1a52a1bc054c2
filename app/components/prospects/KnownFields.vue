<script setup lang="ts">
import { computed, nextTick, onMounted, ref } from 'vue'
import { listFields, type CustomField } from '#shared/api/fields'
import { editProspect, type Prospect } from '#shared/api/prospects'
import { listUsers } from '#shared/api/settings'
import { ApiError, call } from '~/composables/api'
import { useTimes } from '~/composables/times'

/** What else is known of a person, own fields included; each is changed where it stands, and saved when it is left. */
const props = defineProps<{ person: Prospect }>()
const emit = defineEmits<{ changed: [] }>()
const times = useTimes()
const own = ref<CustomField[]>([])
const users = ref<{ id: string, name: string }[]>([])
const open = ref<string | null>(null)
const draft = ref<string | string[]>('')
const wrong = ref('')
const root = ref<HTMLElement | null>(null)
onMounted(async () => {
  const none = () => []
  ;[own.value, users.value] = await Promise.all([call(listFields).then(({ fields }) => fields.filter(field => field.of === 'prospect'), none), call(listUsers).then(({ users }) => users.filter(user => user.active), none)])
})

interface Line { key: string, says: string, shown: string, kind: CustomField['kind'], options?: { value: string, title: string }[], needed?: boolean, required?: boolean, raw: unknown, body: (value: unknown) => object }
const RATINGS = [{ value: 'hot', title: 'hot' }, { value: 'warm', title: 'warm' }, { value: 'cold', title: 'cold' }]
const STATES = [{ value: 'in_work', title: 'in work' }, { value: 'resting', title: 'resting' }, { value: 'removed', title: 'removed' }]
const lines = computed<Line[]>(() => [
  { key: 'rating', says: 'Rating', shown: props.person.rating ?? '', kind: 'choice', options: RATINGS, raw: props.person.rating ?? '', body: value => ({ rating: value || null }) },
  { key: 'working', says: 'Work', shown: STATES.find(state => state.value === props.person.working)!.title, kind: 'choice', options: STATES, needed: true, raw: props.person.working, body: value => ({ working: value }) },
  { key: 'keptBy', says: 'Kept by', shown: props.person.keptBy?.name ?? '', kind: 'choice', options: users.value.map(user => ({ value: user.id, title: user.name })), raw: props.person.keptBy?.id ?? '', body: value => ({ keptById: value || null }) },
  { key: 'source', says: 'Source', shown: props.person.source ?? '', kind: 'text', raw: props.person.source ?? '', body: value => ({ source: value || null }) },
  { key: 'postalCode', says: 'Postal code', shown: props.person.postalCode ?? '', kind: 'text', raw: props.person.postalCode ?? '', body: value => ({ postalCode: value || null }) },
  ...own.value.map((field): Line => ({
    key: field.id, says: field.name, kind: field.kind, needed: field.required, required: field.required, shown: show(field, props.person.custom[field.id]), raw: props.person.custom[field.id] ?? (field.kind === 'choices' ? [] : ''),
    ...((field.kind === 'choice' || field.kind === 'choices') && { options: field.choices.map(choice => ({ value: choice, title: choice })) }),
    ...(field.kind === 'yesNo' && { options: [{ value: 'yes', title: 'yes' }, { value: 'no', title: 'no' }] }), body: value => ({ custom: { [field.id]: value === '' ? null : value } }),
  })),
])
function show(field: CustomField, value: unknown): string {
  if (value === undefined || value === null) return ''
  switch (field.kind) {
    case 'yesNo': return value ? 'yes' : 'no'
    case 'number': return (value as number).toLocaleString('en-US')
    case 'money': return (value as number).toLocaleString('en-US', { minimumFractionDigits: 2, maximumFractionDigits: 2 })
    case 'date': return times.day(Date.parse(`${value as string}T12:00Z`), 'UTC') + ` ${(value as string).slice(0, 4)}`
    case 'choices': return (value as string[]).join(', ')
    default: return String(value)
  }
}
async function edit(line: Line): Promise<void> {
  open.value = line.key
  wrong.value = ''
  draft.value = line.kind === 'choices' ? [...line.raw as string[]] : line.kind === 'yesNo' ? line.shown : String(line.raw)
  await nextTick()
  root.value?.querySelector<HTMLElement>('.control')?.focus()
}
async function save(line: Line): Promise<void> {
  if (open.value !== line.key) return
  const value = draft.value
  if (JSON.stringify(value) === JSON.stringify(line.kind === 'yesNo' ? line.shown : line.kind === 'choices' ? line.raw : String(line.raw))) return void (open.value = null)
  try {
    await call(editProspect, { params: { id: props.person.id }, body: { version: props.person.version, ...line.body(value) } })
    open.value = null
    emit('changed')
  }
  catch (error) {
    if (!(error instanceof ApiError)) throw error
    wrong.value = error.message
    // What was typed stays; what holds now is read.
    if (error.code === 'conflict') emit('changed')
  }
}
</script>

<template>
  <section ref="root" class="panel">
    <h3>Known</h3>
    <div v-for="line in lines" :key="line.key" class="line">
      <span :id="`known-${line.key}`" class="dim">{{ line.says }}<span v-if="line.required" class="needed"> needed</span></span>
      <span v-if="open !== line.key" class="value"><a v-if="line.kind === 'link' && line.shown" :href="line.shown" target="_blank" rel="noopener noreferrer">{{ line.shown }}</a><button class="plain" :aria-labelledby="`known-${line.key}`" @click="edit(line)"><template v-if="line.kind !== 'link' || !line.shown">{{ line.shown || '—' }}</template><template v-else> change</template></button></span>
      <form v-else class="value" @submit.prevent="save(line)" @keydown.esc.stop="open = null">
        <select v-if="line.options" v-model="draft" class="control" :multiple="line.kind === 'choices'" :aria-labelledby="`known-${line.key}`" @change="line.kind !== 'choices' && save(line)" @blur="save(line)"><option v-if="line.kind !== 'choices' && !line.needed" value="">—</option><option v-for="option in line.options" :key="option.value" :value="option.value">{{ option.title }}</option></select>
        <input v-else v-model="draft" class="control" :type="line.kind === 'date' ? 'date' : 'text'" :inputmode="line.kind === 'number' || line.kind === 'money' ? 'decimal' : undefined" :aria-labelledby="`known-${line.key}`" @blur="save(line)">
        <span v-if="wrong" class="wrong small" role="alert">{{ wrong }}</span>
      </form>
    </div>
  </section>
</template>

<style scoped>
.line { display: grid; grid-template-columns: 110px minmax(0, 1fr); gap: 8px; align-items: baseline; min-height: 26px; padding: 2px 0; } .value { min-width: 0; overflow-wrap: anywhere; } .value button { width: 100%; min-height: 24px; border-radius: 4px; padding: 0 4px; margin-left: -4px; } .value button:hover { background: var(--shade); } .needed { font-size: 11.5px; color: var(--amber-deep); }
.control { font: inherit; width: 100%; border: 1px solid var(--stone); border-radius: 5px; padding: 2px 6px; background: #fff; } .wrong { color: var(--clay-deep); display: block; }
</style>
