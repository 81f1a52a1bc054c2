<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, reactive, ref, shallowRef, watch } from 'vue'
import type { z } from 'zod'
import type { Filter } from '#core/filter/filter'
import { getBulk, previewBulk, startBulk, type BulkAction } from '#shared/api/bulk'
import { listCadences } from '#shared/api/cadences'
import { listFields, listTags, mergeFields, type CustomField } from '#shared/api/fields'
import { listUsers } from '#shared/api/settings'
import type { List } from '#shared/api/lists'
import type { RatingGiven } from '#shared/api/prospects'
import { ApiError, call } from '~/composables/api'
import { useTimes } from '~/composables/times'

/** One change to many people: says beforehand whom it touches and whom it leaves out, then shows how far it is, then the same account. */
const open = defineModel<boolean>({ required: true })
const props = defineProps<{ whom: { prospectIds?: string[], filter?: Filter, list?: string, search?: string }, count: number, lists: readonly List[] }>()
const emit = defineEmits<{ done: [] }>()
const ACTS: { do: BulkAction['do'], title: string }[] = [{ do: 'enroll', title: 'Enroll in a cadence' }, { do: 'plan', title: 'Plan a call or task for each one’s owner' }, { do: 'mail', title: 'Write to them' }, { do: 'assign', title: 'Assign to' }, { do: 'assignToCompanyOwner', title: 'Assign to whoever has their company' }, { do: 'tag', title: 'Put a tag on' }, { do: 'untag', title: 'Take a tag off' }, { do: 'rate', title: 'Rate' }, { do: 'work', title: 'Set in work, resting or removed' }, { do: 'setField', title: 'Set a field' }, { do: 'putOn', title: 'Put on a fixed list' }, { do: 'leaveCadences', title: 'Take out of cadences' }, { do: 'stop', title: 'Stop contacting' }]
const given = reactive({ do: 'enroll' as BulkAction['do'], to: [] as string[], tag: '', rating: 'warm' as RatingGiven, working: 'resting' as 'in_work' | 'resting' | 'removed', listId: null as string | null, cadenceId: null as string | null, channel: 'all' as 'call' | 'email' | 'all', task: 'call' as 'call' | 'task', title: '', date: '', time: '10:00', ownerId: null as string | null, subject: '', body: '', kind: 'marketing' as 'one_to_one' | 'marketing' | 'requested', field: 'source', value: '' as string | string[] })
const users = ref<{ id: string, name: string }[]>([])
const tags = ref<string[]>([])
const cadences = ref<{ id: string, name: string }[]>([])
const own = ref<CustomField[]>([])
const times = useTimes()
const preview = shallowRef<z.output<typeof previewBulk.response> | null>(null)
const account = shallowRef<z.output<typeof getBulk.response> | null>(null)
const wrong = ref('')
const busy = ref(false)
let timer: ReturnType<typeof setTimeout>
onBeforeUnmount(() => clearTimeout(timer))

/** The moment that is set; null for at once, nothing where it is no moment. */
const moment = computed(() => {
  if (!given.date) return given.do === 'mail' ? null : undefined
  const at = times.fromInput(given.date, given.time || '10:00')
  return Number.isFinite(at) ? at : undefined
})
const field = computed(() => own.value.find(one => `custom:${one.id}` === given.field))
const fieldChoices = computed(() => [{ value: 'source', title: 'Source' }, { value: 'title', title: 'Job title' }, { value: 'city', title: 'City' }, { value: 'region', title: 'State or region' }, { value: 'postalCode', title: 'Postal code' }, ...own.value.map(one => ({ value: `custom:${one.id}`, title: one.name }))])
watch(() => given.field, () => { given.value = field.value?.kind === 'choices' ? [] : '' })
watch(() => given.do, () => { given.cadenceId = null })
const action = computed<BulkAction | null>(() => {
  switch (given.do) {
    case 'assign': return given.to.length ? { do: 'assign', to: given.to } : null
    case 'tag': case 'untag': return given.tag.trim() ? { do: given.do, tag: given.tag.trim() } : null
    case 'rate': return { do: 'rate', rating: given.rating }
    case 'work': return { do: 'work', working: given.working }
    case 'putOn': return given.listId ? { do: 'putOn', listId: given.listId } : null
    case 'assignToCompanyOwner': return { do: 'assignToCompanyOwner' }
    case 'enroll': return given.cadenceId ? { do: 'enroll', cadenceId: given.cadenceId } : null
    case 'leaveCadences': return { do: 'leaveCadences', cadenceId: given.cadenceId }
    case 'stop': return { do: 'stop', channel: given.channel }
    case 'setField': return { do: 'setField', field: given.field as 'source', value: given.value.length ? given.value : null }
    case 'plan': return given.title.trim() && Number.isFinite(moment.value) ? { do: 'plan', task: given.task, title: given.title.trim(), dueAt: moment.value!, ownerId: given.ownerId } : null
    case 'mail': return given.subject.trim() && given.body.trim() && moment.value !== undefined ? { do: 'mail', subject: given.subject.trim(), body: given.body, kind: given.kind, sendAt: moment.value } : null
    default: return null
  }
})
watch(open, async (now) => {
  clearTimeout(timer)
  if (!now) return
  account.value = preview.value = null
  wrong.value = ''
  ;[users.value, tags.value, cadences.value, own.value] = await Promise.all([call(listUsers).then(answer => answer.users.filter(user => user.active), () => []), call(listTags).then(answer => answer.tags.map(tag => tag.name), () => []), call(listCadences).then(answer => answer.cadences.filter(one => one.state === 'active'), () => []), call(listFields).then(answer => answer.fields.filter(one => one.of === 'prospect'), () => [])])
})
let asked: AbortController | null = null
watch([action, open], async () => {
  asked?.abort()
  preview.value = null
  wrong.value = ''
  if (!action.value || !open.value || account.value) return
  asked = new AbortController()
  const { signal } = asked
  // While somebody types, the answer of the last letter is the one that counts.
  await new Promise(resolve => setTimeout(resolve, 250))
  if (signal.aborted) return
  try {
    preview.value = await call(previewBulk, { body: { action: action.value, ...props.whom }, signal })
  }
  catch (error) {
    if (error instanceof ApiError) wrong.value = error.message
  }
})
async function start(): Promise<void> {
  if (busy.value) return
  busy.value = true
  try {
    const { id } = await call(startBulk, { body: { id: crypto.randomUUID(), action: action.value!, ...props.whom } })
    await follow(id)
  }
  catch (error) {
    wrong.value = error instanceof ApiError ? error.message : 'It could not be started'
  }
  busy.value = false
}
/** Looks how far it is; whoever closes the window leaves it to go on by itself. */
async function follow(id: string): Promise<void> {
  account.value = await call(getBulk, { params: { id } })
  if (account.value.state === 'done') return emit('done')
  timer = setTimeout(() => { if (open.value) follow(id).catch(() => { timer = setTimeout(() => void follow(id), 3_000) }) }, 400)
}
const people = (count: number) => `${count.toLocaleString('en-US')} ${count === 1 ? 'person' : 'people'}`
const mergeHint = ref('')
onMounted(async () => { mergeHint.value = await call(mergeFields).then(({ fields }) => `Fields: ${fields.map(({ name }) => `{{ ${name} }}`).join(' ')}`, () => '') })
const leftOut = computed(() => account.value?.leftOut ?? preview.value?.leftOut ?? [])
</script>

<template>
  <v-dialog v-model="open" max-width="580" aria-label="Bulk action">
    <v-card class="pa-5">
      <h2 class="mb-3">Change {{ people(count) }}</h2>
      <form v-if="!account" class="stack" @submit.prevent="start">
        <v-select v-model="given.do" :items="ACTS" item-value="do" item-title="title" label="What to do" />
        <v-select v-if="given.do === 'assign'" v-model="given.to" :items="users" item-value="id" item-title="name" label="Whom; several take turns" multiple />
        <v-combobox v-else-if="given.do === 'tag' || given.do === 'untag'" v-model="given.tag" :items="tags" label="Tag" maxlength="60" />
        <v-select v-else-if="given.do === 'rate'" v-model="given.rating" label="Rating" :items="[{ value: 'hot', title: 'hot' }, { value: 'warm', title: 'warm' }, { value: 'cold', title: 'cold' }, { value: null, title: 'none' }, { value: 'score', title: 'as the score says' }]" />
        <v-select v-else-if="given.do === 'work'" v-model="given.working" label="Work" :items="[{ value: 'in_work', title: 'in work' }, { value: 'resting', title: 'resting' }, { value: 'removed', title: 'removed: out of sight, not deleted' }]" />
        <template v-else-if="given.do === 'setField'">
          <v-select v-model="given.field" :items="fieldChoices" label="Field" />
          <v-select v-if="field?.choices.length" v-model="given.value" :items="field.choices" :multiple="field.kind === 'choices'" label="Value" clearable hint="Nothing empties it" persistent-hint />
          <v-text-field v-else v-model="given.value as string" label="Value" :type="field?.kind === 'date' ? 'date' : 'text'" hint="Nothing empties it" persistent-hint />
        </template>
        <v-select v-else-if="given.do === 'enroll'" v-model="given.cadenceId" :items="cadences" item-value="id" item-title="name" label="Cadence" />
        <v-select v-else-if="given.do === 'leaveCadences'" v-model="given.cadenceId" :items="[{ id: null, name: 'All cadences' }, ...cadences]" item-value="id" item-title="name" label="Out of" />
        <v-select v-else-if="given.do === 'stop'" v-model="given.channel" :items="[{ value: 'call', title: 'no calls' }, { value: 'email', title: 'no email' }, { value: 'all', title: 'nothing at all' }]" label="From now on" />
        <template v-else-if="given.do === 'plan'">
          <div class="pair"><v-select v-model="given.task" :items="[{ value: 'call', title: 'A call' }, { value: 'task', title: 'A task' }]" label="What" /><v-select v-model="given.ownerId" :items="[{ id: null, name: 'Each one’s own owner' }, ...users]" item-value="id" item-title="name" label="Whose work" /></div>
          <v-text-field v-model="given.title" label="What it is about" maxlength="200" />
          <div class="pair"><v-text-field v-model="given.date" type="date" label="Day" /><v-text-field v-model="given.time" type="time" label="Time, yours" /></div>
        </template>
        <template v-else-if="given.do === 'mail'">
          <v-text-field v-model="given.subject" label="Subject" maxlength="300" />
          <v-textarea v-model="given.body" label="Text" rows="5" :hint="mergeHint" persistent-hint />
          <v-select v-model="given.kind" :items="[{ value: 'marketing', title: 'marketing' }, { value: 'requested', title: 'requested by them' }, { value: 'one_to_one', title: 'one to one' }]" label="What kind of mail it is" />
          <div class="pair"><v-text-field v-model="given.date" type="date" label="On a day; else at once" /><v-text-field v-model="given.time" type="time" label="At" :disabled="!given.date" /></div>
        </template>
        <v-select v-else-if="given.do === 'putOn'" v-model="given.listId" :items="lists.filter(list => list.kind === 'fixed' && list.mayEdit)" item-value="id" item-title="name" label="List" />
        <p v-if="wrong" class="notice clay" role="alert">{{ wrong }}</p>
        <div v-if="preview" role="status"><p><b>{{ people(preview.touches) }}</b> {{ preview.mail ? 'will get it' : 'will change' }}<template v-if="preview.mail">: {{ preview.mail.customers.toLocaleString('en-US') }} at customers, {{ preview.mail.prospects.toLocaleString('en-US') }} others</template>.</p>
          <div v-if="preview.mail?.example" class="panel mt-2"><p class="dim small">As {{ preview.mail.example.name }} would read it</p><p><b>{{ preview.mail.example.subject }}</b></p><p class="pre small">{{ preview.mail.example.body }}</p><p v-if="preview.mail.example.missing.length" class="small clay">Nothing is known for {{ preview.mail.example.missing.join(', ').replaceAll('_', ' ') }}: such mail is held, not sent.</p></div></div>
        <p v-else-if="!wrong" class="dim">{{ action ? 'Counting …' : 'Choose, and whom it touches is said here before anything happens.' }}</p>
        <LeftOut :left-out="leftOut" />
        <div class="row"><v-btn type="submit" color="primary" :disabled="!preview?.touches" :loading="busy">Change {{ preview ? people(preview.touches) : '' }}</v-btn><v-btn variant="text" @click="open = false">Leave it</v-btn></div>
      </form>
      <div v-else class="stack">
        <v-progress-linear v-if="account.state !== 'done'" :model-value="account.touches ? 100 * account.done / account.touches : 0" color="primary" aria-label="How far it is" />
        <p role="status"><b>{{ account.state === 'done' ? `${people(account.done)} changed.` : `${account.done.toLocaleString('en-US')} of ${people(account.touches)} changed; it goes on when you leave.` }}</b></p>
        <LeftOut :left-out="leftOut" />
        <div class="row"><v-btn color="primary" @click="open = false">Good</v-btn><NuxtLink to="/changes" class="link small">Every such account</NuxtLink></div>
      </div>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.stack { display: grid; gap: 12px; } .pair { display: grid; grid-template-columns: 1fr 1fr; gap: 12px; } .clay { color: var(--clay-deep); }
</style>
