import type { Instant } from '../instant'
import type { Holidays, Place } from './local'
import { closesAt, isOpen, nextOpen, type Hours } from './window'

const EVERY_DAY = [1, 2, 3, 4, 5, 6, 7]

/**
 * The hours in which a person may be called at all: 8:00 to 21:00 at the called person's location, from
 * 16 CFR 310.4(c) (US FTC Telemarketing Sales Rule). Used for every country until a stricter one is entered for it.
 */
const LEGAL: Hours = { days: EVERY_DAY, from: 8 * 60, to: 21 * 60 }

/** The hours that both the law and the team allow: the later start, the earlier end, the days of both. */
export function callingHours(team: Hours): Hours {
  return {
    days: LEGAL.days.filter(day => team.days.includes(day)),
    from: Math.max(LEGAL.from, team.from),
    to: Math.min(LEGAL.to, team.to),
  }
}

/** Whether somebody at `place` may be rung now. Holidays there count as closed. */
export function isCallable(at: Instant, team: Hours, place: Place, holidays: Holidays): boolean {
  return isOpen(at, callingHours(team), place, holidays)
}

/** The first instant from `at` on at which somebody at `place` may be rung. */
export function nextCallable(at: Instant, team: Hours, place: Place, holidays: Holidays): Instant {
  return nextOpen(at, callingHours(team), place, holidays)
}

/** Until when somebody at `place` may be rung today, or null when not now. */
export function callableUntil(at: Instant, team: Hours, place: Place, holidays: Holidays): Instant | null {
  return closesAt(at, callingHours(team), place, holidays)
}
