import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import type { z } from 'zod'
import {
  brief as readBrief,
  finishTask,
  logOutcome,
  settleMeeting,
  type Brief,
  type OutcomeChoice,
  type OutcomeDetails,
} from '#shared/api/desk/desk'
import { dayRidge, queue as readQueue, type QueueItem } from '#shared/api/desk/queue'
import { undo as takeBack } from '#shared/api/events/history'
import type { QueueChoice } from '#core/queue/choice'
import { isWaiting } from '#core/queue/groupNames'
import { skipInBlock, workBlock } from '#shared/api/blocks/work'
import { newId } from '#shared/newId'
import { ApiError, call, messageOf } from '~/api/call'
import { useDrafts } from './drafts'
import { useNotices } from './notices'
import { useQueueChoice } from './queueChoice'

type Queue = z.output<typeof readQueue.response>
type Day = z.output<typeof dayRidge.response>

/** What identifies an item: its task, or its person where they have none. */
export const keyOf = (item: QueueItem) => item.taskId ?? item.prospectId

/** The queue's counts with one fewer: of the priority that put someone first, else of their group. */
function withoutOne(queue: Queue, { group, priority }: QueueItem): Queue {
  const fewer = (count: number) => Math.max(0, count - 1)
  if (priority === null) return { ...queue, counts: { ...queue.counts, [group]: fewer(queue.counts[group]) } }
  const priorities = queue.priorities.map((one) => (one.label === priority ? { ...one, count: fewer(one.count) } : one))
  return { ...queue, priorities }
}

/**
 * How long what was read about the person in hand, and about those after them, is shown before it is read again (ms).
 */
const FRESH = { inHand: 10_000, ahead: 60_000 }

/** The Desk: who is next, and everything needed to work them, fetched before they are reached. */
export const useDesk = defineStore('desk', () => {
  const notices = useNotices()
  const drafts = useDrafts()
  const queue = shallowRef<Queue | null>(null)
  /** The list that is worked; null for all that is due. */
  const list = ref<string | null>(null)
  /** The call block that is worked, whether its time stands still, and who is wanted first. */
  const block = ref<string | null>(null)
  const paused = ref(false)
  let wanted: string | null = null
  const day = shallowRef<Day | null>(null)
  const current = ref<string | null>(null)
  const briefs = shallowRef(new Map<string, Brief>())
  /** When each brief was asked for (ms since the page was opened). */
  const askedAt = new Map<string, number>()
  const lastError = ref('')
  /** What has been dealt with here but may still be in a queue that was read before. */
  const handledIds = new Set<string>()
  const lastDone = ref<{ eventId: string; name: string; item: QueueItem } | null>(null)

  const items = computed(() => (queue.value?.items ?? []).filter((item) => !handledIds.has(keyOf(item))))
  /** Who is in hand: who was chosen, else the first who can be worked now. */
  const item = computed(
    () =>
      items.value.find((one) => keyOf(one) === current.value) ??
      items.value.find((one) => !isWaiting(one.group)) ??
      null,
  )
  const choosing = useQueueChoice()
  async function narrow(to: Partial<QueueChoice> | null): Promise<void> {
    choosing.set(to)
    current.value = null
    await refresh()
  }
  /** How many of the queue are read. */
  const limit = ref(50)
  /** Said of the call that is logged next: that it was not made from here. */
  const madeAs = ref<'elsewhere' | 'incoming' | null>(null)
  const brief = computed(() => (item.value ? (briefs.value.get(keyOf(item.value)) ?? null) : null))

  /** What is next: in a call block, those whom nobody else gets. */
  function readNext(): Promise<Queue> {
    if (list.value) return call(readQueue, { query: { limit: limit.value, list: list.value } })
    if (!block.value) return call(readQueue, { query: { limit: limit.value, ...choosing.choice } })
    const first = wanted
    wanted = null
    return call(workBlock, { params: { id: block.value }, body: { paused: paused.value, first } })
  }
  /** Reads the queue and the day again, and those in hand; all of them where the demo's clock has moved. */
  async function refresh(clockMoved = false): Promise<void> {
    try {
      const [nextQueue, nextDay] = await Promise.all([readNext(), call(dayRidge)])
      // What was said before the clock moved is not shown as if it were true now.
      if (clockMoved) {
        briefs.value = new Map()
        askedAt.clear()
      }
      // In a next pass everyone may come again.
      if (nextQueue.block && nextQueue.block.pass !== queue.value?.block?.pass) handledIds.clear()
      queue.value = nextQueue
      day.value = nextDay
      lastError.value = ''
      await prefetch()
    } catch (error) {
      lastError.value = messageOf(error, 'The queue could not be read')
    }
  }
  async function fetchBrief(one: QueueItem): Promise<void> {
    const key = keyOf(one)
    const asked = performance.now()
    askedAt.set(key, asked)
    const here = item.value && keyOf(item.value) === key
    const answer = await call(readBrief, {
      params: { id: one.prospectId },
      query: {
        ...(one.taskId && { task: one.taskId }),
        ...(block.value && { block: block.value }),
        ...(here && madeAs.value && { call: madeAs.value }),
      },
    }).catch((error: unknown) => {
      if (askedAt.get(key) === asked) askedAt.delete(key)
      throw error
    })
    // Answers may come out of order: only the one that was asked for last counts.
    if (askedAt.get(key) === asked) briefs.value = new Map([...briefs.value, [key, answer]])
  }
  function isFresh(one: QueueItem): boolean {
    const inHand = item.value !== null && keyOf(item.value) === keyOf(one)
    const asked = askedAt.get(keyOf(one))
    return asked !== undefined && performance.now() - asked < (inHand ? FRESH.inHand : FRESH.ahead)
  }
  /** Has the person in hand and the three after them ready, and what is said of them up to date. */
  async function prefetch(): Promise<void> {
    const here = item.value ? items.value.indexOf(item.value) : 0
    const wanted = items.value.slice(Math.max(0, here), here + 4).filter((one) => !isFresh(one))
    await Promise.all(wanted.map(fetchBrief)).catch(notices.error)
  }
  /**
   * Goes to someone else. Anyone who was called is not left before their call has an outcome, unless `leave` says so.
   */
  async function choose(key: string, leave = false): Promise<void> {
    const called = brief.value?.call ? item.value : null
    if (called && keyOf(called) !== key && !leave) {
      notices.say(`You called ${called.name}. Pick an outcome first.`, {
        label: 'Leave without an outcome',
        run: () => void choose(key, true),
      })
      return
    }
    madeAs.value = null
    current.value = key
    if (item.value) await fetchBrief(item.value).catch(notices.error)
    void prefetch()
  }
  function step(by: number): void {
    const here = item.value ? items.value.indexOf(item.value) : -1
    const next = items.value[Math.min(items.value.length - 1, Math.max(0, here + by))]
    if (next) void choose(keyOf(next))
  }
  /** Takes someone off the queue who has been dealt with: the next person is there at once. */
  function dismiss(one: QueueItem): void {
    const open = items.value.filter((other) => !isWaiting(other.group) || other === one)
    const here = open.indexOf(one)
    const next = open[here + 1] ?? open[here - 1] ?? null
    madeAs.value = null
    handledIds.add(keyOf(one))
    briefs.value.delete(keyOf(one))
    askedAt.delete(keyOf(one))
    current.value = next && keyOf(next)
    queue.value = queue.value && withoutOne(queue.value, one)
    void prefetch()
  }
  /** Puts someone back in hand: what was chosen for them could not be done. */
  function takeUpAgain(one: QueueItem): void {
    handledIds.delete(keyOf(one))
    current.value = keyOf(one)
    queue.value = queue.value && { ...queue.value }
  }
  /**
   * Logs an outcome. The next person is shown at once; where it cannot be done, this one comes back with what was
   * typed.
   */
  async function log(
    one: QueueItem,
    outcome: OutcomeChoice,
    details: OutcomeDetails,
    phoneId: string | null,
  ): Promise<ApiError | null> {
    const body = {
      id: newId(),
      outcomeId: outcome.id,
      on: briefs.value.get(keyOf(one))?.work === 'call' ? ('call' as const) : ('task' as const),
      taskId: one.taskId,
      phoneId,
      details,
      fingerprint: outcome.fingerprint,
      call: madeAs.value,
      ...(list.value && { listId: list.value }),
      ...(block.value && { blockId: block.value }),
    }
    dismiss(one)
    try {
      const done = await call(logOutcome, { params: { id: one.prospectId }, body })
      drafts.write('note', one.prospectId, null)
      lastDone.value = { eventId: body.id, name: one.name, item: one }
      notices.say(`${one.name}: ${outcome.name}. ${done.summary}`, {
        label: 'Undo',
        key: 'Z',
        run: () => void undoLast(),
      })
      void refresh()
      return null
    } catch (error) {
      if (!(error instanceof ApiError)) throw error
      const dealtWith = error.code === 'already_done' || (error.code === 'conflict' && error.current === undefined)
      notices.error(error)
      if (dealtWith) void refresh()
      else {
        takeUpAgain(one)
        await fetchBrief(one).catch(() => {})
      }
      return dealtWith ? null : error
    }
  }
  async function finish(one: QueueItem, note: string): Promise<void> {
    if (!one.taskId) return
    const body = { id: newId(), ...(note.trim() && { note }), ...(list.value && { listId: list.value }) }
    dismiss(one)
    try {
      await call(finishTask, { params: { id: one.taskId }, body })
      drafts.write('note', one.prospectId, null)
      lastDone.value = { eventId: body.id, name: one.name, item: one }
      notices.say(`${one.name}: done.`, { label: 'Undo', key: 'Z', run: () => void undoLast() })
    } catch (error) {
      notices.error(error)
      if (!(error instanceof ApiError && error.code === 'conflict')) takeUpAgain(one)
    }
    void refresh()
  }
  /** Says how a meeting went; the next person is there at once. */
  async function settle(
    one: QueueItem,
    result: { result: 'held' | 'qualified' | 'no_show'; label: string },
    note: string,
  ): Promise<void> {
    const meeting = brief.value?.meeting
    if (!meeting) return
    const body = { id: newId(), result: result.result, ...(note.trim() && { note }) }
    dismiss(one)
    try {
      const { summary: label } = await call(settleMeeting, { params: { id: meeting.id }, body })
      drafts.write('note', one.prospectId, null)
      lastDone.value = { eventId: body.id, name: one.name, item: one }
      notices.say(`${one.name}: ${result.label}. ${label}`, { label: 'Undo', key: 'Z', run: () => void undoLast() })
    } catch (error) {
      notices.error(error)
      takeUpAgain(one)
    }
    void refresh()
  }
  /** Takes back what was done last here, and puts its person in hand again. */
  async function undoLast(): Promise<void> {
    const last = lastDone.value
    if (!last) return
    lastDone.value = null
    notices.dropKey('Z')
    try {
      const { unchanged } = await call(takeBack, { params: { id: last.eventId }, body: { id: newId() } })
      handledIds.delete(keyOf(last.item))
      wanted = last.item.prospectId
      notices.say([`Undone for ${last.name}.`, ...unchanged.map((sentence) => `${sentence}.`)].join(' '))
      await refresh()
      await choose(keyOf(last.item))
    } catch (error) {
      notices.error(error)
    }
  }
  /** Works a list, a call block, or all that is due again. */
  async function work(id: string | null, blockId: string | null = null, first: string | null = null): Promise<void> {
    wanted = first
    if (list.value === id && block.value === blockId) return refresh()
    list.value = id
    block.value = blockId
    paused.value = false
    queue.value = null
    current.value = null
    handledIds.clear()
    briefs.value = new Map()
    askedAt.clear()
    await refresh()
  }
  /** Puts the call block down, or goes on with it. */
  async function pause(): Promise<void> {
    paused.value = !paused.value
    await refresh()
  }
  /** Skips the person in hand in the call block; the next one is there at once. */
  async function skip(one: QueueItem, why: string): Promise<void> {
    if (!block.value) return
    const params = { id: block.value }
    dismiss(one)
    try {
      await call(skipInBlock, { params, body: { prospectId: one.prospectId, why } })
      notices.say(`${one.name}: skipped.`, { label: 'Undo', run: () => void putBack(one) })
    } catch (error) {
      notices.error(error)
      takeUpAgain(one)
    }
    void refresh()
  }
  async function putBack(one: QueueItem): Promise<void> {
    if (!block.value) return
    await call(skipInBlock, {
      params: { id: block.value },
      body: { prospectId: one.prospectId, why: null },
    }).catch(notices.error)
    handledIds.delete(keyOf(one))
    wanted = one.prospectId
    await refresh()
    await choose(keyOf(one))
  }
  /** Reads more of the queue. */
  function more(): void {
    limit.value = Math.min(200, limit.value + 50)
    void refresh()
  }
  /**
   * Says that the call that is logged next was not made from here, or takes that back; the outcomes then say what they
   * would do.
   */
  async function setMadeAs(how: 'elsewhere' | 'incoming' | null): Promise<void> {
    madeAs.value = how
    if (item.value) await fetchBrief(item.value).catch(notices.error)
  }
  return {
    queue,
    list,
    block,
    paused,
    pause,
    skip,
    work,
    choice: computed(() => choosing.choice),
    isNarrowed: computed(() => choosing.isNarrowed),
    narrow,
    limit,
    more,
    madeAs,
    setMadeAs,
    day,
    items,
    item,
    brief,
    lastError,
    lastDone,
    refresh,
    choose,
    step,
    log,
    finish,
    settle,
    undoLast,
    fetchBrief,
    dismiss,
  }
})
