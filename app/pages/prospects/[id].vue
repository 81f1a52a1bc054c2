<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, reactive, ref, shallowRef } from 'vue'
import type { z } from 'zod'
import { navigateTo, useHead, useRoute } from '#imports'
import { unenroll } from '#shared/api/cadences'
import { brief as readBrief, type Brief } from '#shared/api/desk'
import { findDuplicates } from '#shared/api/duplicates'
import { editProspect, prospectHistory, undo, type HistoryEntry } from '#shared/api/prospects'
import { stages as readStages } from '#shared/api/stages'
import { listUsers } from '#shared/api/settings'
import { ApiError, call } from '~/composables/api'
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
const trouble = ref('')
const editing = ref(false)
const enrolling = ref(false)
const writing = ref(false)
const wrong = ref<ApiError | null>(null)
const fields = reactive({
  firstName: '',
  lastName: '',
  title: '',
  city: '',
  region: '',
  country: null as string | null,
  zone: null as string | null,
  ownerId: null as string | null,
  addEmail: '',
  addPhone: '',
})
const owners = ref<{ id: string | null; name: string }[]>([])
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
    const [told, history, all, like] = await Promise.all([
      call(readBrief, { params: { id } }),
      call(prospectHistory, { params: { id } }),
      call(readStages),
      call(findDuplicates, { query: { about: id, limit: 5 } }),
    ])
    if (mine !== reads) return
    doubles.value = like.pairs
    brief.value = told
    entries.value = history.entries
    stages.value = all.stages.filter((stage) => !stage.archived)
    gateFields.value = all.fields
    trouble.value = ''
  } catch (error) {
    trouble.value = error instanceof ApiError ? error.message : 'This person could not be read'
  }
}
/** Whoever went is looked at as the one who was kept. */
async function settled(keptId: string | null): Promise<void> {
  if (keptId && keptId !== id) await navigateTo(`/prospects/${keptId}`)
  else await read()
}
const again = () => {
  void read()
}
onMounted(() => {
  again()
  window.addEventListener('world-moved', again)
})
onBeforeUnmount(() => window.removeEventListener('world-moved', again))

async function act(work: () => Promise<{ says?: string } | void>): Promise<boolean> {
  wrong.value = null
  try {
    const done = await work()
    if (done?.says) notices.say(done.says)
    await read()
    return true
  } catch (error) {
    if (error instanceof ApiError && error.problems.length) wrong.value = error
    notices.wrong(error)
    if (error instanceof ApiError && error.code === 'conflict') await read()
    return false
  }
}
function edit(): void {
  const now = person.value!
  Object.assign(fields, {
    firstName: now.firstName,
    lastName: now.lastName,
    title: now.title ?? '',
    city: now.city ?? '',
    region: now.region ?? '',
    country: now.country,
    zone: now.zone,
    ownerId: now.owner?.id ?? null,
    addEmail: '',
    addPhone: '',
  })
  editing.value = true
  call(listUsers).then(({ users }) => {
    owners.value = [{ id: null, name: 'Nobody' }, ...users.filter((user) => user.active || user.id === now.owner?.id)]
  }, notices.wrong)
}
async function save(): Promise<void> {
  const { addEmail, addPhone, country, zone, ...plain } = fields
  // A clock that nobody has set follows the address.
  const clock = zone === person.value!.zone ? {} : { zone: zone || null }
  if (
    await act(
      async () =>
        void (await call(editProspect, {
          params: { id },
          body: {
            version: person.value!.version,
            ...plain,
            ...clock,
            country: country || null,
            ...(addEmail && { addEmail }),
            ...(addPhone && { addPhone }),
          },
        })),
    )
  ) {
    editing.value = false
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
const actions = [
  { key: 'c', label: 'Call', main: true, run: () => callFor('call') },
  { key: 'l', label: 'Log a call', run: () => callFor('log') },
  {
    key: 'p',
    label: 'Plan',
    run: () => {
      planning.value = true
    },
  },
  {
    key: 'e',
    label: 'Email',
    run: () => {
      writing.value = true
    },
  },
  { key: 'm', label: 'Meeting', run: () => callFor('meeting') },
  {
    key: 'd',
    label: 'Deal',
    run: () => {
      dealing.value = true
    },
  },
  {
    key: 'g',
    label: 'Enroll',
    run: () => {
      enrolling.value = true
    },
  },
  {
    key: 's',
    label: 'Change stage',
    run: () => {
      moving.value = true
    },
  },
]
useKeys([
  ...actions.map(({ key, label, run }) => ({
    key,
    says: label,
    run: () => {
      if (person.value) run()
    },
  })),
  {
    key: 'Escape',
    says: 'Close',
    always: true,
    run: () => {
      writing.value = false
    },
  },
  {
    key: 'z',
    says: 'Undo the last one',
    run: () => {
      if (lastUndoable.value) void takeBack(lastUndoable.value)
    },
  },
])
const archiving = reactive({ open: false, reason: '' })
async function archive(): Promise<void> {
  const body = { version: person.value!.version, working: 'removed' as const, reason: archiving.reason }
  const done = await act(async () => {
    await call(editProspect, { params: { id }, body })
    return { says: `${person.value!.name} is archived.` }
  })
  if (done) Object.assign(archiving, { open: false, reason: '' })
}
const leave = (enrollmentId: string) =>
  act(() => call(unenroll, { params: { id: enrollmentId }, body: { id: crypto.randomUUID() } }))
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
    const { undone, kept } = await call(undo, { params: { id: entry.id }, body: { id: crypto.randomUUID() } })
    return {
      says: [
        `Undone: ${undone} ${undone === 1 ? 'change' : 'changes'}.`,
        ...kept.map((sentence) => `${sentence}.`),
      ].join(' '),
    }
  })
useHead({ title: computed(() => person.value?.name ?? 'Prospect') })
function sent(): void {
  writing.value = false
  void read()
}
</script>

<template>
  <div class="page">
    <p v-if="trouble" class="notice clay" role="alert">
      {{ trouble }} <button class="link" @click="read">Try again</button>
    </p>
    <template v-if="brief && person">
      <div class="spread head">
        <div>
          <h1>{{ person.name }}</h1>
          <p class="dim">
            {{ person.title }}<template v-if="person.title && person.company">, </template
            ><NuxtLink v-if="person.company" :to="`/companies/${person.company.id}`">{{
              person.company.name
            }}</NuxtLink>
          </p>
          <TagLine :prospect-id="id" :tags="person.tags" @changed="read" />
        </div>
        <div class="row wrap">
          <span v-if="person.working !== 'in_work'" class="chip clay">{{
            person.working === 'removed' ? 'archived' : 'paused'
          }}</span><span v-if="person.rating" class="chip" :class="{ amber: person.rating === 'hot' }">{{
            person.rating
          }}</span
          ><span v-if="person.score" class="chip"
            >score <span class="num">{{ person.score }}</span></span
          >
          <span class="chip slate">{{ person.stage.name }}</span>
          <span class="chip" :class="person.calling.open ? 'pine' : 'slate'"
            ><span class="num">{{ times.clock(brief.now, person.zone) }}</span> there</span
          >
          <span
            v-if="person.company && person.company.standing !== 'open'"
            class="chip"
            :class="
              person.company.standing === 'customer' ? 'pine' : person.company.standing === 'in_deal' ? 'amber' : 'clay'
            "
            >company: {{ person.company.standing.replaceAll('_', ' ') }}</span
          >
          <span v-if="person.stopCall" class="chip clay">no calls</span
          ><span v-if="person.stopEmail" class="chip clay">no email</span>
        </div>
      </div>
      <div class="row acts mt-2" role="toolbar" aria-label="What to do">
        <v-btn
          v-for="one in actions"
          :key="one.key"
          size="small"
          :color="one.main ? 'primary' : undefined"
          :variant="one.main ? 'flat' : 'outlined'"
          @click="one.run"
          >{{ one.label }} <kbd class="ml-2">{{ one.key.toUpperCase() }}</kbd></v-btn
        >
        <button class="link small" @click="edit">Edit</button>
        <button
          v-if="session.manages && person.working !== 'removed'"
          class="link small"
          @click="archiving.open = true"
        >
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
          <ol class="history">
            <li v-for="entry in entries" :key="entry.id" :class="{ undone: entry.undone }">
              <span class="when num dim small">{{ times.moment(entry.at) }}</span>
              <span class="sign"><StepIcon v-if="entry.knot" :kind="entry.knot" :size="15" color="var(--pine)" /></span>
              <div>
                <p>
                  <b>{{ entry.title }}</b> <span v-if="entry.by" class="dim">{{ entry.by }}</span>
                  <span v-if="entry.undone" class="chip">undone</span>
                </p>
                <p v-if="entry.body" class="pre quote">{{ entry.body }}</p>
                <p v-if="entry.note" class="pre quote">{{ entry.note }}</p>
                <ul v-if="entry.changes.length">
                  <li v-for="(change, index) in entry.changes" :key="index">
                    {{ change.says }} <span class="dim small">· {{ change.because }}</span>
                  </li>
                </ul>
              </div>
              <button v-if="entry.canUndo" class="link small" @click="takeBack(entry)">Undo</button>
            </li>
          </ol>
        </div>
        <aside>
          <ReachPanel :person="person" @changed="read" />
          <KnownFields :person="person" @changed="read" />
          <section v-if="person.tasks.length" class="panel">
            <h3>Next</h3>
            <p v-for="task in person.tasks" :key="task.id" class="spread">
              <span>{{ task.title }}</span><span class="num dim small">{{ times.moment(task.dueAt) }}</span>
            </p>
          </section>
          <section v-if="person.enrollments.length" class="panel">
            <h3>Cadences</h3>
            <p v-for="one in person.enrollments" :key="one.id" class="spread">
              <span class="grow"
                >{{ one.cadence }}<br /><span class="dim small">{{
                  one.state === 'ended' ? `ended: ${one.exit?.replaceAll('_', ' ')}` : one.state
                }}</span></span
              ><button v-if="one.state !== 'ended'" class="link small" @click="leave(one.id)">Take out</button>
            </p>
          </section>
          <MeetingList v-if="person.appointments.length" :person="person" :now="brief.now" @changed="read" />
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
            {{ person.owner ? `Owned by ${person.owner.name}` : 'Nobody owns this person'
            }}{{ person.source ? ` · from ${person.source}` : '' }}
          </p>
        </aside>
      </div>
      <EnrollDialog v-model="enrolling" :prospect-ids="[id]" @done="read" />
      <CallSheet v-model="calling" :prospect-id="id" :purpose="purpose" @done="read" />
      <DealDialog v-model="dealing" :person="person" @done="read" />
      <PlanDialog v-model="planning" :person="person" :has-phone="person.phones.length > 0" @done="read" />
      <v-dialog v-model="archiving.open" max-width="420" aria-label="Archive">
        <v-card class="pa-5">
          <form class="stack" @submit.prevent="archive">
            <h2>Archive {{ person.name }}</h2>
            <p class="dim">Nothing more goes to them, and they leave lists and the Desk. Their history stays.</p>
            <v-text-field
              v-model="archiving.reason"
              v-focus
              label="Why"
              maxlength="500"
              :error-messages="wrong?.at('reason')"
            />
            <div class="row">
              <v-btn type="submit" color="primary">Archive</v-btn
              ><v-btn variant="text" @click="archiving.open = false">Cancel</v-btn>
            </div>
          </form>
        </v-card>
      </v-dialog>
      <StageDialog v-model="moving" :person="person" :stages="stages" :gate-fields="gateFields" @done="read" />
      <v-dialog v-model="editing" max-width="560" aria-label="Edit">
        <v-card class="pa-5">
          <form class="stack" @submit.prevent="save">
            <h2>Edit {{ person.name }}</h2>
            <div class="pair">
              <v-text-field
                v-model="fields.firstName"
                label="First name"
                :error-messages="wrong?.at('firstName')"
              /><v-text-field v-model="fields.lastName" label="Last name" />
            </div>
            <div class="pair">
              <v-text-field v-model="fields.title" label="Job title" /><v-select
                v-model="fields.ownerId"
                :items="owners"
                item-value="id"
                item-title="name"
                label="Owner"
                hint="What is planned moves along"
                persistent-hint
              />
            </div>
            <div class="pair">
              <v-text-field v-model="fields.city" label="City" /><v-text-field
                v-model="fields.region"
                label="State or region"
              />
            </div>
            <div class="pair">
              <CountryField
                v-model="fields.country"
                label="Country"
                clearable
                :error-messages="wrong?.at('country')"
              /><ZoneField
                v-model="fields.zone"
                label="Time zone"
                clearable
                hint="Empty: by address, then number"
                persistent-hint
                :error-messages="wrong?.at('zone')"
              />
            </div>
            <div class="pair">
              <v-text-field
                v-model="fields.addPhone"
                label="Add phone"
                :error-messages="wrong?.at('phone')"
              /><v-text-field v-model="fields.addEmail" label="Add email" :error-messages="wrong?.at('email')" />
            </div>
            <div class="row">
              <v-btn type="submit" color="primary">Save</v-btn
              ><v-btn variant="text" @click="editing = false">Cancel</v-btn>
            </div>
          </form>
        </v-card>
      </v-dialog>
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
.wrap {
  flex-wrap: wrap;
  justify-content: flex-end;
}
.pinned {
  margin-top: 10px;
}
.acts {
  flex-wrap: wrap;
}
.history {
  list-style: none;
  margin: 10px 0 0;
  padding: 0;
}
.history > li {
  display: grid;
  grid-template-columns: 118px 22px 1fr auto;
  gap: 6px;
  padding: 8px 0;
  border-top: 1px solid var(--line);
  align-items: start;
}
.history ul {
  margin: 2px 0 0;
  padding-left: 16px;
}
.undone ul,
.undone .quote {
  color: var(--dim);
  text-decoration: line-through;
}
.undone b {
  text-decoration: line-through;
}
.quote {
  border-left: 3px solid var(--line);
  padding-left: 8px;
  margin: 3px 0;
  max-height: 200px;
  overflow: auto;
}
.stack {
  display: grid;
  gap: 12px;
}
.pair {
  align-items: start;
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px;
}
.when {
  padding-top: 1px;
}
.head {
  align-items: start;
}
@media (max-width: 900px) {
  .cols {
    grid-template-columns: 1fr;
  }
}
</style>
