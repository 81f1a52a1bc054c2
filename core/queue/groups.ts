import { MINUTE, type Instant } from '../instant'
import { startOfDay } from '../calendar/local'

/** The groups of the Desk's queue, in the order they are worked. */
export const QUEUE_GROUPS = ['promised', 'answer', 'overdue', 'due', 'new', 'later'] as const
export type QueueGroup = (typeof QUEUE_GROUPS)[number]

/** So long before its time a promised call stands on top of the Desk, and its caller is reminded. */
export const REMIND_BEFORE = 5 * MINUTE

/** What the queue knows of one piece of work. */
export interface QueueItem {
  priority: number
  kind: string
  dueAt: Instant
  /** Whether the person may be called now; true for work that needs no call. */
  callable: boolean
}

/**
 * Where a piece of work stands on the Desk now: calls that were promised for now; then answers; then what was due
 * before today began for the rep (`zone`); then what is due and can be done now; then new people who wait for a first
 * contact, who are never overdue; the rest opens later.
 */
export function groupOf(item: QueueItem, now: Instant, timeZone: string): QueueGroup {
  if (item.kind === 'call_back' && item.dueAt <= now + REMIND_BEFORE) return 'promised'
  if (item.priority === 0 && item.dueAt <= now) return 'answer'
  if (item.dueAt > now || !item.callable) return 'later'
  if (item.kind === 'first_contact') return 'new'
  return item.dueAt < startOfDay(now, timeZone) ? 'overdue' : 'due'
}

/** Order within the queue: by group, promised before planned, longest due first. */
export function compareItems(a: QueueItem, b: QueueItem, now: Instant, timeZone: string): number {
  const rank = (item: QueueItem) => QUEUE_GROUPS.indexOf(groupOf(item, now, timeZone))
  return rank(a) - rank(b) || a.priority - b.priority || a.dueAt - b.dueAt
}
