import type { Instant } from '../instant'
import { startOfDay } from '../calendar/local'

/** The groups of the Desk's queue, in the order they are worked. */
export const QUEUE_GROUPS = ['answer', 'overdue', 'due', 'later'] as const
export type QueueGroup = (typeof QUEUE_GROUPS)[number]

/** What the queue knows of one piece of work. */
export interface QueueItem {
  lane: number
  kind: string
  dueAt: Instant
  /** Whether the person may be rung now; true for work that needs no call. */
  callable: boolean
}

/**
 * Where a piece of work stands on the Desk now: answers first; then what was due before today began for the rep
 * (`zone`); then what is due and can be done now; the rest opens later.
 */
export function groupOf(item: QueueItem, now: Instant, zone: string): QueueGroup {
  if (item.lane === 0 && item.dueAt <= now) return 'answer'
  if (item.dueAt > now || !item.callable) return 'later'
  return item.dueAt < startOfDay(now, zone) ? 'overdue' : 'due'
}

/** Order within the queue: by group, promised before planned, longest due first. */
export function compareItems(a: QueueItem, b: QueueItem, now: Instant, zone: string): number {
  const rank = (item: QueueItem) => QUEUE_GROUPS.indexOf(groupOf(item, now, zone))
  return rank(a) - rank(b) || a.lane - b.lane || a.dueAt - b.dueAt
}
