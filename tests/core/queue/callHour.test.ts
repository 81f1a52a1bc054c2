import { describe, expect, it } from 'vitest'
import { isCallable } from '../../../core/calendar/callingHours'
import { callableHours, nextTimeIn, weekHourAt } from '../../../core/queue/callHour'

const OFFICE = { days: [1, 2, 3, 4, 5], from: 8 * 60 + 30, to: 18 * 60 }
const NEW_YORK = { timeZone: 'America/New_York', country: 'US', region: 'NY' }
const HOLIDAYS = { US: { '2026-11-26': 'Thanksgiving Day' } }
/** Tuesday, November 24, 2026, 10:20 AM in New York. */
const NOW = Date.UTC(2026, 10, 24, 15, 20)

describe('an hour of the week', () => {
  it('is that of the clock where they are', () => {
    expect(weekHourAt(NOW, 'America/New_York')).toEqual({ weekday: 2, hour: 10 })
    expect(weekHourAt(NOW, 'Australia/Sydney')).toEqual({ weekday: 3, hour: 2 })
  })
  it('is one in which people may be called, by the team’s hours and the law where they are', () => {
    const hours = callableHours(OFFICE, 'US')
    expect(hours).toHaveLength(5 * 10)
    expect(hours[0]).toEqual({ weekday: 1, hour: 8 })
    // On a Saturday nobody calls after five in Australia (as core/calendar/callingHours has it), on a Sunday at all.
    const everyDay = { days: [1, 2, 3, 4, 5, 6, 7], from: 0, to: 1440 }
    const weekend = callableHours(everyDay, 'AU').filter(({ weekday }) => weekday > 5)
    expect(weekend.map(({ hour }) => hour)).toEqual([9, 10, 11, 12, 13, 14, 15, 16])
  })
  it('comes next on the day they may be called', () => {
    const next = (weekday: number, hour: number) => nextTimeIn({ weekday, hour }, NOW, NEW_YORK, OFFICE, HOLIDAYS)
    expect(next(2, 14)).toBe(Date.UTC(2026, 10, 24, 19))
    // It has begun already: a week later.
    expect(next(2, 10)).toBe(Date.UTC(2026, 11, 1, 15))
    // Not on Thanksgiving.
    expect(next(4, 9)).toBe(Date.UTC(2026, 11, 3, 14))
    expect(next(6, 9)).toBeNull()
    for (const day of [1, 2, 3, 4, 5]) {
      expect(isCallable(next(day, 11)!, OFFICE, NEW_YORK, HOLIDAYS)).toBe(true)
    }
  })
})
