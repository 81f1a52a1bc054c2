import { DateTime } from 'luxon'
import type { GoalStatus, TouchUnit } from '../enumerations'
import { DAY, type Id, type Instant } from '../instant'

/** How often: every so many days, weeks or months of the calendar. */
export interface TouchInterval {
  amount: number
  unit: TouchUnit
}

/**
 * About how many days an interval's unit has: for drawing, and for what is soon. When a touch goal falls due is
 * `dueAtOf`.
 */
const ABOUT = { days: 1, weeks: 7, months: 30 } as const
export const daysOf = ({ amount, unit }: TouchInterval): number => amount * ABOUT[unit]

/** An interval as it is said: every day, every 10 days, every month. */
export const inWords = ({ amount, unit }: TouchInterval): string =>
  amount === 1 ? `every ${unit.slice(0, -1)}` : `every ${amount} ${unit}`

/**
 * A list's touch goal for one person: to be in touch every so often, counted from the last touch of the kinds that
 * count, else from when they were added.
 */
export interface TouchGoal {
  listId: Id
  every: TouchInterval
  /** The last touch that counts; null for none yet. */
  lastAt: Instant | null
  addedAt: Instant
}

/**
 * When the touch goal falls due. Months are the calendar's, counted in UTC: three months from 30 November is 28
 * February, or the 29th (as PostgreSQL adds intervals; what a list counts in SQL must be the same).
 */
export function dueAtOf({ lastAt, addedAt, every }: TouchGoal): Instant {
  return DateTime.fromMillis(lastAt ?? addedAt, { zone: 'utc' })
    .plus({ [every.unit]: every.amount })
    .toMillis()
}

/** How many days before it falls due a touch goal is soon due. */
export function soonDays(every: TouchInterval): number {
  return Math.max(1, Math.ceil(daysOf(every) / 5))
}

/** How the touch goal stands now. */
export function goalStatus(touchGoal: TouchGoal, now: Instant): GoalStatus {
  const left = dueAtOf(touchGoal) - now
  if (left < 0) return 'overdue'
  return left <= soonDays(touchGoal.every) * DAY ? 'due_soon' : 'on_track'
}

/**
 * Of several lists' touch goals for one person the stricter holds: the one that falls due first. Null where there is
 * none.
 */
export function strictest(touchGoals: readonly TouchGoal[]): TouchGoal | null {
  return touchGoals.reduce<TouchGoal | null>(
    (strict, one) => (!strict || dueAtOf(one) < dueAtOf(strict) ? one : strict),
    null,
  )
}
