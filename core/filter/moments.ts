import { DateTime } from 'luxon'
import { local } from '../calendar/local'
import type { Instant } from '../instant'
import type { Test } from './filter'

/** Half-open bounds [from, to) of moments, in milliseconds since 1970; null is unbounded. */
export interface Bounds {
  from: Instant | null
  to: Instant | null
}

type MomentTest = Extract<
  Test,
  { op: 'moreAgo' | 'inLast' | 'inNext' | 'moreAhead' | 'during' | 'before' | 'after' | 'on' }
>

const WEEKDAYS = ['monday', 'tuesday', 'wednesday', 'thursday', 'friday', 'saturday', 'sunday']

/**
 * What a test of a moment comes to at `now`, with days as they are in `zone` (the team's, so that a list is the same
 * for everyone who looks). Hours are exact; days, weeks and months are counted by the calendar, so that "2 days ago"
 * keeps its time of day over a change of clocks.
 */
export function boundsOf(test: MomentTest, now: Instant, timeZone: string): Bounds {
  const at = local(now, timeZone)
  switch (test.op) {
    case 'moreAgo':
      return { from: null, to: at.minus({ [test.unit]: test.amount }).toMillis() }
    case 'inLast':
      return { from: at.minus({ [test.unit]: test.amount }).toMillis(), to: now + 1 }
    case 'inNext':
      return { from: now, to: at.plus({ [test.unit]: test.amount }).toMillis() + 1 }
    case 'moreAhead':
      return { from: at.plus({ [test.unit]: test.amount }).toMillis() + 1, to: null }
    case 'during':
      return spanOf(test.span, at)
    default: {
      const start = dayOf(test.day, at)
      if (test.op === 'before') return { from: null, to: start.toMillis() }
      const end = start.plus({ days: 1 }).toMillis()
      return test.op === 'after' ? { from: end, to: null } : { from: start.toMillis(), to: end }
    }
  }
}

/** The beginning of the day that is meant. Throws RangeError for a day no calendar has. */
function dayOf(day: string, at: DateTime): DateTime {
  const weekday = WEEKDAYS.indexOf(day)
  if (weekday >= 0) return at.startOf('day').plus({ days: ((weekday + 1 - at.weekday + 6) % 7) + 1 })
  const found = day === 'today' ? at.startOf('day') : DateTime.fromISO(day, { zone: at.zone }).startOf('day')
  if (!found.isValid) throw new RangeError(`There is no day ${day}`)
  return found
}

function spanOf(span: Extract<MomentTest, { op: 'during' }>['span'], at: DateTime): Bounds {
  const whole = (unit: 'day' | 'week' | 'month' | 'year', back: number): Bounds => {
    const start = at.startOf(unit).minus({ [`${unit}s`]: back })
    return { from: start.toMillis(), to: start.plus({ [`${unit}s`]: 1 }).toMillis() }
  }
  switch (span) {
    case 'today':
      return whole('day', 0)
    case 'yesterday':
      return whole('day', 1)
    case 'this week':
      return whole('week', 0)
    case 'last week':
      return whole('week', 1)
    case 'this month':
      return whole('month', 0)
    case 'last month':
      return whole('month', 1)
    case 'this year':
      return whole('year', 0)
  }
}

/** Whether a moment lies within; a missing one never does. */
export function within(at: Instant | null, { from, to }: Bounds): boolean {
  return at !== null && (from === null || at >= from) && (to === null || at < to)
}

/**
 * The first day, as "2026-11-23", that begins at `at` or later in `zone`: a day is from a moment on exactly when it is
 * this one or one after it. Days that no four digits write are before or after all that can be.
 */
export function firstDayFrom(at: Instant, timeZone: string): string {
  const start = local(at, timeZone).startOf('day')
  const first = start.toMillis() === at ? start : start.plus({ days: 1 })
  if (first.year > 9999) return '9999-99'
  return first.year < 0 ? '' : first.toFormat('yyyy-MM-dd')
}
