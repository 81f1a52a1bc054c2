import type { Id, Instant } from '../instant'
import { addBusinessDays, isBusinessDay, localDay, type Holidays, type Place } from '../calendar/local'

/** Someone who is to start a cadence at `dueAt`. */
export interface Starter {
  id: Id
  dueAt: Instant
  place: Place
}

/**
 * The days on which people start a cadence of which at most `perDay` start a day: in order, each on the first business
 * day from their own on that has room. `used` says how many start on a day already (ISO days where the team is, in
 * `timeZone`); it is left as it was. Gives the moment of each, at the time of day they were due.
 */
export function allotIntake(
  starters: readonly Starter[],
  perDay: number,
  used: ReadonlyMap<string, number>,
  timeZone: string,
  holidays: Holidays,
): Map<Id, { at: Instant; day: string }> {
  const taken = new Map(used)
  const given = new Map<Id, { at: Instant; day: string }>()
  // How many business days on from theirs the first room was, for those who were due on one day in one place: days
  // fill up from the front, so nobody after them has to look at the days before again.
  const offsets = new Map<string, number>()
  for (const { id, dueAt, place } of starters) {
    const key = `${localDay(dueAt, timeZone)}/${place.timeZone}/${place.country}/${place.region}`
    const isOpen = (moment: Instant) =>
      (taken.get(localDay(moment, timeZone)) ?? 0) < perDay &&
      isBusinessDay(localDay(moment, place.timeZone), place, holidays)
    let offset = offsets.get(key) ?? 0
    let at = addBusinessDays(dueAt, offset, place, holidays)
    for (const first = offset; !isOpen(at) && offset - first < MOST_DAYS; offset++) {
      at = addBusinessDays(at, 1, place, holidays)
    }
    offsets.set(key, offset)
    const day = localDay(at, timeZone)
    taken.set(day, (taken.get(day) ?? 0) + 1)
    given.set(id, { at, day })
  }
  return given
}

/** Nobody is put off for longer than this many business days: four years. */
const MOST_DAYS = 1_000
