import type { Instant } from '../instant'
import { holidayOn, local, type Holidays, type Place } from './local'

/**
 * A weekly stretch of hours by the wall clock: ISO weekdays 1 (Monday) to 7, minutes after midnight, `to` not included.
 */
export interface Hours {
  days: readonly number[]
  from: number
  to: number
  /** Hours of their own for some of the weekdays. */
  on?: Readonly<Partial<Record<number, { from: number; to: number }>>>
}

interface Bounds {
  from: Instant
  to: Instant
  weekday: number
  day: string
}

/**
 * Bounds worked out before. Every zone's offset is a multiple of a quarter of an hour, so for one zone they are the
 * same throughout a quarter; sets of people of one zone are asked about at one moment again and again.
 */
const known = new Map<string, Bounds>()
const KNOWN = 5_000

function bounds(at: Instant, hours: Hours, timeZone: string): Bounds {
  const own = hours.on
    ? Object.entries(hours.on)
        .map(([weekday, day]) => `${weekday}:${day!.from}-${day!.to}`)
        .join()
    : ''
  const key = `${timeZone}/${hours.from}/${hours.to}/${own}/${Math.floor(at / 900_000)}`
  const found = known.get(key)
  if (found) return found
  const worked = workOutBounds(at, hours, timeZone)
  if (known.size >= KNOWN) known.clear()
  known.set(key, worked)
  return worked
}

function workOutBounds(at: Instant, hours: Hours, timeZone: string): Bounds {
  const day = local(at, timeZone).startOf('day')
  const wall = (minutes: number) =>
    day
      .set({ hour: Math.floor(minutes / 60) % 24, minute: minutes % 60 })
      .plus({ days: minutes >= 1440 ? 1 : 0 })
      .toMillis()
  const { from, to } = hours.on?.[day.weekday] ?? hours
  return { from: wall(from), to: wall(to), weekday: day.weekday, day: day.toISODate()! }
}

/** Whether the hours are open at that instant at `place`; closed all day on its holidays. */
export function isOpen(at: Instant, hours: Hours, place: Place, holidays: Holidays): boolean {
  const today = bounds(at, hours, place.timeZone)
  return (
    hours.days.includes(today.weekday) && at >= today.from && at < today.to && !holidayOn(today.day, place, holidays)
  )
}

/**
 * The first instant from `at` on at which the hours are open at `place`: `at` itself when they are open now.
 * Throws RangeError where they never open within two years (no days, or from not before to).
 */
export function nextOpen(at: Instant, hours: Hours, place: Place, holidays: Holidays): Instant {
  let time = at
  for (let tries = 0; tries < 732; tries++) {
    const today = bounds(time, hours, place.timeZone)
    const open = hours.days.includes(today.weekday) && today.from < today.to && !holidayOn(today.day, place, holidays)
    if (open && time < today.to) return Math.max(time, today.from)
    // The next day begins where it begins: some have no midnight.
    time = local(time, place.timeZone).plus({ days: 1 }).startOf('day').toMillis()
  }
  throw new RangeError('These hours never open')
}

/** When the hours that are open at `at` close; null when they are closed then. */
export function closesAt(at: Instant, hours: Hours, place: Place, holidays: Holidays): Instant | null {
  return isOpen(at, hours, place, holidays) ? bounds(at, hours, place.timeZone).to : null
}
