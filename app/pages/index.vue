<script setup lang="ts">
import { useEventListener, useThrottleFn, useTimeoutFn, useToggle } from '@vueuse/core'
import { computed, defineAsyncComponent, nextTick, onMounted, ref, watch } from 'vue'
import { useRoute } from '#imports'
import { OUTCOME_KEYS, outcomeKey } from '#core/queue/outcomeKey'
import type { OutcomeChoice, OutcomeDetails } from '#shared/api/desk/desk'
import type OutcomePanel from '~/components/desk/OutcomePanel.vue'
import type { ApiError } from '~/api/call'
import type { Quality } from '~/components/desk/CallQuality.vue'
import { DONE_LABELS, sentLabel, writtenLabel } from '~/components/desk/keyLabels'
import { useLineCalls } from '~/components/desk/lineCalls'
import { usePromisedReminders } from '~/components/desk/promisedReminders'
import { useChanges } from '~/api/changes'
import { useKeys } from '~/composables/keys'
import { keyOf, useDesk } from '~/stores/desk'
import { useDrafts } from '~/stores/drafts'
import { useNotices } from '~/stores/notices'
import { useSession } from '~/stores/session'

const MeetingPanel = defineAsyncComponent({
  loader: () => import('~/components/desk/MeetingPanel.vue'),
  suspensible: false,
})
const desk = useDesk()
const session = useSession()
const notices = useNotices()
const madeAs = computed({ get: () => desk.madeAs, set: (how) => void desk.setMadeAs(how) })
const panel = ref<
  | (Pick<InstanceType<typeof OutcomePanel>, 'pickKey' | 'close' | 'isOpen'> &
      Partial<InstanceType<typeof OutcomePanel>>)
  | null
>(null)
const line = ref<{ ring(): Promise<void>; end(): Promise<void>; leaveMessage(): Promise<void> } | null>(null)
const person = ref<{
  stamp(): Promise<void>
  write(): void
  cycleQuality(): void
  sendEmail(): void
  copyMessage(): void
} | null>(null)
const more = ref<{ open(what: 'email' | 'text' | 'plan' | 'person'): void } | null>(null)
/** The call block that is worked: its time, and skipping in it. */
const bar = ref<{ pause(): Promise<void>; skip(): void } | null>(null)
const { dialer: lines, dialing, call: lineCall, connected } = useLineCalls(desk)
const drafts = useDrafts()
const note = drafts.draft('note', () => desk.item?.prospectId ?? '')
const phoneId = ref<string | null>(null)
/** How the call went, as far as the rep has said; logged with the outcome. */
const quality = ref<Quality>({})
const formError = ref<ApiError | null>(null)
/**
 * A key that is pressed twice must not log the next person too: outcome keys wait for a moment after a change of
 * person.
 */
const { isPending: keysWait, start: holdKeys } = useTimeoutFn(() => {}, 350, { immediate: false })

const doneLabel = computed(() => DONE_LABELS[desk.brief?.task?.kind ?? ''])
const byPhone = computed(() => !doneLabel.value)
const kind = computed(() => desk.brief?.task?.kind)
const written = computed(() => (desk.brief ? writtenLabel(desk.brief) : ''))
/** Whether the text in hand leaves from here; otherwise it is copied, like what is posted. */
const textsLeave = computed(() => kind.value === 'text' && desk.brief?.textGateway)
const copies = computed(() => kind.value === 'social' || (kind.value === 'text' && !textsLeave.value))
watch(
  () => desk.item && keyOf(desk.item),
  () => {
    formError.value = null
    quality.value = {}
    // The number of the call before is not one of the prospect who is shown now.
    phoneId.value = null
    holdKeys()
  },
)
async function log(outcome: OutcomeChoice, details: OutcomeDetails): Promise<void> {
  const item = desk.item
  if (!item) return
  const snapshot = panel.value?.snapshot?.()
  const went = quality.value
  const called = phoneId.value
  const said = [note.value, details.note ?? '']
    .map((text) => text.trim())
    .filter(Boolean)
    .join('\n')
  const failed = await desk.log(item, outcome, { ...details, ...went, ...(said && { note: said }) }, phoneId.value)
  if (failed) {
    await nextTick()
    quality.value = went
    phoneId.value = failed.at('phone') ? null : called
    if (snapshot) panel.value?.restore?.(snapshot)
    formError.value = failed
  } else lines.value?.goOn()
}
const route = useRoute()
const [choosing, choose] = useToggle()
const read = () => {
  void desk.refresh()
}
const readAll = () => {
  void desk.refresh(true)
}
const asked = (name: string) => (typeof route.query[name] === 'string' ? route.query[name] : null)
const begin = () => void desk.work(asked('list'), asked('block'), asked('first'))
watch([() => route.query.list, () => route.query.block], begin)
onMounted(begin)
// What is logged here is read at once anyway, and then said by the stream too.
useChanges('queue', useThrottleFn(read, 2_000, true), { seconds: 30, without: 15 })
useEventListener(window, 'world-moved', readAll)
/** A form that is open has the keyboard to itself. */
const free = (run: () => void) => () => {
  if (!panel.value?.isOpen()) run()
}
const outcomeAt = (key: string) =>
  desk.brief?.meeting
    ? { name: desk.brief.meeting.results[Number(key) - 1]?.label ?? '' }
    : desk.brief?.outcomes.find((outcome) => outcome.key === key)
/** Callers log calls and do to-dos; the rest of the Desk is not for them. */
const unlessCaller = (label: string) => () => (session.onlyCalls ? '' : label)
useKeys([
  ...Array.from({ length: OUTCOME_KEYS }, (_, place) => outcomeKey(place)!).map((key) => ({
    key,
    label: () => outcomeAt(key)?.name ?? '',
    run: free(() => {
      if (!keysWait.value) panel.value?.pickKey(key)
    }),
  })),
  { key: 'c', label: 'Call', run: free(() => void line.value?.ring()) },
  { key: 'h', label: 'Hang up', run: free(() => void line.value?.end()) },
  { key: 'v', label: 'Leave your voicemail message', run: free(() => void line.value?.leaveMessage()) },
  {
    key: 'l',
    label: 'Log a call made on another phone',
    run: free(() => void desk.setMadeAs(desk.madeAs === 'elsewhere' ? null : 'elsewhere')),
  },
  {
    key: 'r',
    label: () => written.value,
    run: free(() => {
      if (written.value) person.value?.write()
    }),
  },
  {
    key: 's',
    label: () => (desk.brief ? sentLabel(desk.brief) : ''),
    run: free(() => person.value?.sendEmail()),
  },
  {
    key: 'y',
    label: () => (copies.value ? 'Copy what to send' : ''),
    run: free(() => person.value?.copyMessage()),
  },
  { key: 'n', label: 'Note, with the time', run: free(() => void person.value?.stamp()) },
  { key: 'w', label: 'How the call went', run: free(() => person.value?.cycleQuality()) },
  {
    key: 'd',
    label: () => (byPhone.value || desk.brief?.meeting ? '' : doneLabel.value!),
    run: free(() => {
      if (!byPhone.value && !desk.brief?.meeting && desk.item) void desk.finish(desk.item, note.value)
    }),
  },
  { key: 'e', label: unlessCaller('Write an email'), run: free(() => more.value?.open('email')) },
  { key: 't', label: unlessCaller('Write a text'), run: free(() => more.value?.open('text')) },
  { key: 'o', label: unlessCaller('Plan a to-do'), run: free(() => more.value?.open('plan')) },
  { key: 'a', label: unlessCaller('Add a colleague'), run: free(() => more.value?.open('person')) },
  { key: 'p', label: () => (desk.block ? 'Pause the block, or resume' : ''), run: free(() => void bar.value?.pause()) },
  { key: 'x', label: () => (desk.block ? 'Skip this person' : ''), run: free(() => bar.value?.skip()) },
  {
    key: 'f',
    label: () => (desk.list || desk.block ? '' : 'Order and filter the queue'),
    run: free(() => void choose()),
  },
  {
    key: 'g',
    label: () => (lines.value ? 'Dial several lines, or stop' : ''),
    run: free(() => lines.value?.toggle()),
  },
  { key: 'j', label: 'Next prospect', run: free(() => desk.step(1)) },
  { key: 'k', label: 'Previous prospect', run: free(() => desk.step(-1)) },
  { key: 'z', label: 'Undo the last one', run: free(() => void desk.undoLast()) },
  {
    key: 'Escape',
    label: 'Close',
    always: true,
    run: () => {
      panel.value?.close()
      ;(document.activeElement as HTMLElement | null)?.blur()
    },
  },
])

usePromisedReminders()
/** How much can be done now; the ridge, the queue and this line count the same. */
const doNow = computed(() => {
  const { promised, answer, overdue_reached: reached, overdue, due } = desk.queue!.counts
  const first = desk.queue!.priorities.reduce((sum, { count }) => sum + count, 0)
  return promised + answer + first + reached + overdue + due
})
/** Takes the prospect who has been dealt with off the queue, and reads the queue again. */
function dismiss(): void {
  desk.dismiss(desk.item!)
  read()
}
</script>

<template>
  <div class="desk">
    <template v-if="desk.queue?.block">
      <LazyBlockBar ref="bar" :block="desk.queue.block" />
      <LazyLinesDialer
        v-if="desk.queue.block.lines > 1 && !desk.queue.block.paused && !desk.queue.block.closed"
        ref="lines"
        v-model:on="dialing"
        :block="desk.queue.block"
        @connected="connected"
      />
    </template>
    <DayRidge
      v-else-if="desk.day && desk.queue && !desk.block"
      :day="desk.day"
      :now="session.now"
      :stretch="desk.choice"
      @stretch="desk.narrow($event)"
    >
      {{ doNow }} to do now, {{ desk.queue.counts.soon + desk.queue.counts.later }} later<template
        v-if="desk.queue.counts.new"
        >, {{ desk.queue.counts.new }} new</template
      >
    </DayRidge>
    <SetupGuide v-if="desk.item && !session.onlyCalls" slim />
    <p v-if="desk.lastError" class="notice clay ma-3" role="alert">
      {{ desk.lastError }} <button class="link" @click="read">Try again</button>
    </p>
    <div v-if="desk.item && (!dialing || lineCall)" class="work">
      <QueueList v-model:choosing="choosing" class="route" />
      <PersonBrief
        v-if="desk.brief"
        ref="person"
        v-model:note="note"
        v-model:quality="quality"
        :brief="desk.brief"
        :urgent="desk.item.group === 'answer'"
        @changed="desk.fetchBrief(desk.item!)"
        @sent="dismiss()"
        @settled="dismiss()"
      />
      <div v-else class="person dim pa-5">Fetching {{ desk.item.name }} …</div>
      <aside class="out" :class="{ wait: keysWait }" aria-label="Outcomes" :aria-busy="keysWait">
        <template v-if="desk.brief">
          <CallLine
            ref="line"
            v-model:made-as="madeAs"
            :brief="desk.brief"
            :preferred="desk.item.phoneId"
            :line-call="lineCall?.prospectId === desk.brief.prospect.id ? lineCall.id : null"
            @phone="phoneId = $event"
            @changed="desk.fetchBrief(desk.item!).catch(notices.error)"
            @called="desk.fetchBrief(desk.item!).catch(notices.error)"
            @left="panel?.pickMessageLeft?.()"
          />
          <DeskMore
            v-if="!session.onlyCalls"
            ref="more"
            :brief="desk.brief"
            @changed="desk.fetchBrief(desk.item!).catch(notices.error)"
          />
          <DoneWork v-if="!byPhone && !desk.brief.meeting" :brief="desk.brief" @done="desk.finish(desk.item!, note)" />
          <MeetingPanel
            v-if="desk.brief.meeting"
            ref="panel"
            :meeting="desk.brief.meeting"
            :person="desk.brief.prospect"
            @result="desk.settle(desk.item!, $event, note)"
            @changed="dismiss()"
          />
          <OutcomePanel v-else ref="panel" :brief="desk.brief" :form-error="formError" :note="note" @log="log" />
          <p v-if="desk.lastDone" class="dim small back">
            <button class="link" @click="desk.undoLast">Undo: {{ desk.lastDone.name }}</button> <kbd>Z</kbd>
          </p>
        </template>
      </aside>
    </div>
    <div v-else-if="desk.queue && !dialing" class="work rest">
      <QueueList v-model:choosing="choosing" class="route" />
      <LazyDeskEmpty :queue="desk.queue" />
    </div>
  </div>
</template>

<style scoped>
.desk {
  display: flex;
  flex-direction: column;
  height: calc(100vh - 46px);
}
.work {
  flex: 1;
  min-height: 0;
  display: grid;
  grid-template-columns: 292px minmax(0, 1fr) 306px;
}
.route {
  border-right: 1px solid var(--line);
}
.out {
  position: relative;
  border-left: 1px solid var(--line);
  padding: 10px 12px 24px;
  background: var(--shade);
  overflow-y: auto;
}
.out.wait :deep(.head kbd) {
  opacity: 0.3;
}
.back {
  position: sticky;
  bottom: -24px;
  margin: 8px -12px -24px;
  padding: 7px 12px 9px;
  background: var(--shade);
  border-top: 1px solid var(--line);
}
.work.rest {
  grid-template-columns: 292px minmax(0, 1fr);
}
@media (max-width: 760px) {
  .desk {
    height: auto;
  }
  .work {
    grid-template-columns: 1fr;
  }
  .route {
    max-height: 34vh;
    border-right: 0;
    border-bottom: 1px solid var(--line);
  }
  .out {
    border-left: 0;
    order: 1;
  }
  .work > :deep(.person) {
    order: 2;
  }
}
</style>
