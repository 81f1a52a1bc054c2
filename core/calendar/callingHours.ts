import type { Instant } from '../instant'
import { callingZones } from '../places/lookUp'
import type { Holidays, Place } from './local'
import { closesAt, isOpen, nextOpen, type Hours } from './window'

const EVERY_DAY = [1, 2, 3, 4, 5, 6, 7]

/**
 * The hours in which a person may be called at all: 8:00 to 21:00 at the called person's location, from
 * 16 CFR 310.4(c) (US FTC Telemarketing Sales Rule). Used wherever no stricter ones are known.
 */
const USUAL: Hours = { days: EVERY_DAY, from: 8 * 60, to: 21 * 60 }

/** Countries with hours of their own (ISO 3166-1 alpha-2). All from memory: look them up before relying on them. */
const LEGAL: Readonly<Record<string, Hours>> = {
  // Telecommunications (Telemarketing and Research Calls) Industry Standard 2017: never on a Sunday.
  AU: { days: [1, 2, 3, 4, 5, 6], from: 9 * 60, to: 20 * 60, on: { 6: { from: 9 * 60, to: 17 * 60 } } },
  // CRTC Unsolicited Telecommunications Rules, Part III.
  CA: {
    days: EVERY_DAY,
    from: 9 * 60,
    to: 21 * 60 + 30,
    on: { 6: { from: 10 * 60, to: 18 * 60 }, 7: { from: 10 * 60, to: 18 * 60 } },
  },
  // The code of the trade's association (common practice): an hour later on Sundays.
  GB: { days: EVERY_DAY, from: 8 * 60, to: 21 * 60, on: { 7: { from: 9 * 60, to: 21 * 60 } } },
}

/** Countries (ISO 3166-1 alpha-2) whose calling hours differ from the usual ones. */
export const COUNTRIES_WITH_OWN_HOURS: readonly string[] = Object.keys(LEGAL)

/**
 * The hours that both the law where someone is and the team allow: the later start, the earlier end, the days of both.
 */
export function callingHours(team: Hours, country: string | null): Hours {
  const law = LEGAL[country?.toUpperCase() ?? ''] ?? USUAL
  const both = (hours: { from: number; to: number }) => ({
    from: Math.max(hours.from, team.from),
    to: Math.min(hours.to, team.to),
  })
  return {
    days: law.days.filter((day) => team.days.includes(day)),
    ...both(law),
    ...(law.on && { on: Object.fromEntries(Object.entries(law.on).map(([day, hours]) => [day, both(hours!)])) }),
  }
}

/** Whether there is any hour of the week in which someone at `place` may be called, holidays aside. */
export function everCallable(team: Hours, place: Pick<Place, 'country'>): boolean {
  const hours = callingHours(team, place.country)
  return hours.days.some((day) => {
    const { from, to } = hours.on?.[day] ?? hours
    return from < to
  })
}

/** A place at each of the zones that are possible there. */
const placesOf = (place: Place): Place[] => callingZones(place).map((timeZone) => ({ ...place, timeZone }))

/** The hours at one of the possible zones: the team's at the one that is taken, the law's at every other. */
function hoursAt(timeZone: string, team: Hours, place: Place): Hours {
  return callingHours(timeZone === place.timeZone ? team : ANY_HOUR, place.country ?? null)
}
const ANY_HOUR: Hours = { days: EVERY_DAY, from: 0, to: 1440 }

/**
 * Whether someone at `place` may be called now: in every zone that is possible where nothing says which is theirs.
 * Holidays there count as closed.
 */
export function isCallable(at: Instant, team: Hours, place: Place, holidays: Holidays): boolean {
  return placesOf(place).every((here) => isOpen(at, hoursAt(here.timeZone, team, place), here, holidays))
}

/**
 * The first instant from `at` on at which someone at `place` may be called. Throws RangeError where there is none
 * within two years, or the hours of all possible zones never meet within two months.
 */
export function nextCallable(at: Instant, team: Hours, place: Place, holidays: Holidays): Instant {
  const places = placesOf(place)
  let time = at
  for (let tries = 0; tries < 200; tries++) {
    const next = Math.max(...places.map((here) => nextOpen(time, hoursAt(here.timeZone, team, place), here, holidays)))
    if (next === time || places.length === 1) return next
    time = next
  }
  throw new RangeError('These hours never open')
}

/**
 * The first instant from `at` on that is on a business day at `place` (Monday to Friday, no holiday) and in calling
 * hours there: when a call that nobody asked for at another hour is planned. Where the team calls on weekends only,
 * business days do not matter. Throws RangeError as `nextCallable` does.
 */
export function nextWorkingMoment(at: Instant, team: Hours, place: Place, holidays: Holidays): Instant {
  const hours = { ...team, days: team.days.some((day) => day <= 5) ? team.days.filter((day) => day <= 5) : team.days }
  return nextCallable(at, hours, place, holidays)
}

/** Until when someone at `place` may be called today, or null when not now. */
export function callableUntil(at: Instant, team: Hours, place: Place, holidays: Holidays): Instant | null {
  const ends = placesOf(place).map((here) => closesAt(at, hoursAt(here.timeZone, team, place), here, holidays))
  return ends.includes(null) ? null : Math.min(...(ends as Instant[]))
}
