import type { Instant } from '../instant'
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
  CA: { days: EVERY_DAY, from: 9 * 60, to: 21 * 60 + 30, on: { 6: { from: 10 * 60, to: 18 * 60 }, 7: { from: 10 * 60, to: 18 * 60 } } },
  // The code of the trade's association (common practice): an hour later on Sundays.
  GB: { days: EVERY_DAY, from: 8 * 60, to: 21 * 60, on: { 7: { from: 9 * 60, to: 21 * 60 } } },
}

/** Countries (ISO 3166-1 alpha-2) whose calling hours differ from the usual ones. */
export const COUNTRIES_WITH_OWN_HOURS: readonly string[] = Object.keys(LEGAL)

/** The hours that both the law where somebody is and the team allow: the later start, the earlier end, the days of both. */
export function callingHours(team: Hours, country: string | null): Hours {
  const law = LEGAL[country?.toUpperCase() ?? ''] ?? USUAL
  const both = (hours: { from: number, to: number }) => ({ from: Math.max(hours.from, team.from), to: Math.min(hours.to, team.to) })
  return {
    days: law.days.filter(day => team.days.includes(day)), ...both(law),
    ...(law.on && { on: Object.fromEntries(Object.entries(law.on).map(([day, hours]) => [day, both(hours!)])) }),
  }
}

/** Whether there is any hour of the week in which somebody at `place` may be called, holidays aside. */
export function everCallable(team: Hours, place: Pick<Place, 'country'>): boolean {
  const hours = callingHours(team, place.country)
  return hours.days.some((day) => {
    const { from, to } = hours.on?.[day] ?? hours
    return from < to
  })
}

/** Whether somebody at `place` may be rung now. Holidays there count as closed. */
export function isCallable(at: Instant, team: Hours, place: Place, holidays: Holidays): boolean {
  return isOpen(at, callingHours(team, place.country ?? null), place, holidays)
}

/** The first instant from `at` on at which somebody at `place` may be rung. */
export function nextCallable(at: Instant, team: Hours, place: Place, holidays: Holidays): Instant {
  return nextOpen(at, callingHours(team, place.country ?? null), place, holidays)
}

/** Until when somebody at `place` may be rung today, or null when not now. */
export function callableUntil(at: Instant, team: Hours, place: Place, holidays: Holidays): Instant | null {
  return closesAt(at, callingHours(team, place.country ?? null), place, holidays)
}
