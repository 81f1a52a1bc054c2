<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import type { z } from 'zod'
import { FIGURE_LABELS, WAITS_FOR } from '#core/cadence/figures'
import { EMAIL_WAITS, EXIT_REASONS, type ExitReason } from '#core/enumerations'
import { moveEnrollment, skipStep, unenroll } from '#shared/api/cadences/enrollments'
import { cadenceResultPeople } from '#shared/api/cadences/results'
import { newId } from '#shared/newId'
import { call } from '~/api/call'
import { useTimes } from '~/composables/times'
import { useNotices } from '~/stores/notices'

/** The people behind one figure of a step; those who are there can be moved on or taken out, one or several. */
export interface Figure {
  step: string
  stepName: string
  figure: z.input<typeof cadenceResultPeople.query>['figure']
  exit?: string
  version?: string
}
const asked = defineModel<Figure | null>({ required: true })
const props = defineProps<{
  cadenceId: string
  /** The steps they can be moved to, in order. */
  steps: readonly { id: string; name: string }[]
}>()
const emit = defineEmits<{ changed: [] }>()
const notices = useNotices()
const times = useTimes()
const found = shallowRef<z.output<typeof cadenceResultPeople.response> | null>(null)
const chosen = ref<string[]>([])
const busy = ref(false)
const open = computed({ get: () => asked.value !== null, set: (on) => (on ? undefined : (asked.value = null)) })
async function read(): Promise<void> {
  if (!asked.value) return
  const { step, figure, exit, version } = asked.value
  found.value = await call(cadenceResultPeople, {
    params: { id: props.cadenceId },
    query: { step, figure, ...(exit && { exit }), ...(version && { version }) },
  }).catch((error: unknown) => {
    notices.error(error)
    return null
  })
}
watch(asked, () => {
  found.value = null
  chosen.value = []
  void read()
})
/** Until when someone waits: after what names a limit it reads "until", elsewhere the moment goes on from the words. */
function untilOf({ waitsFor, until }: { waitsFor: string | null; until: number | null }): string {
  if (until === null) return ''
  return `${waitsFor! in EMAIL_WAITS ? ', until' : ''} ${times.moment(until)}`
}
const title = computed(() => {
  const figure = asked.value?.figure
  if (figure === 'here') return 'here now'
  if (figure === 'left') return `left: ${EXIT_REASONS[(asked.value?.exit ?? '') as ExitReason] ?? 'for any reason'}`
  return figure ? FIGURE_LABELS[figure] : ''
})
/** Does the same with everyone who is chosen, one after the other; says how many it was. */
async function each(work: (id: string) => Promise<unknown>, done: string): Promise<void> {
  busy.value = true
  let changed = 0
  for (const id of chosen.value) {
    const went = await work(id).then(
      () => true,
      (error: unknown) => {
        notices.error(error)
        return false
      },
    )
    if (went) changed++
  }
  notices.say(`${changed} ${changed === 1 ? 'prospect' : 'prospects'} ${done}.`)
  chosen.value = []
  busy.value = false
  emit('changed')
  await read()
}
const simply = (endpoint: typeof skipStep | typeof unenroll) => (id: string) =>
  call(endpoint, { params: { id }, body: { id: newId() } })
const move = (to: { stepId: string | null; dueAt: number | null }) => (id: string) =>
  call(moveEnrollment, { params: { id }, body: { id: newId(), ...to } })
/** Until when those who are chosen wait; null while that is not asked. */
const waiting = ref(false)
const until = ref<number | null>(null)
async function pause(): Promise<void> {
  if (until.value === null) return
  await each(move({ stepId: null, dueAt: until.value }), `wait until ${times.moment(until.value)}`)
  waiting.value = false
  until.value = null
}
const all = computed({
  get: () => found.value !== null && chosen.value.length === found.value.people.length && chosen.value.length > 0,
  set: (on) => {
    chosen.value = on ? (found.value?.people ?? []).map(({ enrollmentId }) => enrollmentId) : []
  },
})
</script>

<template>
  <v-dialog v-model="open" max-width="720" aria-label="People of this figure" scrollable>
    <v-card v-if="asked" class="pa-5">
      <h2>“{{ asked.stepName }}”, {{ title }}</h2>
      <p v-if="!found" class="dim" role="status">Loading …</p>
      <p v-else-if="!found.people.length" class="dim">Nobody you may see.</p>
      <template v-else>
        <CheckBox v-if="asked.figure === 'here'" v-model="all" :label="`All ${found.people.length}`" />
        <ul>
          <li v-for="one in found.people" :key="one.enrollmentId">
            <input
              v-if="asked.figure === 'here'"
              v-model="chosen"
              type="checkbox"
              :value="one.enrollmentId"
              :aria-label="one.name"
            />
            <NuxtLink :to="`/prospects/${one.id}`">{{ one.name }}</NuxtLink>
            <span class="dim small">{{ one.company }}</span>
            <span v-if="one.waitsFor" class="dim small">{{ WAITS_FOR[one.waitsFor] }}{{ untilOf(one) }}</span>
          </li>
        </ul>
        <p v-if="found.count > found.people.length" class="dim small">
          The first {{ found.people.length }} of {{ found.count.toLocaleString('en-US') }}.
        </p>
      </template>
      <form v-if="waiting && chosen.length" class="row mt-3" @submit.prevent="pause">
        <WhenField v-model="until" kind="task" :prospect-id="null" :time-zone="null" label="Wait until" class="grow" />
        <v-btn type="submit" color="primary" size="small" :disabled="until === null" :loading="busy">Pause</v-btn>
      </form>
      <div class="row mt-3">
        <template v-if="asked.figure === 'here' && chosen.length">
          <v-btn color="primary" :loading="busy" @click="each(simply(skipStep), 'went on to the next step')"
            >Skip this step for {{ chosen.length }}</v-btn
          ><v-menu
            ><template #activator="{ props: act }"
              ><v-btn v-bind="act" variant="outlined" :disabled="busy">Move to …</v-btn></template
            ><v-list
              ><v-list-item
                v-for="step in steps.filter(({ id }) => id !== asked!.step)"
                :key="step.id"
                :title="step.name"
                @click="each(move({ stepId: step.id, dueAt: null }), `moved to “${step.name}”`)" /></v-list></v-menu
          ><v-btn variant="outlined" :disabled="busy" @click="waiting = !waiting">Pause until …</v-btn
          ><v-btn variant="outlined" :disabled="busy" @click="each(simply(unenroll), 'removed from the cadence')"
            >Remove {{ chosen.length }}</v-btn
          >
        </template>
        <v-btn variant="text" @click="open = false">Close</v-btn>
      </div>
    </v-card>
  </v-dialog>
</template>

<style scoped>
ul {
  max-height: 52vh;
  overflow: auto;
  list-style: none;
  padding: 0;
  margin: 8px 0 0;
}
li {
  display: flex;
  gap: 10px;
  align-items: baseline;
  padding: 5px 2px;
  border-top: 1px solid var(--line);
}
li > :last-child {
  margin-left: auto;
}
</style>
