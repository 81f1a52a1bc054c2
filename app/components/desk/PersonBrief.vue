<script setup lang="ts">
import { useTimeout } from '@vueuse/core'
import { computed, defineAsyncComponent, nextTick, ref } from 'vue'
import type { Brief } from '#shared/api/desk/desk'
import type { Quality } from './CallQuality.vue'
import { useTimes } from '~/composables/times'
import { useTypeAhead } from '~/composables/typeAhead'
import { useSession } from '~/stores/session'

/** The person in hand: who, why now, the climb, what to say, what was said. */
const props = defineProps<{ brief: Brief; urgent: boolean }>()
const note = defineModel<string>('note', { required: true })
const quality = defineModel<Quality>('quality', { required: true })
const went = ref<{ cycle(): void } | null>(null)
const emit = defineEmits<{ sent: []; settled: []; changed: [] }>()
const times = useTimes()
const session = useSession()
const root = ref<HTMLElement | null>(null)
/** Below the fold: fetched once the first screen stands. */
const isSettled = useTimeout(1_500)
/** Fetched when an email is in hand; it stands by itself, whatever else of the page is still on its way. */
const MailWriter = defineAsyncComponent({ loader: () => import('./MailWriter.vue'), suspensible: false })
const dealing = ref(false)
const box = ref<HTMLTextAreaElement | null>(null)
const person = computed(() => props.brief.prospect)
const KIND_WORDS: Record<string, string> = {
  first_contact: 'First contact',
  call: 'Call now',
  call_back: 'Call back now',
  reply: 'Answer now',
  follow_up: 'Follow up',
  task: 'To do',
  email: 'Email to send',
  text: 'Text to send',
  social: 'Social touch',
  meeting: 'Meeting',
  check_mail: 'Check an email',
  meeting_result: 'After the meeting',
}
/** The reason, where it says more than the kind of work; the cadence it belongs to. */
const why = computed(() => {
  const { task, why: reason, slope } = props.brief
  const said = reason.charAt(0).toUpperCase() + reason.slice(1)
  const more = [said === KIND_WORDS[task?.kind ?? ''] ? '' : said, slope && `in “${slope.cadence}”`].filter(Boolean)
  return more.join(', ').replace(/^in /, 'In ')
})
const place = computed(() => [person.value.city, person.value.region].filter(Boolean).join(', '))
/** Whether what they wrote last was a text. */
const byText = computed(() => {
  const text = props.brief.texts.find(({ direction }) => direction === 'in')
  return Boolean(text && props.brief.textGateway && text.at >= (lastIn.value?.at ?? 0))
})
const lastIn = computed(() => props.brief.mail.find((mail) => mail.direction === 'in'))
const answered = computed(
  () => lastIn.value && props.brief.mail.find((mail) => mail.direction === 'out' && mail.at < lastIn.value!.at),
)
const next = computed(() => props.brief.slope?.steps.find((step) => step.status === 'ahead')?.at ?? null)

/** Starts a note line with the time of day. */
async function stamp(): Promise<void> {
  const at = `${times.clock(session.now)} `
  note.value = note.value && !note.value.endsWith('\n') ? `${note.value}\n${at}` : `${note.value}${at}`
  await nextTick()
  box.value?.focus()
  box.value?.setSelectionRange(note.value.length, note.value.length)
}
const pinned = computed(() => props.brief.notes.find((note) => note.pinned))
const writer = ref<{ send(): Promise<unknown> } | null>(null)
const held = ref<{ send(): Promise<void> } | null>(null)
const toSend = ref<{ copy(): Promise<void>; send(): Promise<unknown> | undefined } | null>(null)
/** The field of the answer: null while it is fetched, undefined where there is none. */
function answerField(): HTMLElement | null | undefined {
  const form = root.value?.querySelector('form:is(.writer, .texts, .fill)')
  const field = form?.querySelector<HTMLElement>('.tiptap, textarea, .fill input') ?? null
  return form?.matches('.texts') ? (field ?? undefined) : field
}
const write = useTypeAhead(answerField, () => props.brief.task?.id)
defineExpose({
  stamp,
  write,
  cycleQuality: () => went.value?.cycle(),
  sendEmail: () => (writer.value ?? toSend.value ?? held.value)?.send(),
  copyMessage: () => toSend.value?.copy(),
})
</script>

<template>
  <article ref="root" class="person" :aria-label="person.name">
    <div class="top">
      <div class="grow">
        <h1>
          <template v-if="session.onlyCalls">{{ person.name }}</template><NuxtLink
            v-else
            :to="`/prospects/${person.id}`"
            >{{ person.name }}</NuxtLink
          >
        </h1>
        <p class="dim">
          {{ person.title }}<template v-if="person.title && person.company">, </template
          ><template v-if="session.onlyCalls">{{ person.company?.name }}</template
          ><NuxtLink v-else-if="person.company" :to="`/companies/${person.company.id}`">{{
            person.company.name
          }}</NuxtLink
          ><template v-if="place"> · {{ place }}</template>
        </p>
      </div>
      <div class="chips">
        <span class="chip" :class="person.calling.open ? 'pine' : 'slate'"
          ><span class="num">{{ times.clock(brief.now, person.timeZone) }}</span> there<template
            v-if="person.calling.until"
          >
            · callable until {{ times.clock(person.calling.until, person.timeZone) }}</template
          ><template v-else-if="person.calling.from">
            · opens {{ times.clock(person.calling.from, person.timeZone) }} there</template
          ></span
        >
        <span class="chip slate"
          >{{ person.stage.name }} · {{ person.attempts }} of {{ person.attemptsAllowed }} attempts</span
        >
        <span v-if="person.company && person.company.status === 'customer'" class="chip pine">customer</span>
        <span v-if="person.company && person.company.status === 'in_deal'" class="chip amber">company in a deal</span>
        <span v-if="person.rating === 'hot' || person.score" class="chip" :class="{ amber: person.rating === 'hot' }">{{
          [person.rating, person.score && `score ${person.score}`].filter(Boolean).join(' · ')
        }}</span>
        <button v-if="!session.onlyCalls" class="link small" @click="dealing = true">Open a deal</button>
        <span v-if="person.atDialer" class="chip slate">with {{ person.atDialer.dialer }}</span>
        <span v-if="person.stopCall" class="chip clay">do not call</span
        ><span v-if="person.stopEmail" class="chip clay">do not email</span>
      </div>
    </div>
    <LazyDealDialog v-if="dealing" v-model="dealing" :person="person" @done="emit('changed')" />
    <TagLine v-if="!session.onlyCalls" :prospect-id="person.id" :tags="person.tags" @changed="emit('changed')" />
    <p v-if="brief.task" class="why">
      <b>{{ KIND_WORDS[brief.task.kind] ?? 'Now' }}.</b> {{ why && `${why}.` }}
    </p>
    <p v-if="pinned" class="dim small pre mt-2"><b>Pinned.</b> {{ pinned.body }}</p>
    <LazyHeldEmail
      v-if="brief.held"
      ref="held"
      :key="brief.held.id"
      :held="brief.held"
      :person="person"
      @settled="emit('settled')"
    />
    <SlopeClimb v-if="brief.slope" :steps="brief.slope.steps" :cadence="brief.slope.cadence" class="mt-1" />
    <section v-if="lastIn && !byText && (brief.task?.kind === 'reply' || !brief.script)" class="panel mt-3">
      <h3>{{ person.firstName }} wrote, {{ times.moment(lastIn.at) }}</h3>
      <p class="pre said">{{ lastIn.body.trim() }}</p>
      <details v-if="answered" class="small dim mt-2">
        <summary>In answer to “{{ answered.subject }}”, {{ times.moment(answered.at) }}</summary>
        <p class="pre">{{ answered.body.trim() }}</p>
      </details>
    </section>
    <LazySentForm v-if="brief.form" :form="brief.form" :first-name="person.firstName" />
    <div class="two mt-3">
      <section v-if="brief.task?.kind === 'reply'" class="panel">
        <h3 class="mb-2">Answer{{ byText ? ' by text' : '' }} <kbd>R</kbd></h3>
        <div class="writer">
          <LazyTextWriter
            v-if="byText"
            :key="brief.task.id"
            :brief="brief"
            :task-id="brief.task.id"
            @sent="emit('sent')"
          />
          <MailWriter v-else :brief="brief" :task-id="brief.task.id" @sent="emit('sent')" />
        </div>
      </section>
      <section v-else-if="brief.message && brief.task?.kind === 'email'" class="panel">
        <h3 class="mb-2">Look it over, then send <kbd>S</kbd></h3>
        <MailWriter
          ref="writer"
          :key="brief.task.id"
          :brief="brief"
          :message="brief.message"
          :task-id="brief.task.id"
          @sent="emit('sent')"
        />
      </section>
      <StepMessage v-else-if="brief.message" ref="toSend" :key="brief.task?.id" :brief="brief" @sent="emit('sent')" />
      <section v-else class="panel">
        <h3>{{ brief.task?.kind === 'task' ? 'What to do' : 'What to say' }}</h3>
        <p v-if="brief.script" class="pre">{{ brief.script }}</p>
        <p v-else class="dim">No script for this. Start from what was said last.</p>
      </section>
      <section class="panel notes">
        <h3><label for="note">Notes</label> <kbd>N</kbd></h3>
        <p v-for="(old, index) in brief.notes.slice(0, 3)" :key="index" class="dim small pre">
          {{ times.moment(old.at) }} {{ old.body }}
        </p>
        <textarea id="note" ref="box" v-model="note" rows="3" maxlength="10000" placeholder="Saved with the outcome" />
        <CallQuality v-if="brief.work === 'call' && !brief.meeting" ref="went" v-model="quality"
          ><kbd>W</kbd></CallQuality
        >
      </section>
    </div>
    <section class="panel mt-3">
      <h3>The thread</h3>
      <ThreadLine :touches="brief.touches" :since="person.createdAt" :now="brief.now" :next="next" />
    </section>
    <LazyBestTime
      v-if="isSettled && !person.stopCall"
      class="mt-3"
      :prospect-id="person.id"
      :first-name="person.firstName"
    />
  </article>
</template>

<style scoped>
.person {
  position: relative;
  padding: 12px 20px 24px;
  overflow-y: auto;
}
.top {
  display: flex;
  gap: 14px;
  align-items: start;
}
h1 a,
.dim a {
  text-decoration: none;
}
h1 a:hover,
.dim a:hover {
  text-decoration: underline;
}
.chips {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
  justify-content: flex-end;
  max-width: 330px;
}
.why {
  margin-top: 8px;
  padding: 8px 12px;
  background: var(--amber-soft);
  border-radius: 6px;
}
.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px;
}
.said {
  margin-top: 4px;
  max-height: 220px;
  overflow: auto;
}
.notes textarea {
  width: 100%;
  border: 0;
  border-top: 1px dashed var(--line);
  margin-top: 6px;
  padding-top: 6px;
  font: inherit;
  color: inherit;
  background: none;
  resize: vertical;
}
@media (max-width: 1180px) {
  .two {
    grid-template-columns: 1fr;
  }
}
@media (max-width: 600px) {
  .top {
    flex-wrap: wrap;
  }
  .top > .grow {
    flex-basis: 100%;
  }
  .chips {
    justify-content: flex-start;
  }
}
</style>
