<script setup lang="ts">
import { computed, onMounted, ref, shallowRef, watch } from 'vue'
import { navigateTo, useRoute } from '#imports'
import { editCadence, getCadence, type Cadence } from '#shared/api/cadences/cadences'
import { forecastLaunch, launchCadence } from '#shared/api/cadences/launch'
import { listProspects } from '#shared/api/prospects'
import { filterFields } from '#shared/api/lists'
import { newId } from '#shared/newId'
import { useAnswer } from '~/composables/answer'
import { call, messageOf } from '~/api/call'
import { useWaysInWords } from '~/components/cadences/cadenceSteps'
import { useSending } from '~/composables/sending'
import { useTimes } from '~/composables/times'
import { useNotices } from '~/stores/notices'

/** One page before a cadence starts with people: who and when, who not and why, and the work it brings each rep. */
const route = useRoute()
const id = route.params.id as string
const times = useTimes()
const notices = useNotices()
const sayWay = useWaysInWords()
const cadence = shallowRef<Cadence | null>(null)
/** Whether the rules of the cadence may be changed by who looks at it. */
const mayEdit = ref(false)
const lastError = ref('')
/** Where the people come from. */
const from = ref<'list' | 'person' | 'import' | 'chosen'>('list')
const list = ref<string | null>(null)
const prospectId = ref<string | null>(null)
const importId = ref<string | null>(null)
const chosen = ref<string[]>([])
const lists = shallowRef<readonly { id: string; name: string }[]>([])
const imports = shallowRef<readonly { id: string; name: string }[]>([])
const offered = shallowRef<{ id: string; name: string }[]>([])
const later = ref(false)
const startAt = ref<number | null>(null)
const perDay = ref<number | null>(null)
/** Which of the sources is chosen, as the request says it; null where nobody is. */
const who = computed(() => {
  if (from.value === 'list') return list.value ? { list: list.value } : null
  if (from.value === 'person') return prospectId.value ? { prospectIds: [prospectId.value] } : null
  if (from.value === 'chosen') return chosen.value.length ? { prospectIds: chosen.value } : null
  if (!importId.value) return null
  return { filter: { field: 'import', test: { op: 'anyOf' as const, values: [importId.value] } } }
})
const at = computed(() => (later.value ? startAt.value : null))
/** The number a day is a rule of the cadence: another one is saved by itself, or with the start. */
const changed = computed(() => cadence.value !== null && (perDay.value || null) !== cadence.value.entry.perDay)
onMounted(async () => {
  try {
    const [answer, { fields }, { prospects }] = await Promise.all([
      call(getCadence, { params: { id } }),
      call(filterFields),
      call(listProspects, { query: { limit: 10 } }),
    ])
    const { people: _people, earlier: _earlier, mayEdit: editable, ...read } = answer
    const choices = (key: string) => fields.find((field) => field.key === key)?.choices ?? []
    lists.value = choices('lists')
    imports.value = choices('import')
    offered.value = prospects
    perDay.value = read.entry.perDay
    mayEdit.value = editable
    const { list: onList, person, people, import: file, at: moment, perDay: daily } = route.query
    if (typeof onList === 'string') list.value = onList
    if (typeof person === 'string') [from.value, prospectId.value] = ['person', person]
    if (typeof file === 'string') [from.value, importId.value] = ['import', file]
    if (typeof people === 'string') [from.value, chosen.value] = ['chosen', people.split(',')]
    if (Number(moment)) [later.value, startAt.value] = [true, Number(moment)]
    if (typeof daily === 'string') perDay.value = Number(daily) || null
    cadence.value = read
  } catch (error) {
    lastError.value = messageOf(error, 'This cadence could not be read')
  }
})
/** What is chosen, kept in the address, for the way back from a step or the windows. */
const address = computed(() => ({
  ...(from.value === 'list' && list.value && { list: list.value }),
  ...(from.value === 'person' && prospectId.value && { person: prospectId.value }),
  ...(from.value === 'import' && importId.value && { import: importId.value }),
  ...(from.value === 'chosen' && { people: chosen.value.join(',') }),
  ...(at.value && { at: String(at.value) }),
  ...(changed.value && { perDay: String(perDay.value || 0) }),
}))
const {
  answer: forecast,
  isLoading: looking,
  lastError: forecastError,
} = useAnswer(
  forecastLaunch,
  () =>
    who.value && !(later.value && !startAt.value)
      ? { params: { id }, body: { who: who.value, startAt: at.value, perDay: perDay.value || null } }
      : null,
  { failed: 'That could not be looked up' },
)
const planned = computed(() => Object.fromEntries((forecast.value?.steps ?? []).map((step) => [step.stepId, step])))
watch(address, (query) => {
  if (cadence.value) void navigateTo({ query }, { replace: true })
})
const { formError, busy, send } = useSending()
const start = () =>
  send(async () => {
    const { touches } = await call(launchCadence, {
      params: { id },
      body: {
        id: newId(),
        who: who.value!,
        startAt: at.value,
        ...(changed.value && { perDay: perDay.value || null }),
      },
    })
    notices.say(`Starting ${touches.toLocaleString('en-US')}; the result is under Bulk actions.`)
    await navigateTo('/changes')
  })
const save = () =>
  send(async () => {
    const { id: _id, ...content } = cadence.value!
    const body = { ...content, entry: { ...content.entry, perDay: perDay.value || null } }
    const { version } = await call(editCadence, { params: { id }, body })
    cadence.value = { ...body, id, version }
    notices.say('Saved.')
  })
const count = (people: number, noun = 'prospect') =>
  `${people.toLocaleString('en-US')} ${noun}${people === 1 ? '' : 's'}`
const startDays = computed(() => {
  const days = forecast.value?.startDays ?? []
  const [first] = days
  const last = days.at(-1)
  if (!first || !last) return ''
  const say = (day: string) => times.day(Date.parse(`${day}T12:00:00Z`), 'UTC')
  return days.length === 1 ? `all on ${say(first.day)}` : `from ${say(first.day)} to ${say(last.day)}`
})
</script>

<template>
  <div class="page">
    <p class="dim small back">
      <NuxtLink to="/cadences">Cadences</NuxtLink> · <NuxtLink :to="`/cadences/${id}`">{{ cadence?.name }}</NuxtLink>
    </p>
    <h1 class="mb-3">Start {{ cadence ? `“${cadence.name}”` : 'a cadence' }}</h1>
    <p v-if="cadence && cadence.status !== 'active'" class="notice mb-3">
      This cadence is {{ cadence.status }}. <NuxtLink :to="`/cadences/${id}`" class="link">Save and start it</NuxtLink>
      before anyone can enter.
    </p>
    <div v-if="cadence" class="cols">
      <section class="panel ask" aria-label="Who and when">
        <h2>Who</h2>
        <v-btn-toggle v-model="from" mandatory density="compact" variant="outlined" class="from">
          <v-btn value="list" size="small">A list</v-btn><v-btn value="person" size="small">One person</v-btn
          ><v-btn value="import" size="small">An import</v-btn
          ><v-btn v-if="chosen.length" value="chosen" size="small">Selected</v-btn>
        </v-btn-toggle>
        <v-autocomplete
          v-if="from === 'list'"
          v-model="list"
          :items="lists"
          item-value="id"
          item-title="name"
          label="List"
        />
        <ProspectField v-else-if="from === 'person'" v-model="prospectId" :offered="offered" label="Prospect" />
        <template v-else-if="from === 'import'">
          <v-autocomplete v-model="importId" :items="imports" item-value="id" item-title="name" label="File" />
          <p class="dim small">Not here yet? <NuxtLink to="/imports" class="link">Import a file</NuxtLink></p>
        </template>
        <p v-else class="small">{{ count(chosen.length) }} selected in the list.</p>
        <h2>When</h2>
        <CheckBox v-model="later" label="At a later time" />
        <WhenField v-if="later" v-model="startAt" kind="task" :prospect-id="null" :time-zone="null" label="Start" />
        <v-text-field
          v-model.number="perDay"
          type="number"
          min="1"
          label="People who start a day, at most (optional)"
          placeholder="no limit"
          :readonly="!mayEdit"
          :hint="mayEdit ? undefined : 'A rule of the cadence, which only its owner and managers change'"
          persistent-placeholder
        />
        <p v-if="changed" class="notice small">
          This limit is saved with the cadence when you start or save. It then applies to everyone who enters it.
        </p>
        <p v-if="formError" class="notice clay" role="alert">{{ formError.message }}</p>
        <div class="row">
          <v-btn
            color="primary"
            :disabled="!forecast?.starts || cadence.status !== 'active'"
            :loading="busy"
            @click="start"
            >Start {{ forecast ? count(forecast.starts) : '' }}</v-btn
          ><v-btn v-if="changed" variant="outlined" :loading="busy" @click="save">Save</v-btn
          ><v-btn variant="text" :to="`/cadences/${id}`">Back</v-btn>
        </div>
      </section>
      <section class="found">
        <p v-if="forecastError" class="notice clay" role="alert">{{ forecastError }}</p>
        <p v-else-if="looking" class="dim" role="status">Working it out …</p>
        <p v-else-if="!forecast" class="dim">
          Choose who is to start. What happens then is shown here before anything is done.
        </p>
        <template v-if="forecast">
          <p class="lead">
            <b>{{ count(forecast.starts) }}</b> of {{ forecast.found.toLocaleString('en-US') }} start{{
              startDays ? `, ${startDays}` : ''
            }}.
          </p>
          <p v-if="forecast.advice" class="notice clay mt-2" role="alert">
            {{ forecast.advice.message }}.
            <button
              v-if="forecast.advice.perDay && mayEdit"
              type="button"
              class="link"
              @click="perDay = forecast.advice.perDay"
            >
              Limit it to {{ forecast.advice.perDay }} a day
            </button>
          </p>
          <template v-if="forecast.starts">
            <LaunchLoad :days="forecast.days" :reps="forecast.reps" class="mt-3" />
            <h2 class="mt-4">Steps, for the first to start</h2>
            <p class="dim small">
              Times where they are: {{ times.zoneName(forecast.timeZone) }}. Choose a step to read or edit it.
            </p>
            <CadenceSlope
              :steps="cadence.steps"
              :planned="planned"
              :start="Math.max(forecast.now, at ?? 0)"
              :time-zone="forecast.timeZone"
              :selected="null"
              :faulty="[]"
              :way-in-words="sayWay"
              @select="navigateTo({ path: `/cadences/${id}`, query: { step: $event, launch: '1' } })"
            />
            <Suspense v-if="cadence.steps.some(({ kind }) => kind === 'email')">
              <LaunchSending :window-id="cadence.windowId" :sender-ids="forecast.reps.flatMap((rep) => rep.id ?? [])" />
            </Suspense>
          </template>
          <template v-if="forecast.refused.length">
            <h2 class="mt-4">Skipped</h2>
            <details v-for="group in forecast.refused" :key="group.why" class="skipped">
              <summary>
                <b class="num">{{ group.count.toLocaleString('en-US') }}</b> {{ group.why }}
              </summary>
              <p class="small">
                <NuxtLink v-for="one in group.people" :key="one.id" :to="`/prospects/${one.id}`" class="link name">{{
                  one.name
                }}</NuxtLink><span v-if="group.count > group.people.length" class="dim">
                  and {{ group.count - group.people.length }} more</span
                >
              </p>
            </details>
          </template>
        </template>
      </section>
    </div>
    <p v-else-if="lastError" class="notice clay" role="alert">{{ lastError }}</p>
  </div>
</template>

<style scoped>
.cols {
  display: grid;
  grid-template-columns: 340px minmax(0, 1fr);
  gap: 24px;
  align-items: start;
}
.ask {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 12px;
  position: sticky;
  top: 60px;
}
.ask .row {
  flex-wrap: wrap;
}
.lead {
  font-size: 1.15rem;
}
.skipped {
  border-top: 1px solid var(--line);
  padding: 6px 2px;
}
.name {
  margin-right: 10px;
}
@media (max-width: 900px) {
  .cols {
    grid-template-columns: 1fr;
  }
  .ask {
    position: static;
  }
}
</style>
