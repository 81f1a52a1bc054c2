import { DateTime } from 'luxon'
import { DAY, type Id, type Instant } from '../instant'

/** How often: every so many days, weeks or months of the calendar. */
export interface Rhythm {
  amount: number
  unit: 'days' | 'weeks' | 'months'
}

/**
 * About how many days a rhythm's unit has: for drawing, and for what is soon. When a promise falls due is `dueAtOf`.
 */
const ABOUT = { days: 1, weeks: 7, months: 30 } as const
export const daysOf = ({ amount, unit }: Rhythm): number => amount * ABOUT[unit]

/** A rhythm as it is said: every day, every 10 days, every month. */
export const inWords = ({ amount, unit }: Rhythm): string =>
  amount === 1 ? `every ${unit.slice(0, -1)}` : `every ${amount} ${unit}`

/**
 * A list's promise to one person: to be in touch every so often, counted from the last touch of the kinds that count,
 * else from when they were added.
 */
export interface TouchPromise {
  listId: Id
  every: Rhythm
  /** The last touch that counts; null for none yet. */
  lastAt: Instant | null
  addedAt: Instant
}

/** How a promise stands: past it, due soon (in the last fifth of its days, at least one day), or within it. */
export type Standing = 'past' | 'soon' | 'within'

/**
 * When the promise falls due. Months are the calendar's, counted in UTC: three months from 30 November is 28 February,
 * or the 29th (as PostgreSQL adds intervals; what a list counts in SQL must be the same).
 */
export function dueAtOf({ lastAt, addedAt, every }: TouchPromise): Instant {
  return DateTime.fromMillis(lastAt ?? addedAt, { zone: 'utc' })
    .plus({ [every.unit]: every.amount })
    .toMillis()
}

/** How many days before it falls due a promise is soon due. */
export function soonDays(every: Rhythm): number {
  return Math.max(1, Math.ceil(daysOf(every) / 5))
}

/** How the promise stands now. */
export function standingOf(promise: TouchPromise, now: Instant): Standing {
  const left = dueAtOf(promise) - now
  if (left < 0) return 'past'
  return left <= soonDays(promise.every) * DAY ? 'soon' : 'within'
}

/**
 * Of several lists' promises to one person the stricter holds: the one that falls due first. Null where there is none.
 */
export function strictest(promises: readonly TouchPromise[]): TouchPromise | null {
  return promises.reduce<TouchPromise | null>(
    (strict, one) => (!strict || dueAtOf(one) < dueAtOf(strict) ? one : strict),
    null,
  )
}
