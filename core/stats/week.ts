import { local } from '../calendar/local'
import type { Instant } from '../instant'

/** What is counted of a week's work, in the order in which it is shown. */
export const WEEK_MEASURES = ['calls', 'conversations', 'emails', 'replies', 'booked', 'held', 'opened', 'won'] as const
export type WeekMeasure = (typeof WEEK_MEASURES)[number]

/** What each measure is called, as a column. */
export const WEEK_LABELS: Readonly<Record<WeekMeasure, string>> = {
  calls: 'Calls',
  conversations: 'Conversations',
  emails: 'Emails',
  replies: 'Replies',
  booked: 'Meetings booked',
  held: 'Meetings held',
  opened: 'Deals opened',
  won: 'Deals won',
}

/**
 * The midnights of a week in `zone`, Monday to the next Monday (ISO 8601): eight instants, so that day n lies between
 * the n-th and the one after it. `back` weeks before the week that `at` lies in.
 */
export function weekDays(at: Instant, timeZone: string, back = 0): Instant[] {
  const monday = local(at, timeZone).startOf('week').minus({ weeks: back })
  return Array.from({ length: 8 }, (_, day) => monday.plus({ days: day }).startOf('day').toMillis())
}

/** The sum of a measure over some days. */
export const sum = (counts: readonly number[]): number => counts.reduce((total, count) => total + count, 0)
