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
  // The day that those who were due at one moment in one place have come to, and how many business days on from theirs
  // those of one day have: days fill up from the front, so nobody after them has to look at the days before again.
  const reached = new Map<string, Room>()
  const offsets = new Map<string, number>()
  const roomAt = (at: Instant, offset: number, place: Place, ofDay: string): Room => ({
    at,
    offset,
    ofDay,
    day: localDay(at, timeZone),
    isBusiness: isBusinessDay(localDay(at, place.timeZone), place, holidays),
  })
  for (const { id, dueAt, place } of starters) {
    const where = `${place.timeZone}/${place.country}/${place.region}`
    const key = `${dueAt}/${where}`
    let room = reached.get(key)
    const ofDay = room?.ofDay ?? `${localDay(dueAt, timeZone)}/${where}`
    if (!room) {
      const offset = offsets.get(ofDay) ?? 0
      room = roomAt(addBusinessDays(dueAt, offset, place, holidays), offset, place, ofDay)
    }
    const isOpen = ({ isBusiness, day }: Room) => isBusiness && (taken.get(day) ?? 0) < perDay
    for (let passed = 0; !isOpen(room) && passed < MOST_DAYS; passed++) {
      room = roomAt(addBusinessDays(room.at, 1, place, holidays), room.offset + 1, place, ofDay)
    }
    reached.set(key, room)
    offsets.set(ofDay, Math.max(offsets.get(ofDay) ?? 0, room.offset))
    const { at, day } = room
    taken.set(day, (taken.get(day) ?? 0) + 1)
    given.set(id, { at, day })
  }
  return given
}

/** A moment at which someone may start, where its day has room; `day` is the team's. */
interface Room {
  at: Instant
  day: string
  isBusiness: boolean
  /** How many business days on from the one they were due on it is, and that day with the place. */
  offset: number
  ofDay: string
}

/** Nobody is put off for longer than this many business days: four years. */
const MOST_DAYS = 1_000
