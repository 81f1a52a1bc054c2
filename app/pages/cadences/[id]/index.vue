<script setup lang="ts">
import { watchDebounced } from '@vueuse/core'
import { computed, nextTick, onMounted, ref, shallowRef, useTemplateRef } from 'vue'
import type { z } from 'zod'
import { whatChanges, type StepChange } from '#core/cadence/changes'
import { STEP_KINDS, capitalized } from '#core/enumerations'
import { onBeforeRouteLeave, useRoute, useRouter } from '#imports'
import { copyCadence, editCadence, getCadence, planCadence, setCadenceState } from '#shared/api/cadences/cadences'
import type { Cadence, StepDraft } from '#shared/api/cadences/cadences'
import { listProspects } from '#shared/api/prospects'
import { ApiError, call, messageOf } from '~/api/call'
import { useCadenceSteps, useWaysInWords } from '~/components/cadences/cadenceSteps'
import { useTimes } from '~/composables/times'
import { useNotices } from '~/stores/notices'

const route = useRoute()
const id = route.params.id as string
const router = useRouter()
const times = useTimes()
const notices = useNotices()
const cadence = ref<Cadence | null>(null)
const editable = ref(false)
const saved = ref('')
const sayWay = useWaysInWords()
const {
  selected,
  target,
  step,
  stepIndex,
  canMove,
  previous,
  addingTo,
  usedWays,
  add,
  copy: copySteps,
  paste,
  remove,
  shift,
  changeStep,
  setWait,
} = useCadenceSteps(cadence)
const plan = shallowRef<z.output<typeof planCadence.response> | null>(null)
/** Why the plan could not be worked out. */
const planError = ref('')
const people = ref<{ id: string; name: string }[]>([])
const prospectId = ref<string | null>(null)
const formError = ref<ApiError | null>(null)
const lastError = ref('')
const busy = ref(false)
const editor = useTemplateRef<HTMLElement>('editor')
/** Shown once its plan is there too, so that nothing moves. */
const ready = ref(false)
const planned = computed(() => Object.fromEntries((plan.value?.steps ?? []).map((one) => [one.stepId, one])))
/** How many are at each step, by its id. */
const peopleAt = ref<Record<string, number>>({})
/** Earlier versions that people finish. */
const earlier = ref<z.output<typeof getCadence.response>['earlier']>([])
const inIt = computed(() => Object.values(peopleAt.value).reduce((sum, count) => sum + count, 0))
/** How many are in it as it is now. */
const peopleNow = computed(() => earlier.value.reduce((left, { people }) => left - people, inIt.value))
const dirty = computed(() => cadence.value !== null && JSON.stringify(cadence.value) !== saved.value)
const faulty = computed(() => [
  ...(plan.value?.steps.filter((one) => one.faults.length).map((one) => one.stepId) ?? []),
  ...(formError.value?.problems
    .map((problem) => cadence.value?.steps[Number(/^steps\.(\d+)/.exec(problem.field)?.[1])]?.id)
    .filter((one) => one !== undefined) ?? []),
])

async function read(): Promise<void> {
  try {
    const { people: here, earlier: before, mayEdit, ...read } = await call(getCadence, { params: { id } })
    editable.value = mayEdit
    cadence.value = read
    peopleAt.value = here
    earlier.value = before
    saved.value = JSON.stringify(cadence.value)
    if (!read.steps.some((one) => one.id === selected.value)) selected.value = read.steps[0]?.id ?? null
  } catch (error) {
    lastError.value = messageOf(error, 'This cadence could not be read')
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
    name: one.name || capitalized(STEP_KINDS[one.kind]),
    wait: { ...one.wait, amount: Math.max(0, Math.round(Number(one.wait.amount) || 0)) },
  }))
  try {
    plan.value = await call(planCadence, {
      body: { prospectId: prospectId.value, windowId: cadence.value.windowId, steps },
      signal: looking.signal,
    })
    planError.value = ''
  } catch (error) {
    if (error instanceof ApiError) planError.value = error.message
  }
}
watchDebounced([cadence, prospectId], look, { deep: true, debounce: 150 })
onMounted(async () => {
  await read()
  const { step: asked } = route.query
  const isAsked = cadence.value?.steps.some((one) => one.id === asked)
  if (isAsked) selected.value = asked as string
  people.value = await call(listProspects, { query: { limit: 10 } }).then(
    (answer) => answer.prospects,
    () => [],
  )
  prospectId.value = people.value[0]?.id ?? null
  await look()
  ready.value = true
  await nextTick()
  if (isAsked) editor.value?.scrollIntoView()
})
onBeforeRouteLeave(() => !dirty.value || window.confirm('This cadence has unsaved changes. Leave without saving?'))

const who = computed(() => people.value.find((one) => one.id === prospectId.value)?.name ?? plan.value?.who ?? '')
const archiving = ref(false)
async function setState(to: 'active' | 'paused' | 'archived', people: 'finish' | 'leave' = 'finish'): Promise<void> {
  try {
    const { version, left } = await call(setCadenceState, { params: { id }, body: { to, people } })
    Object.assign(cadence.value!, { version, status: to })
    saved.value = JSON.stringify({ ...JSON.parse(saved.value), version, status: to })
    archiving.value = false
    const SAID = {
      paused: 'Paused: it takes no steps and sends no email until you resume it.',
      active: 'Resumed.',
      archived: left ? `Archived. ${left} leave it; see Bulk actions.` : 'Archived.',
    }
    notices.say(SAID[to])
  } catch (error) {
    notices.error(error)
  }
}
async function copy(): Promise<void> {
  try {
    const made = await call(copyCadence, { params: { id } })
    window.location.assign(`/cadences/${made.id}`)
  } catch (error) {
    notices.error(error)
  }
}
/** Asks first where people are in a cadence whose steps were changed: what it means for them is said. */
const asking = ref(false)
const changes = shallowRef<StepChange[]>([])
function askSave(): void {
  const before = (JSON.parse(saved.value) as Cadence).steps
  const placed = (steps: readonly StepDraft[]) => steps.map((one, position) => ({ ...one, position, cadenceId: id }))
  changes.value = whatChanges(placed(before), placed(cadence.value!.steps), peopleAt.value)
  const sameSteps = JSON.stringify(before) === JSON.stringify(cadence.value!.steps)
  if (sameSteps || !peopleNow.value) return void save()
  asking.value = true
}
async function save(status = cadence.value!.status, underWay: 'move' | 'finish' = 'move'): Promise<void> {
  if (busy.value) return
  asking.value = false
  busy.value = true
  formError.value = null
  try {
    const { id: _, ...body } = cadence.value!
    const { version } = await call(editCadence, { params: { id }, body: { ...body, status, underWay } })
    const starts = status === 'active' && body.status !== 'active'
    Object.assign(cadence.value!, { version, status })
    saved.value = JSON.stringify(cadence.value)
    // The steps of a new version have ids of their own.
    if (underWay === 'finish') await read()
    notices.say(starts ? 'Saved. People can be enrolled.' : 'Saved.')
  } catch (error) {
    if (!(error instanceof ApiError)) throw error
    formError.value = error
    const first = Number(/^steps\.(\d+)/.exec(error.problems[0]?.field ?? '')?.[1])
    if (!Number.isNaN(first)) selected.value = cadence.value!.steps[first]?.id ?? selected.value
    if (!error.problems.length) notices.error(error)
  }
  busy.value = false
}
const at = (field: string) =>
  formError.value?.at(`steps.${stepIndex.value}.${field}`) ??
  planned.value[selected.value ?? '']?.faults
    .filter((fault) => fault.field === field)
    .map((fault) => `Line ${fault.line}: ${fault.message}`)[0]
</script>

<template>
  <div class="page">
    <p class="dim small back"><NuxtLink to="/cadences">Cadences</NuxtLink></p>
    <p v-if="lastError" class="notice clay" role="alert">{{ lastError }}</p>
    <p v-else-if="!ready" class="dim" role="status">Loading …</p>
    <template v-if="cadence && ready">
      <h1 class="sr">{{ cadence.name }}</h1>
      <CadenceHead
        v-model="cadence.name"
        :cadence="cadence"
        :people="inIt"
        :dirty="dirty"
        :busy="busy"
        :editable="editable"
        @save="askSave"
        @start="save('active')"
        @status="setState"
        @copy="copy"
        @archive="archiving = true"
      >
        <button v-if="route.query.launch" type="button" class="link small" @click="router.back()">
          Back to the launch
        </button>
      </CadenceHead>
      <p
        v-if="formError && !formError.at(`steps.${stepIndex}.body`) && !formError.at(`steps.${stepIndex}.subject`)"
        class="notice clay mb-2"
        role="alert"
      >
        {{ formError.message }}
      </p>
      <p v-for="one in earlier" :key="one.version" class="notice slim mb-2" role="note">
        {{ one.people.toLocaleString('en-US') }} {{ one.people === 1 ? 'prospect finishes' : 'prospects finish' }} the
        earlier version (until {{ times.moment(one.until) }}).
        <NuxtLink :to="`/cadences/${id}/results`" class="link">See them in the results</NuxtLink>
      </p>
      <AboutCadence v-model="cadence" :readonly="!editable" class="mb-3" />
      <div class="row mb-1">
        <ProspectField
          v-model="prospectId"
          :offered="people"
          label="If started now for"
          placeholder="no one in particular"
          class="who"
        />
        <span v-if="plan" class="dim small"
          >times where they are: {{ times.zoneName(plan.timeZone)
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
        :time-zone="plan.timeZone"
        :selected="selected"
        :faulty="faulty"
        :way-in-words="sayWay"
        @select="selected = $event"
        @wait="(stepId, amount) => editable && setWait(stepId, amount)"
      />
      <p v-if="planError" class="notice" role="status">
        {{ plan ? 'The slope shows the steps before your last change' : 'The slope cannot be drawn yet' }}:
        {{ planError }}.
      </p>
      <fieldset ref="editor" class="cols" :disabled="!editable">
        <div>
          <h2 class="mb-2">Steps</h2>
          <StepList
            v-model="cadence.steps"
            v-model:selected="selected"
            :target="target"
            :who="prospectId ? who : ''"
            :way-in-words="sayWay"
            :people-at="peopleAt"
            :planned="planned"
            :time-zone="plan?.timeZone"
            :disabled="!editable"
            @target="target = $event"
          />
          <AddStep v-if="editable" :where="addingTo" @add="add" @paste="paste" />
        </div>
        <StepEditor
          v-if="step"
          :step="step"
          :index="stepIndex"
          :can-move="canMove"
          :previous="previous"
          :people="peopleAt[step.id] ?? 0"
          :editable="editable"
          :used-ways="usedWays"
          :planned="planned[step.id]"
          :who="plan?.who"
          :error-at="at"
          @change="changeStep"
          @shift="shift"
          @copy="copySteps"
          @remove="remove"
        />
        <section v-else class="panel edit">
          <p class="dim">
            A cadence is a climb: start with an email, call two business days later, and go on until there is a meeting.
            Add the first step on the left.
          </p>
        </section>
        <CadenceRules v-model="cadence" :form-error="formError" class="after" />
        <ActionList
          v-model="cadence.afterLast"
          title="After the last step"
          none="Nothing more: the prospect gets a follow-up, like everyone without a next step."
          field="afterLast"
          :form-error="formError"
          :disabled="!editable"
          class="panel after"
        />
      </fieldset>
      <SaveChanges v-model="asking" :changes="changes" :people="peopleNow" @save="save(cadence.status, $event)" />
      <ArchiveCadence v-model="archiving" :name="cadence.name" :people="inIt" @archive="setState('archived', $event)" />
    </template>
  </div>
</template>

<style scoped>
.who {
  flex: 0 0 280px;
}
.cols {
  display: grid;
  grid-template-columns: 320px minmax(0, 1fr);
  gap: 24px;
  margin-top: 12px;
  scroll-margin-top: 130px;
}
.after {
  grid-column: 1 / -1;
}
.edit {
  display: grid;
  gap: 12px;
  align-content: start;
}
@media (max-width: 760px) {
  .cols {
    grid-template-columns: minmax(0, 1fr);
  }
  .spread,
  .row {
    flex-wrap: wrap;
  }
}
</style>
