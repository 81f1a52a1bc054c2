import { HOUR, MINUTE, type Instant } from '../instant'
import { startOfDay } from '../calendar/local'
import { QUEUE_GROUPS, type QueueGroup } from './groupNames'

/** What falls due within this time is due soon. */
const SOON = HOUR

/** So long before its time a promised call stands on top of the Desk, and its caller is reminded. */
export const REMIND_BEFORE = 5 * MINUTE

/** What the queue knows of one piece of work. */
export interface QueueItem {
  priority: number
  kind: string
  dueAt: Instant
  /** Whether the person may be called now; true for work that needs no call. */
  callable: boolean
  /** Whether they were ever spoken to. */
  reached: boolean
}

/**
 * Where a piece of work stands on the Desk now: calls that were promised for now; then answers; then what was due
 * before today began for the rep (`zone`), first those who were spoken to before; then what is due and can be done now;
 * then what falls due within the hour; then new people who wait for a first contact, who are never overdue; the rest
 * opens later.
 */
export function groupOf(item: QueueItem, now: Instant, timeZone: string): QueueGroup {
  if (item.kind === 'call_back' && item.dueAt <= now + REMIND_BEFORE) return 'promised'
  if (item.priority === 0 && item.dueAt <= now) return 'answer'
  if (!item.callable) return 'later'
  if (item.dueAt > now) return item.dueAt <= now + SOON ? 'soon' : 'later'
  if (item.kind === 'first_contact') return 'new'
  if (item.dueAt >= startOfDay(now, timeZone)) return 'due'
  return item.reached ? 'overdue_reached' : 'overdue'
}

/** Order within the queue: by group, promised before planned, longest due first. */
export function compareItems(a: QueueItem, b: QueueItem, now: Instant, timeZone: string): number {
  const rank = (item: QueueItem) => QUEUE_GROUPS.indexOf(groupOf(item, now, timeZone))
  return rank(a) - rank(b) || a.priority - b.priority || a.dueAt - b.dueAt
}
