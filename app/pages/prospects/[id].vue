<script setup lang="ts">
import { useEventListener, useDebounceFn } from '@vueuse/core'
import { EXIT_REASONS } from '#core/enumerations'
import { computed, onMounted, ref, shallowRef, type Ref } from 'vue'
import type { z } from 'zod'
import { navigateTo, useHead, useRoute } from '#imports'
import { unenroll } from '#shared/api/cadences/enrollments'
import { brief as readBrief, type Brief } from '#shared/api/desk/desk'
import { findDuplicates } from '#shared/api/duplicates'
import { prospectHistory, undo, type HistoryEntry } from '#shared/api/events/history'
import { stages as readStages } from '#shared/api/settings/stages'
import { newId } from '#shared/newId'
import { ApiError, call, messageOf } from '~/api/call'
import { useChanges } from '~/api/changes'
import { useKeys } from '~/composables/keys'
import { useTimes } from '~/composables/times'
import { useNotices } from '~/stores/notices'
import { useSession } from '~/stores/session'

const route = useRoute()
const times = useTimes()
const notices = useNotices()
const session = useSession()
const id = route.params.id as string
const brief = shallowRef<Brief | null>(null)
const entries = shallowRef<HistoryEntry[]>([])
const stages = ref<z.output<typeof readStages.response>['stages']>([])
const gateFields = ref<z.output<typeof readStages.response>['fields']>([])
const doubles = shallowRef<z.output<typeof findDuplicates.response>['pairs']>([])
const lastError = ref('')
const editing = ref(false)
const enrolling = ref(false)
const writing = ref(false)
const texting = ref(false)
const moving = ref(false)
const person = computed(() => brief.value?.prospect ?? null)
const pinned = computed(() => brief.value?.notes.find((note) => note.pinned))
/** How often there was a touch of each kind. */
const counts = computed(() =>
  KINDS.flatMap(([kind, one, many]) =>
    person.value?.touchCounts[kind]
      ? [`${person.value.touchCounts[kind]} ${person.value.touchCounts[kind] === 1 ? one : many}`]
      : [],
  ).join(' · '),
)
const next = computed(() => person.value?.tasks[0]?.dueAt ?? null)
const lastUndoable = computed(() => entries.value.find((entry) => entry.canUndo))

/** How many times the page was read; an answer that comes after a later one is out of date. */
let reads = 0
async function read(): Promise<void> {
  const mine = ++reads
  try {
    const [response, history, all, like] = await Promise.all([
      call(readBrief, { params: { id } }),
      call(prospectHistory, { params: { id } }),
      call(readStages),
      call(findDuplicates, { query: { about: id, limit: 5 } }),
    ])
    if (mine !== reads) return
    doubles.value = like.pairs
    brief.value = response
    entries.value = history.entries
    stages.value = all.stages.filter((stage) => !stage.archived)
    gateFields.value = all.fields
    lastError.value = ''
  } catch (error) {
    lastError.value = messageOf(error, 'This person could not be read')
  }
}
/** Anyone who went is looked at as the one who was kept. */
async function settled(primaryId: string | null): Promise<void> {
  if (primaryId && primaryId !== id) await navigateTo(`/prospects/${primaryId}`)
  else await read()
}
const again = () => {
  void read()
}
onMounted(again)
useEventListener(window, 'world-moved', again)
// What colleagues, other tabs and the program do with them.
useChanges('prospect', useDebounceFn(read, 300, { maxWait: 2_000 }), { about: id, seconds: 300 })

async function act(work: () => Promise<{ summary?: string } | void>): Promise<boolean> {
  try {
    const done = await work()
    if (done?.summary) notices.say(done.summary)
    await read()
    return true
  } catch (error) {
    notices.error(error)
    if (error instanceof ApiError && error.code === 'conflict') await read()
    return false
  }
}
const calling = ref(false)
const planning = ref(false)
const dealing = ref(false)
const purpose = ref<'call' | 'log' | 'meeting'>('call')
function callFor(why: typeof purpose.value): void {
  purpose.value = why
  calling.value = true
}
const show = (dialog: Ref<boolean>) => () => {
  dialog.value = true
}
const actions = [
  { key: 'c', label: 'Call', main: true, run: () => callFor('call') },
  { key: 'l', label: 'Log a call', run: () => callFor('log') },
  { key: 'o', label: 'Plan', run: show(planning) },
  {
    key: 'e',
    label: 'Email',
    run: () => {
      texting.value = false
      writing.value = true
    },
  },
  {
    key: 't',
    label: 'Text',
    run: () => {
      writing.value = false
      texting.value = false
      texting.value = true
    },
  },
  { key: 'm', label: 'Meeting', run: () => callFor('meeting') },
  { key: 'd', label: 'Deal', run: show(dealing) },
  { key: 'g', label: 'Enroll', run: show(enrolling) },
  { key: 's', label: 'Change stage', run: show(moving) },
]
useKeys([
  ...actions.map(({ key, label, run }) => ({
    key,
    label,
    run: () => {
      if (person.value) run()
    },
  })),
  {
    key: 'i',
    label: 'Edit',
    run: () => {
      if (person.value) editing.value = true
    },
  },
  { key: 'n', label: 'Add a note', run: () => document.getElementById('keep')?.focus() },
  {
    key: 'Escape',
    label: 'Close',
    always: true,
    run: () => {
      writing.value = false
      texting.value = false
    },
  },
  {
    key: 'z',
    label: 'Undo the last one',
    run: () => {
      if (lastUndoable.value) void takeBack(lastUndoable.value)
    },
  },
])
const archiving = ref(false)
const leave = (enrollmentId: string) =>
  act(() => call(unenroll, { params: { id: enrollmentId }, body: { id: newId() } }))
const KINDS = [
  ['call', 'call', 'calls'],
  ['text', 'text', 'texts'],
  ['email', 'email', 'emails'],
  ['reply', 'reply', 'replies'],
  ['meeting', 'meeting', 'meetings'],
  ['visit', 'visit', 'visits'],
  ['task', 'task', 'tasks'],
] as const
const takeBack = (entry: HistoryEntry) =>
  act(async () => {
    const { undone, unchanged } = await call(undo, { params: { id: entry.id }, body: { id: newId() } })
    return {
      summary: [
        `Undone: ${undone} ${undone === 1 ? 'change' : 'changes'}.`,
        ...unchanged.map((sentence) => `${sentence}.`),
      ].join(' '),
    }
  })
useHead({ title: computed(() => person.value?.name ?? 'Prospect') })
function sent(): void {
  writing.value = false
  texting.value = false
  void read()
}
</script>

<template>
  <div class="page">
    <p v-if="lastError" class="notice clay" role="alert">
      {{ lastError }} <button class="link" @click="read">Try again</button>
    </p>
    <template v-if="brief && person">
      <PersonHead :person="person" :now="brief.now" @changed="read" />
      <div class="row acts mt-2" role="toolbar" aria-label="Actions">
        <v-btn
          v-for="one in actions"
          :key="one.key"
          size="small"
          :color="one.main ? 'primary' : undefined"
          :variant="one.main ? 'flat' : 'outlined'"
          @click="one.run"
          >{{ one.label }} <kbd class="ml-2">{{ one.key.toUpperCase() }}</kbd></v-btn
        >
        <button class="link small" @click="editing = true">Edit <kbd aria-hidden="true">I</kbd></button>
        <button v-if="session.manages && person.status !== 'archived'" class="link small" @click="archiving = true">
          Archive
        </button>
      </div>
      <DuplicatePair
        v-for="pair in doubles"
        :key="pair.one.id + pair.other.id"
        :pair="pair"
        :about="id"
        class="mt-3"
        @settled="settled"
        @undone="read"
      />
      <section v-if="writing" class="panel mt-3">
        <MailWriter :brief="brief" begin @sent="sent()" />
      </section>
      <section v-if="texting" class="panel mt-3">
        <TextWriter v-if="brief.textGateway" :brief="brief" :task-id="null" begin @sent="sent()" />
        <p v-else class="dim">No gateway for texts is connected: send it from your phone, then log it as a task.</p>
      </section>
      <p v-if="pinned" class="notice pinned pre">
        <b>Pinned.</b> {{ pinned.body }} <span class="dim small num">{{ pinned.by }}, {{ times.day(pinned.at) }}</span>
      </p>
      <div class="cols mt-3">
        <div>
          <SlopeClimb v-if="brief.slope" :steps="brief.slope.steps" :cadence="brief.slope.cadence" />
          <section class="panel mb-3">
            <div class="spread">
              <h3>The thread</h3>
              <span class="dim small num">{{ counts || 'no touch yet' }}</span>
            </div>
            <ThreadLine
              :touches="brief.touches"
              :since="person.createdAt"
              :now="brief.now"
              :next="next"
              :deals="person.deals"
            />
          </section>
          <div class="spread">
            <h2>Activity</h2>
            <v-btn v-if="lastUndoable" size="small" variant="outlined" @click="takeBack(lastUndoable)"
              >Undo “{{ lastUndoable.title }}”</v-btn
            >
          </div>
          <ActivityList :entries="entries" @undo="takeBack" />
        </div>
        <aside>
          <NextSteps v-if="person.tasks.length + person.scheduled.length" :person="person" @changed="read" />
          <ReachPanel :person="person" @changed="read" />
          <BestTime v-if="!person.stopCall" :prospect-id="id" :first-name="person.firstName" />
          <KnownFields :person="person" @changed="read" />
          <section v-if="person.enrollments.length" class="panel">
            <h3>Cadences</h3>
            <p v-for="one in person.enrollments" :key="one.id" class="spread">
              <span class="grow"
                >{{ one.cadence }}<br /><span class="dim small">{{
                  one.status === 'ended' ? `ended: ${one.exit && EXIT_REASONS[one.exit]}` : one.status
                }}</span></span
              ><button v-if="one.status !== 'ended'" class="link small" @click="leave(one.id)">
                Remove from cadence
              </button>
            </p>
          </section>
          <MeetingList v-if="person.meetings.length" :person="person" :now="brief.now" @changed="read" />
          <DealSheet v-for="deal in person.deals" :key="deal.id" :deal="deal" @changed="read" />
          <section v-if="person.colleagues.length" class="panel">
            <h3>Also at {{ person.company?.name }}</h3>
            <p v-for="one in person.colleagues" :key="one.id" class="spread">
              <NuxtLink :to="`/prospects/${one.id}`">{{ one.name }}</NuxtLink><span class="dim small">{{
                one.stage
              }}</span>
            </p>
          </section>
          <NoteList :prospect-id="id" :notes="brief.notes" @changed="read" />
          <PersonData v-if="session.manages" :person="person" @erased="read" />
          <p class="dim small">
            {{ person.owner ? `Owned by ${person.owner.name}` : 'No owner'
            }}{{ person.source ? ` · from ${person.source}` : '' }}
          </p>
        </aside>
      </div>
      <EnrollDialog v-model="enrolling" :prospect-ids="[id]" @done="read" />
      <CallSheet v-model="calling" :prospect-id="id" :purpose="purpose" @done="read" />
      <DealDialog v-model="dealing" :person="person" @done="read" />
      <PlanDialog v-model="planning" :person="person" :has-phone="person.phones.length > 0" @done="read" />
      <ArchivePerson v-model="archiving" :person="person" @done="read" />
      <StageDialog v-model="moving" :person="person" :stages="stages" :gate-fields="gateFields" @done="read" />
      <EditPerson v-model="editing" :person="person" @done="read" />
    </template>
  </div>
</template>

<style scoped>
.cols {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 300px;
  gap: 24px;
}
aside {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 12px;
  align-content: start;
}
aside .panel p {
  padding: 2px 0;
}
aside .panel p a,
aside .panel p .link {
  display: inline-block;
  min-height: 24px;
  line-height: 24px;
}
.pinned {
  margin-top: 10px;
}
.acts {
  flex-wrap: wrap;
}
@media (max-width: 900px) {
  .cols {
    grid-template-columns: 1fr;
  }
}
</style>
