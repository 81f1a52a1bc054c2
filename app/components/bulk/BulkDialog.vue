<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, reactive, ref, shallowRef, watch } from 'vue'
import type { z } from 'zod'
import {
  EMAIL_TYPES,
  PROSPECT_STATUSES,
  RATINGS,
  CHANNELS,
  choicesOf,
  type Channel,
  type EmailType,
  type ProspectStatus,
} from '#core/enumerations'
import type { Filter } from '#core/filter/filter'
import { getBulk, previewBulk, startBulk, undoBulk, type BulkAction } from '#shared/api/bulk'
import { getCadence, listCadences } from '#shared/api/cadences'
import { listFields, listTags, mergeFields, type CustomField } from '#shared/api/settings/fields'
import { listUsers } from '#shared/api/settings/settings'
import type { List } from '#shared/api/lists'
import type { RatingGiven } from '#shared/api/prospects'
import { ApiError, call } from '~/api/call'
import { stages as readStages } from '#shared/api/settings/stages'
import { sendTestEmail } from '#shared/api/testEmails'
import { useSession } from '~/stores/session'

/**
 * One change to many people: says beforehand whom it touches and whom it leaves out, then shows how far it is, then the
 * same account.
 */
const open = defineModel<boolean>({ required: true })
const props = defineProps<{
  whom: { prospectIds?: string[]; filter?: Filter; list?: string; search?: string }
  count: number
  lists: readonly List[]
}>()
const emit = defineEmits<{ done: [] }>()
const ACTS: { type: BulkAction['type']; title: string }[] = [
  { type: 'enroll', title: 'Enroll in a cadence' },
  { type: 'plan', title: 'Plan a call or task for each one’s owner' },
  { type: 'email', title: 'Send email' },
  { type: 'assign', title: 'Assign to' },
  { type: 'assignToCompanyOwner', title: 'Assign to the company’s owner' },
  { type: 'tag', title: 'Add a tag' },
  { type: 'untag', title: 'Remove a tag' },
  { type: 'rate', title: 'Rate' },
  { type: 'stage', title: 'Change stage' },
  { type: 'work', title: 'Set active, paused or archived' },
  { type: 'setField', title: 'Set a field' },
  { type: 'putOn', title: 'Add to a fixed list' },
  { type: 'leaveCadences', title: 'Remove from cadences' },
  { type: 'stop', title: 'Stop contacting' },
]
const given = reactive({
  type: 'enroll' as BulkAction['type'],
  to: [] as string[],
  tag: '',
  rating: 'warm' as RatingGiven,
  status: 'paused' as ProspectStatus,
  listId: null as string | null,
  cadenceId: null as string | null,
  channel: 'all' as Channel,
  task: 'call' as 'call' | 'task',
  title: '',
  at: null as number | null,
  reason: '',
  ownerId: null as string | null,
  subject: '',
  body: '',
  kind: 'marketing' as EmailType,
  field: 'source',
  value: '' as string | string[],
  stageId: null as string | null,
  override: '',
  apart: false,
})
const stages = ref<{ id: string; name: string }[]>([])
onMounted(() =>
  call(readStages).then(
    (answer) => {
      stages.value = answer.stages.filter((stage) => !stage.archived)
    },
    () => {},
  ),
)
const users = ref<{ id: string; name: string }[]>([])
const tags = ref<string[]>([])
const cadences = ref<{ id: string; name: string }[]>([])
const own = ref<CustomField[]>([])
const session = useSession()
const preview = shallowRef<z.output<typeof previewBulk.response> | null>(null)
const account = shallowRef<z.output<typeof getBulk.response> | null>(null)
const formError = ref('')
const busy = ref(false)
let timer: ReturnType<typeof setTimeout>
onBeforeUnmount(() => clearTimeout(timer))

const field = computed(() => own.value.find((one) => `custom:${one.id}` === given.field))
const fieldChoices = computed(() => [
  { value: 'source', title: 'Source' },
  { value: 'title', title: 'Job title' },
  { value: 'city', title: 'City' },
  { value: 'region', title: 'State or region' },
  { value: 'postalCode', title: 'Postal code' },
  { value: 'country', title: 'Country' },
  { value: 'zone', title: 'Time zone' },
  ...own.value.map((one) => ({ value: `custom:${one.id}`, title: one.name })),
])
watch(
  () => given.field,
  () => {
    given.value = field.value?.kind === 'choices' ? [] : ''
  },
)
watch(
  () => given.type,
  () => {
    given.cadenceId = null
  },
)
const action = computed<BulkAction | null>(() => {
  switch (given.type) {
    case 'assign':
      return given.to.length ? { type: 'assign', to: given.to, ...(given.apart && { apart: true }) } : null
    case 'tag':
    case 'untag':
      return given.tag.trim() ? { type: given.type, tag: given.tag.trim() } : null
    case 'rate':
      return { type: 'rate', rating: given.rating }
    case 'stage':
      return given.stageId
        ? {
            type: 'stage',
            to: given.stageId,
            reason: given.reason.trim() || null,
            override: given.override.trim() || null,
          }
        : null
    case 'work':
      if (given.status !== 'archived') return { type: 'work', status: given.status }
      return given.reason.trim() ? { type: 'work', status: 'archived', reason: given.reason.trim() } : null
    case 'putOn':
      return given.listId ? { type: 'putOn', listId: given.listId } : null
    case 'assignToCompanyOwner':
      return { type: 'assignToCompanyOwner' }
    case 'enroll':
      return given.cadenceId ? { type: 'enroll', cadenceId: given.cadenceId } : null
    case 'leaveCadences':
      return { type: 'leaveCadences', cadenceId: given.cadenceId }
    case 'stop':
      return { type: 'stop', channel: given.channel }
    case 'setField':
      return { type: 'setField', field: given.field as 'source', value: given.value.length ? given.value : null }
    case 'plan':
      return given.title.trim() && given.at !== null
        ? { type: 'plan', task: given.task, title: given.title.trim(), dueAt: given.at, ownerId: given.ownerId }
        : null
    case 'email':
      return given.subject.trim() && given.body.trim()
        ? { type: 'email', subject: given.subject.trim(), body: given.body, kind: given.kind, sendAt: given.at }
        : null
    default:
      return null
  }
})
watch(open, async (now) => {
  clearTimeout(timer)
  if (!now) return
  account.value = preview.value = null
  formError.value = ''
  ;[users.value, tags.value, cadences.value, own.value] = await Promise.all([
    call(listUsers).then(
      (answer) => answer.users.filter((user) => user.active),
      () => [],
    ),
    call(listTags).then(
      (answer) => answer.tags.map((tag) => tag.name),
      () => [],
    ),
    call(listCadences).then(
      (answer) => {
        templates.value = answer.cadences
          .filter((one) => one.status !== 'archived')
          .flatMap((one) =>
            one.steps
              .filter((step) => step.kind === 'email')
              .map((step) => ({ value: `${one.id} ${step.id}`, title: `${one.name}: ${step.name}` })),
          )
        return answer.cadences.filter((one) => one.status === 'active')
      },
      () => [],
    ),
    call(listFields).then(
      (answer) => answer.fields.filter((one) => one.of === 'prospect'),
      () => [],
    ),
  ])
})
let asked: AbortController | null = null
watch([action, open], async () => {
  asked?.abort()
  preview.value = null
  formError.value = ''
  if (!action.value || !open.value || account.value) return
  asked = new AbortController()
  const { signal } = asked
  // While someone types, the answer of the last letter is the one that counts.
  await new Promise((resolve) => setTimeout(resolve, 250))
  if (signal.aborted) return
  try {
    preview.value = await call(previewBulk, { body: { action: action.value, ...props.whom }, signal })
  } catch (error) {
    if (error instanceof ApiError) formError.value = error.message
  }
})
async function start(): Promise<void> {
  if (busy.value) return
  busy.value = true
  try {
    const { id } = await call(startBulk, { body: { id: crypto.randomUUID(), action: action.value!, ...props.whom } })
    await follow(id)
  } catch (error) {
    formError.value = error instanceof ApiError ? error.message : 'It could not be started'
  }
  busy.value = false
}
/** Looks how far it is; anyone who closes the window leaves it to go on by itself. */
async function follow(id: string): Promise<void> {
  account.value = await call(getBulk, { params: { id } })
  if (account.value.status === 'done') return emit('done')
  timer = setTimeout(() => {
    if (open.value) {
      follow(id).catch(() => {
        timer = setTimeout(() => void follow(id), 3_000)
      })
    }
  }, 400)
}
/** Emails of cadences, to start from. */
const templates = ref<{ value: string; title: string }[]>([])
const template = ref<string | null>(null)
async function useTemplate(key: string): Promise<void> {
  const [cadenceId, stepId] = key.split(' ')
  try {
    const { steps } = await call(getCadence, { params: { id: cadenceId! } })
    const step = steps.find((one) => one.id === stepId)
    if (step) Object.assign(given, { subject: step.subject, body: step.body })
  } catch (error) {
    formError.value = error instanceof ApiError ? error.message : 'The email could not be read'
  }
}
/** Which of the readers the email is shown for. */
const shown = ref(0)
const example = computed(
  () => preview.value?.mail?.examples[Math.min(shown.value, preview.value.mail.examples.length - 1)] ?? null,
)
const tested = ref('')
async function sendTest(): Promise<void> {
  tested.value = ''
  try {
    const { to } = await call(sendTestEmail, {
      body: { id: crypto.randomUUID(), subject: given.subject, body: given.body, prospectId: example.value!.id },
    })
    tested.value = `Sent to ${to}.`
  } catch (error) {
    tested.value = error instanceof ApiError ? error.message : 'It could not be sent'
  }
}
/** Undoes what has just been done, and shows that the same way. */
async function undoIt(): Promise<void> {
  const id = crypto.randomUUID()
  try {
    await call(undoBulk, { params: { id: account.value!.id }, body: { id } })
    await follow(id)
  } catch (error) {
    formError.value = error instanceof ApiError ? error.message : 'It could not be undone'
  }
}
/** What was done to people, where it was not to change them. */
const DONE: Record<string, string> = { undo: 'changed back', email: 'will get it' }
const people = (count: number) => `${count.toLocaleString('en-US')} ${count === 1 ? 'person' : 'people'}`
const mergeHint = ref('')
onMounted(async () => {
  mergeHint.value = await call(mergeFields).then(
    ({ fields }) => `Fields: ${fields.map(({ name }) => `{{ ${name} }}`).join(' ')}`,
    () => '',
  )
})
const leftOut = computed(() => account.value?.leftOut ?? preview.value?.leftOut ?? [])
</script>

<template>
  <v-dialog v-model="open" max-width="580" aria-label="Bulk action">
    <v-card class="pa-5">
      <h2 class="mb-3">{{ given.type === 'email' ? 'Email to' : 'Change' }} {{ people(count) }}</h2>
      <form v-if="!account" class="stack" @submit.prevent="start">
        <v-select v-model="given.type" :items="ACTS" item-value="type" item-title="title" label="Action" />
        <template v-if="given.type === 'assign'"
          ><v-select
            v-model="given.to"
            :items="users"
            item-value="id"
            item-title="name"
            label="Owner; several take turns"
            multiple /><v-checkbox
            v-if="given.to.length > 1"
            v-model="given.apart"
            label="Companies may be split between them"
        /></template>
        <v-combobox
          v-else-if="given.type === 'tag' || given.type === 'untag'"
          v-model="given.tag"
          :items="tags"
          label="Tag"
          maxlength="60"
        />
        <v-select
          v-else-if="given.type === 'rate'"
          v-model="given.rating"
          label="Rating"
          :items="[...choicesOf(RATINGS), { value: null, title: 'none' }, { value: 'score', title: 'by score' }]"
        />
        <template v-else-if="given.type === 'stage'"
          ><v-select
            v-model="given.stageId"
            :items="stages"
            item-value="id"
            item-title="name"
            label="Stage" /><v-text-field
            v-model="given.reason"
            label="Reason"
            maxlength="500"
            class="mt-3" /><v-text-field
            v-if="session.manages"
            v-model="given.override"
            label="Override the gate: reason (optional)"
            maxlength="500"
            class="mt-3"
        /></template>
        <template v-else-if="given.type === 'work'"
          ><v-select
            v-model="given.status"
            label="Status"
            :items="
              choicesOf(PROSPECT_STATUSES).filter(({ value }) => value !== 'archived' || session.manages)
            " /><v-text-field v-if="given.status === 'archived'" v-model="given.reason" label="Why" maxlength="500"
        /></template>
        <template v-else-if="given.type === 'setField'">
          <v-select v-model="given.field" :items="fieldChoices" label="Field" />
          <v-select
            v-if="field?.choices.length"
            v-model="given.value"
            :items="field.choices"
            :multiple="field.kind === 'choices'"
            label="Value"
            clearable
            hint="Leave it empty to clear the field"
            persistent-hint
          />
          <ZoneField
            v-else-if="given.field === 'zone'"
            v-model="given.value as string"
            label="Value"
            clearable
            hint="Empty: by address, then number"
            persistent-hint
          />
          <v-text-field
            v-else
            v-model="given.value as string"
            label="Value"
            :type="field?.kind === 'date' ? 'date' : 'text'"
            :hint="
              given.field === 'country'
                ? 'A name or two letters. Time zones follow, except those set by hand'
                : 'Leave it empty to clear the field'
            "
            persistent-hint
          />
        </template>
        <v-select
          v-else-if="given.type === 'enroll'"
          v-model="given.cadenceId"
          :items="cadences"
          item-value="id"
          item-title="name"
          label="Cadence"
        />
        <v-select
          v-else-if="given.type === 'leaveCadences'"
          v-model="given.cadenceId"
          :items="[{ id: null, name: 'All cadences' }, ...cadences]"
          item-value="id"
          item-title="name"
          label="Cadence"
        />
        <v-select
          v-else-if="given.type === 'stop'"
          v-model="given.channel"
          :items="choicesOf(CHANNELS)"
          label="Do not contact by"
        />
        <template v-else-if="given.type === 'plan'">
          <div class="pair">
            <v-select
              v-model="given.task"
              :items="[
                { value: 'call', title: 'A call' },
                { value: 'task', title: 'A task' },
              ]"
              label="Type"
            /><v-select
              v-model="given.ownerId"
              :items="[{ id: null, name: 'Each one’s own owner' }, ...users]"
              item-value="id"
              item-title="name"
              label="Assign to"
            />
          </div>
          <v-text-field v-model="given.title" label="Title" maxlength="200" />
          <WhenField v-model="given.at" kind="task" :prospect-id="null" :zone="null" />
        </template>
        <template v-else-if="given.type === 'email'">
          <v-select
            v-if="templates.length"
            v-model="template"
            :items="templates"
            label="Start from a cadence email (optional)"
            @update:model-value="template && useTemplate(template)"
          />
          <v-text-field v-model="given.subject" label="Subject" maxlength="300" />
          <v-textarea v-model="given.body" label="Text" rows="5" :hint="mergeHint" persistent-hint />
          <v-select v-model="given.kind" :items="choicesOf(EMAIL_TYPES)" label="Email type" />
          <WhenField v-model="given.at" kind="task" :prospect-id="null" :zone="null" label="Send later (optional)" />
        </template>
        <v-select
          v-else-if="given.type === 'putOn'"
          v-model="given.listId"
          :items="lists.filter((list) => list.kind === 'fixed' && list.mayEdit)"
          item-value="id"
          item-title="name"
          label="List"
        />
        <p v-if="formError" class="notice clay" role="alert">{{ formError }}</p>
        <div v-if="preview" role="status">
          <p>
            <b>{{ people(preview.touches) }}</b> {{ preview.mail ? 'will get it' : 'will change'
            }}<template v-if="preview.mail"
              >: {{ preview.mail.customers.toLocaleString('en-US') }} at customers,
              {{ preview.mail.prospects.toLocaleString('en-US') }} others</template
            ><template v-if="preview.shares.length"
              >:
              {{
                preview.shares.map((one) => `${one.name} ${one.people.toLocaleString('en-US')}`).join(', ')
              }}</template
            >.
          </p>
          <div v-if="preview.mail && example" class="panel mt-2">
            <p class="spread dim small">
              <span>As {{ example.name }} would read it</span
              ><span v-if="preview.mail.examples.length > 1" class="row"
                ><button type="button" class="link" :disabled="shown === 0" @click="shown--">Previous reader</button
                ><button
                  type="button"
                  class="link"
                  :disabled="shown >= preview.mail.examples.length - 1"
                  @click="shown++"
                >
                  Next reader
                </button></span
              >
            </p>
            <p>
              <b>{{ example.subject }}</b>
            </p>
            <p class="pre small">{{ example.body }}</p>
            <p class="row small mt-2">
              <button type="button" class="link" @click="sendTest">Send me this as a test</button
              ><span role="status">{{ tested }}</span>
            </p>
          </div>
        </div>
        <p v-else-if="!formError" class="dim">
          {{ action ? 'Counting …' : 'Nothing happens yet: who will change and who is skipped is shown here first.' }}
        </p>
        <LeftOut :left-out="leftOut" />
        <div class="row">
          <v-btn type="submit" color="primary" :disabled="!preview?.touches" :loading="busy"
            >{{ given.type === 'email' ? 'Send to' : 'Change' }} {{ preview ? people(preview.touches) : '' }}</v-btn
          ><v-btn variant="text" @click="open = false">Cancel</v-btn>
        </div>
      </form>
      <div v-else class="stack">
        <v-progress-linear
          v-if="account.status !== 'done'"
          :model-value="account.touches ? (100 * account.done) / account.touches : 0"
          color="primary"
          aria-label="How far it is"
        />
        <p role="status">
          <b>{{
            account.status === 'done'
              ? `${people(account.done)} ${DONE[account.action.type] ?? 'changed'}.`
              : `${account.done} of ${people(account.touches)} changed; it goes on when you leave.`
          }}</b>
        </p>
        <p v-if="formError" class="notice clay" role="alert">{{ formError }}</p>
        <LeftOut :left-out="leftOut" />
        <template v-if="account.kept.length"
          ><p>Undone, except for this:</p>
          <LeftOut :left-out="account.kept" kept
        /></template>
        <div class="row">
          <v-btn color="primary" @click="open = false">Done</v-btn
          ><v-btn
            v-if="account.status === 'done' && account.done && account.action.type !== 'undo'"
            variant="outlined"
            @click="undoIt"
            >Undo</v-btn
          ><NuxtLink to="/changes" class="link small">All bulk actions</NuxtLink>
        </div>
      </div>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.stack {
  display: grid;
  gap: 12px;
}
.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px;
}
.clay {
  color: var(--clay-deep);
}
.link:disabled {
  color: var(--bark);
  text-decoration: none;
  cursor: default;
}
</style>
