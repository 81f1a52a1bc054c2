import { MINUTE, type Instant } from '../instant'
import { isCallable } from '../calendar/callingHours'
import type { Hours } from '../calendar/window'
import type { Holidays, Place } from '../calendar/local'
import { local, startOfDay } from '../calendar/local'

/** One half hour of the rep's day. */
export interface RidgeSlot {
  /** When the half hour begins. */
  at: Instant
  /** How many people are due by its end and callable in it. */
  open: number
  /** How many pieces of work were done in it. */
  done: number
}

/** People due today who live in one place, counted together, since the day is the same for all of them. */
export interface DueAtPlace {
  place: Place
  dueAt: Instant
  count: number
  /** Whether it is done by a call, and so keeps to calling hours there. */
  rings: boolean
}

/**
 * The day ridge: for each half hour between `fromMinute` and `toMinute` of the rep's day in `zone`, how much is due and
 * can be done, calls by the clocks of the people called, and what was done. `doneAt` are the moments of finished work.
 */
export function dayRidge(
  due: readonly DueAtPlace[],
  doneAt: readonly Instant[],
  now: Instant,
  timeZone: string,
  hours: Hours,
  holidays: Holidays,
  fromMinute = 8 * 60,
  toMinute = 18 * 60,
): RidgeSlot[] {
  const midnight = local(startOfDay(now, timeZone), timeZone)
  const slots: RidgeSlot[] = []
  for (let minute = fromMinute; minute < toMinute; minute += 30) {
    // By the wall clock, which is another distance from midnight on a day when the clocks change.
    const at = midnight.set({ hour: Math.floor(minute / 60), minute: minute % 60 }).toMillis()
    const end = at + 30 * MINUTE
    const open = due.reduce(
      (sum, { place, dueAt, count, rings }) =>
        dueAt < end && (!rings || isCallable(at, hours, place, holidays)) ? sum + count : sum,
      0,
    )
    slots.push({ at, open, done: doneAt.filter((moment) => moment >= at && moment < end).length })
  }
  return slots
}
