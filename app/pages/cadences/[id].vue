<script setup lang="ts">
import { computed, onMounted, ref, shallowRef, watch } from 'vue'
import type { z } from 'zod'
import { VueDraggable } from 'vue-draggable-plus'
import { onBeforeRouteLeave, useRoute } from '#imports'
import { waitInWords } from '#core/cadence/wait'
import {
  copyCadence,
  editCadence,
  getCadence,
  planCadence,
  setCadenceState,
  type Cadence,
  type StepDraft,
} from '#shared/api/cadences'
import { mergeFields } from '#shared/api/fields'
import { listProspects } from '#shared/api/prospects'
import { ApiError, call } from '~/composables/api'
import { useTimes } from '~/composables/times'
import { useNotices } from '~/stores/notices'
import { useSession } from '~/stores/session'

const id = useRoute().params.id as string
const times = useTimes()
const notices = useNotices()
const session = useSession()
const cadence = ref<Cadence | null>(null)
const saved = ref('')
const selected = ref<string | null>(null)
const plan = shallowRef<z.output<typeof planCadence.response> | null>(null)
const people = ref<{ id: string; name: string }[]>([])
const prospectId = ref<string | null>(null)
const wrong = ref<ApiError | null>(null)
const trouble = ref('')
const busy = ref(false)
/** Shown once its plan is there too, so that nothing moves. */
const ready = ref(false)
const frame = ref<'edit' | 'preview'>('edit')
const step = computed(() => cadence.value?.steps.find((one) => one.id === selected.value) ?? null)
const stepIndex = computed(() => cadence.value?.steps.findIndex((one) => one.id === selected.value) ?? -1)
const planned = computed(() => Object.fromEntries((plan.value?.steps ?? []).map((one) => [one.stepId, one])))
/** How many are at each step, by its id. */
const peopleAt = ref<Record<string, number>>({})
const inIt = computed(() => Object.values(peopleAt.value).reduce((sum, count) => sum + count, 0))
const dirty = computed(() => cadence.value !== null && JSON.stringify(cadence.value) !== saved.value)
const faulty = computed(() => [
  ...(plan.value?.steps.filter((one) => one.faults.length).map((one) => one.stepId) ?? []),
  ...(wrong.value?.problems
    .map((problem) => cadence.value?.steps[Number(/^steps\.(\d+)/.exec(problem.field)?.[1])]?.id)
    .filter((one) => one !== undefined) ?? []),
])
const UNITS = [
  { value: 'hours', title: 'hours' },
  { value: 'days', title: 'days' },
  { value: 'business_days', title: 'business days' },
]
const HOURS = Array.from({ length: 25 }, (_, hour) => ({
  value: hour * 60,
  title: `${String(hour).padStart(2, '0')}:00`,
}))
const DAYS = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun']
const KINDS = { email: 'Email', call: 'Call', task: 'Task' } as const

async function read(): Promise<void> {
  try {
    const { people: here, ...read } = await call(getCadence, { params: { id } })
    cadence.value = read
    peopleAt.value = here
    saved.value = JSON.stringify(cadence.value)
    selected.value ??= cadence.value.steps[0]?.id ?? null
  } catch (error) {
    trouble.value = error instanceof ApiError ? error.message : 'This cadence could not be read'
  }
}
let looking: AbortController | null = null
async function look(): Promise<void> {
  if (!cadence.value) return
  // The answer for the steps as they stand now is the one that counts, in whatever order answers come.
  looking?.abort()
  looking = new AbortController()
  const steps = cadence.value.steps.map((one) => ({
    ...one,
    name: one.name || KINDS[one.kind],
    wait: { ...one.wait, amount: Math.max(0, Math.round(Number(one.wait.amount) || 0)) },
  }))
  plan.value = await call(planCadence, {
    body: { prospectId: prospectId.value, window: cadence.value.window, steps },
    signal: looking.signal,
  }).catch(() => plan.value)
}
let later: ReturnType<typeof setTimeout>
watch(
  [cadence, prospectId],
  () => {
    clearTimeout(later)
    later = setTimeout(look, 150)
  },
  { deep: true },
)
onMounted(async () => {
  await read()
  people.value = await call(listProspects, { query: { limit: 10 } }).then(
    (answer) => answer.prospects,
    () => [],
  )
  prospectId.value = people.value[0]?.id ?? null
  await look()
  ready.value = true
})
onBeforeRouteLeave(() => !dirty.value || window.confirm('This cadence has changes that are not saved. Leave them?'))

function add(kind: StepDraft['kind']): void {
  const steps = cadence.value!.steps
  const made: StepDraft = {
    id: crypto.randomUUID(),
    kind,
    wait: { amount: steps.length ? 2 : 0, unit: steps.length ? 'business_days' : 'hours' },
    name: `${KINDS[kind]} ${steps.filter((one) => one.kind === kind).length + 1}`,
    subject: '',
    body: kind === 'email' ? 'Hello {{ first_name | default: "there" }},\n\n' : '',
  }
  steps.push(made)
  selected.value = made.id
}
const removing = ref(false)
/** Asks first where people are at the step: they go on to the next one. */
function askRemove(): void {
  if (step.value && peopleAt.value[step.value.id]) removing.value = true
  else remove()
}
const archiving = ref(false)
async function setState(to: 'active' | 'paused' | 'archived', people: 'finish' | 'leave' = 'finish'): Promise<void> {
  try {
    const { version, left } = await call(setCadenceState, { params: { id }, body: { to, people } })
    Object.assign(cadence.value!, { version, state: to })
    saved.value = JSON.stringify({ ...JSON.parse(saved.value), version, state: to })
    archiving.value = false
    const SAID = {
      paused: 'Paused: it takes no steps and sends no email until you resume it.',
      active: 'It goes on.',
      archived: left ? `Archived. ${left} leave it; see Bulk actions.` : 'Archived.',
    }
    notices.say(SAID[to])
  } catch (error) {
    notices.wrong(error)
  }
}
async function copy(): Promise<void> {
  try {
    const made = await call(copyCadence, { params: { id } })
    window.location.assign(`/cadences/${made.id}`)
  } catch (error) {
    notices.wrong(error)
  }
}
function remove(): void {
  removing.value = false
  const steps = cadence.value!.steps
  const at = stepIndex.value
  steps.splice(at, 1)
  selected.value = steps[Math.min(at, steps.length - 1)]?.id ?? null
}
function shift(by: number): void {
  const steps = cadence.value!.steps
  const to = stepIndex.value + by
  if (to < 0 || to >= steps.length) return
  steps.splice(to, 0, ...steps.splice(stepIndex.value, 1))
}
function setWait(stepId: string, amount: number): void {
  const one = cadence.value?.steps.find((found) => found.id === stepId)
  if (one && session.manages) one.wait.amount = amount
}
async function save(state: Cadence['state'] = cadence.value!.state): Promise<void> {
  if (busy.value) return
  busy.value = true
  wrong.value = null
  try {
    const { id: _, ...body } = cadence.value!
    const { version } = await call(editCadence, { params: { id }, body: { ...body, state } })
    Object.assign(cadence.value!, { version, state })
    saved.value = JSON.stringify(cadence.value)
    notices.say(state === 'active' ? 'Saved. People can be enrolled.' : 'Saved.')
  } catch (error) {
    if (!(error instanceof ApiError)) throw error
    wrong.value = error
    const first = Number(/^steps\.(\d+)/.exec(error.problems[0]?.field ?? '')?.[1])
    if (!Number.isNaN(first)) selected.value = cadence.value!.steps[first]?.id ?? selected.value
    if (!error.problems.length) notices.wrong(error)
  }
  busy.value = false
}
const at = (field: string) =>
  wrong.value?.at(`steps.${stepIndex.value}.${field}`) ??
  planned.value[selected.value ?? '']?.faults
    .filter((fault) => fault.field === field)
    .map((fault) => `Line ${fault.line}: ${fault.message}`)[0]
const mergeable = ref<{ name: string; label: string }[]>([])
onMounted(async () => {
  mergeable.value = await call(mergeFields).then(
    ({ fields }) => fields,
    () => [],
  )
})
/** Without a fallback: where the value is missing, that one email waits for it. */
const fieldTag = (field: string) => `{{ ${field} }}`
function insert(field: string): void {
  if (step.value) step.value.body += fieldTag(field)
}
</script>

<template>
  <div class="page">
    <p class="dim small back"><NuxtLink to="/cadences">Cadences</NuxtLink></p>
    <p v-if="trouble" class="notice clay" role="alert">{{ trouble }}</p>
    <p v-else-if="!ready" class="dim" role="status">Loading …</p>
    <template v-if="cadence && ready">
      <h1 class="visually-hidden">{{ cadence.name }}</h1>
      <div class="spread mb-2">
        <input
          v-model="cadence.name"
          class="title"
          aria-label="Name of the cadence"
          maxlength="200"
          :readonly="!session.manages"
        />
        <div v-if="session.manages" class="row">
          <span class="chip" :class="cadence.state === 'active' ? 'pine' : cadence.state === 'paused' ? 'amber' : ''">{{
            cadence.state
          }}</span>
          <NuxtLink
            v-if="inIt"
            class="link small num"
            :to="{ path: '/prospects', query: { filter: `cadences now has &quot;${cadence.name}&quot;` } }"
            >{{ inIt.toLocaleString('en-US') }} active</NuxtLink
          >
          <span v-if="dirty" class="dim small">not saved</span>
          <v-btn variant="outlined" :loading="busy" :disabled="!dirty" @click="save()">Save</v-btn>
          <v-btn v-if="cadence.state === 'active'" variant="outlined" @click="setState('paused')">Pause</v-btn>
          <v-btn v-if="cadence.state === 'paused'" color="primary" @click="setState('active')">Resume</v-btn>
          <v-menu
            ><template #activator="{ props: act }"><button v-bind="act" class="link small">More</button></template
            ><v-list
              ><v-list-item title="Copy" @click="copy" /><v-list-item
                v-if="cadence.state !== 'archived'"
                title="Archive …"
                @click="archiving = true" /><v-list-item v-else title="Use again" @click="setState('active')" /></v-list
          ></v-menu>
          <v-btn
            v-if="cadence.state === 'draft'"
            color="primary"
            :disabled="!cadence.steps.length"
            @click="save('active')"
            >Save and start</v-btn
          >
        </div>
      </div>
      <p
        v-if="wrong && !wrong.at(`steps.${stepIndex}.body`) && !wrong.at(`steps.${stepIndex}.subject`)"
        class="notice clay mb-2"
        role="alert"
      >
        {{ wrong.message }}
      </p>
      <div class="row mb-1">
        <ProspectField
          v-model="prospectId"
          :offered="people"
          label="If started now for"
          placeholder="nobody in particular"
          class="who"
        />
        <span v-if="plan" class="dim small"
          >times where they are: {{ times.zoneName(plan.zone)
          }}<template v-if="plan.steps.some((one) => one.moved)"
            >. * moved: {{ [...new Set(plan.steps.map((one) => one.moved).filter(Boolean))].join(', ') }}</template
          ></span
        >
      </div>
      <CadenceSlope
        v-if="plan"
        :steps="cadence.steps"
        :planned="planned"
        :start="plan.now"
        :zone="plan.zone"
        :selected="selected"
        :faulty="faulty"
        @select="selected = $event"
        @wait="setWait"
      />
      <fieldset class="cols" :disabled="!session.manages">
        <div>
          <h2 class="mb-2">Steps</h2>
          <VueDraggable
            v-model="cadence.steps"
            tag="ol"
            class="steps"
            handle=".grip"
            :disabled="!session.manages"
            :animation="120"
          >
            <li v-for="(one, index) in cadence.steps" :key="one.id" :class="{ on: one.id === selected }">
              <span class="grip" aria-hidden="true" title="Drag to reorder">⋮⋮</span>
              <button class="plain pick" @click="selected = one.id">
                <StepIcon :kind="one.kind" :size="16" color="var(--pine)" /><span class="grow"
                  ><b class="cut">{{ index + 1 }}. {{ one.name }}</b
                  ><small class="dim num"
                    >{{ waitInWords(one.wait)
                    }}<template v-if="peopleAt[one.id]"> · {{ peopleAt[one.id] }} here</template
                    ><template v-if="planned[one.id]">
                      · {{ times.moment(planned[one.id]!.at, plan!.zone) }}</template
                    ></small
                  ></span
                >
              </button>
            </li>
          </VueDraggable>
          <div v-if="session.manages" class="row mt-2">
            <v-btn size="small" variant="outlined" @click="add('email')">+ Email</v-btn
            ><v-btn size="small" variant="outlined" @click="add('call')">+ Call</v-btn
            ><v-btn size="small" variant="outlined" @click="add('task')">+ Task</v-btn>
          </div>
          <h2 class="mt-5 mb-2">Sending window</h2>
          <div class="row wrap">
            <label v-for="(day, index) in DAYS" :key="day" class="day"
              ><input v-model="cadence.window.days" type="checkbox" :value="index + 1" />{{ day }}</label
            >
          </div>
          <div class="row mt-2">
            <v-select v-model="cadence.window.from" :items="HOURS" label="From" /><v-select
              v-model="cadence.window.to"
              :items="HOURS"
              label="To"
            />
          </div>
          <p class="dim small mt-1">By the recipient’s clock; never on their holidays.</p>
          <h2 class="mt-5 mb-2">Exit rules</h2>
          <v-select
            v-model="cadence.exits.replied"
            :items="[
              { value: 'person', title: 'Only who replied' },
              { value: 'company', title: 'Everyone at the company' },
            ]"
            label="On a reply"
            class="mb-3"
          />
          <v-select
            v-model="cadence.exits.booked"
            :items="[
              { value: 'person', title: 'Only who booked' },
              { value: 'company', title: 'Everyone at the company' },
            ]"
            label="On a booked meeting"
            class="mb-3"
          />
          <v-checkbox v-model="cadence.cold" label="Cold: keep away from customers and companies in a deal" />
        </div>
        <section v-if="step" class="panel edit">
          <div class="spread">
            <h2>{{ stepIndex + 1 }}. {{ KINDS[step.kind] }}</h2>
            <div v-if="session.manages" class="row">
              <v-btn size="small" variant="text" :disabled="stepIndex === 0" @click="shift(-1)">Move up</v-btn
              ><v-btn size="small" variant="text" :disabled="stepIndex === cadence.steps.length - 1" @click="shift(1)"
                >Move down</v-btn
              ><v-btn size="small" variant="text" color="error" @click="askRemove">Delete</v-btn>
            </div>
          </div>
          <v-text-field v-model="step.name" label="Name" maxlength="200" />
          <div class="row">
            <v-text-field
              v-model.number="step.wait.amount"
              type="number"
              min="0"
              max="730"
              :label="stepIndex === 0 ? 'Wait after enrolling' : 'Wait after the step before'"
              :error-messages="at('wait.amount')"
            />
            <v-select v-model="step.wait.unit" :items="UNITS" label="Unit" />
          </div>
          <template v-if="step.kind === 'email'">
            <div class="row tabs">
              <button class="plain" :class="{ on: frame === 'edit' }" @click="frame = 'edit'">Template</button
              ><button class="plain" :class="{ on: frame === 'preview' }" @click="frame = 'preview'">
                As {{ plan?.who ?? 'somebody' }} gets it
              </button>
            </div>
            <template v-if="frame === 'edit'">
              <v-text-field v-model="step.subject" label="Subject" maxlength="300" :error-messages="at('subject')" />
              <v-textarea v-model="step.body" label="Text" rows="10" auto-grow :error-messages="at('body')" />
            </template>
            <div v-else class="letter">
              <b>{{ planned[step.id]?.subject || '(no subject)' }}</b>
              <p class="pre">{{ planned[step.id]?.body }}</p>
            </div>
            <p v-if="planned[step.id]?.missing.length" class="notice">
              For {{ plan?.who }} there is no {{ planned[step.id]!.missing.join(', ').replaceAll('_', ' ') }}, and no
              fallback: this mail would be held back.
            </p>
          </template>
          <v-textarea
            v-else
            v-model="step.body"
            :label="step.kind === 'call' ? 'Script' : 'What to do'"
            rows="8"
            auto-grow
            :error-messages="at('body')"
          />
          <p v-if="frame === 'edit' || step.kind !== 'email'" class="dim small">
            Fields:
            <button
              v-for="field in mergeable"
              :key="field.name"
              class="plain chip"
              :title="fieldTag(field.name)"
              @click="insert(field.name)"
            >
              {{ field.label }}
            </button>
          </p>
        </section>
        <section v-else class="panel edit">
          <p class="dim">
            A cadence is a climb: start with an email, call two business days later, and go on until there is a meeting.
            Add the first step on the left.
          </p>
        </section>
      </fieldset>
      <v-dialog v-model="removing" max-width="420" aria-label="Delete the step">
        <v-card v-if="step" class="pa-5"
          ><h2>Delete “{{ step.name }}”</h2>
          <p class="my-3">
            {{ peopleAt[step.id]?.toLocaleString('en-US') }}
            {{ peopleAt[step.id] === 1 ? 'prospect is' : 'prospects are' }} at this step. Once you save, they go on to
            the step after it; at the last step they finish the cadence.
          </p>
          <div class="row">
            <v-btn color="error" @click="remove">Delete</v-btn
            ><v-btn variant="text" @click="removing = false">Cancel</v-btn>
          </div></v-card
        >
      </v-dialog>
      <v-dialog v-model="archiving" max-width="440" aria-label="Archive the cadence">
        <v-card class="pa-5"
          ><h2>Archive “{{ cadence.name }}”</h2>
          <p class="my-3">
            {{
              inIt
                ? `${inIt.toLocaleString('en-US')} ${inIt === 1 ? 'prospect is' : 'prospects are'} in it.`
                : 'Nobody is in it.'
            }}
            Nobody can be enrolled in it any more.
          </p>
          <div class="row wrap">
            <v-btn color="primary" @click="setState('archived')">{{
              inIt ? 'Archive, let them finish' : 'Archive'
            }}</v-btn><v-btn v-if="inIt" variant="outlined" @click="setState('archived', 'leave')"
              >Archive, take them out</v-btn
            ><v-btn variant="text" @click="archiving = false">Cancel</v-btn>
          </div></v-card
        >
      </v-dialog>
    </template>
  </div>
</template>

<style scoped>
.who {
  flex: 0 0 280px;
}
.title {
  font: inherit;
  font-size: 1.5rem;
  font-weight: 650;
  border: 1px solid transparent;
  border-radius: 6px;
  padding: 2px 6px;
  margin-left: -7px;
  background: none;
  color: inherit;
  flex: 1;
}
.title:hover,
.title:focus {
  border-color: var(--line);
  background: var(--card);
}
.cols {
  display: grid;
  grid-template-columns: 320px minmax(0, 1fr);
  gap: 24px;
  margin-top: 12px;
}
.steps {
  list-style: none;
  padding: 0;
  margin: 0;
}
.steps li {
  display: flex;
  align-items: center;
  border-top: 1px solid var(--line);
}
.steps li.on {
  background: var(--card);
  box-shadow: inset 3px 0 var(--amber);
}
.grip {
  cursor: grab;
  color: var(--bark);
  padding: 10px 8px;
  letter-spacing: -2px;
}
.pick {
  display: flex;
  gap: 8px;
  align-items: center;
  padding: 6px 8px 6px 0;
  flex: 1;
  min-width: 0;
}
.pick small {
  display: block;
}
.edit {
  display: grid;
  gap: 12px;
  align-content: start;
}
.tabs {
  gap: 18px;
  border-bottom: 1px solid var(--line);
}
.tabs button {
  padding: 4px 0;
  color: var(--dim);
}
.tabs .on {
  color: var(--ink);
  box-shadow: inset 0 -2px var(--amber);
}
.letter {
  background: #fff;
  border: 1px solid var(--line);
  border-radius: 6px;
  padding: 14px 16px;
  min-height: 220px;
  display: grid;
  gap: 10px;
  align-content: start;
}
.day {
  display: flex;
  gap: 4px;
  align-items: center;
}
.wrap {
  flex-wrap: wrap;
}
select {
  font: inherit;
  padding: 2px 6px;
  border: 1px solid var(--line);
  border-radius: 6px;
  background: var(--card);
  color: var(--ink);
}
.chip {
  margin: 2px;
}
.chip:hover {
  background: var(--pine-soft);
}
@media (max-width: 760px) {
  .cols {
    grid-template-columns: minmax(0, 1fr);
  }
  .spread,
  .row {
    flex-wrap: wrap;
  }
  .title {
    min-width: 0;
    width: 100%;
  }
}
</style>
