import fc from 'fast-check'
import { DateTime } from 'luxon'
import { describe, expect, it } from 'vitest'
import { callableUntil, callingHours, isCallable, nextCallable } from '../../../core/calendar/callingHours'
import { addBusinessDays, minuteOfDay } from '../../../core/calendar/local'
import { isZone } from '../../../core/places/isZone'
import { isOpen, nextOpen, type Hours } from '../../../core/calendar/window'
import { afterWait } from '../../../core/cadence/wait'
import { holidayTables } from '../../../server/engine/holidays'

const EVERY_DAY = [1, 2, 3, 4, 5, 6, 7]
const ALWAYS: Hours = { days: EVERY_DAY, from: 0, to: 1440 }
const at = (iso: string, timeZone: string) => DateTime.fromISO(iso, { zone: timeZone }).toMillis()
const place = (timeZone: string, country: string | null = null, region: string | null = null) => ({
  timeZone,
  country,
  region,
})

describe('calling hours', () => {
  // 16 CFR 310.4(c): not before 8:00 and not after 21:00 at the called person's location.
  it.each([
    ['2026-11-23T07:59:59', false],
    ['2026-11-23T08:00:00', true],
    ['2026-11-23T20:59:59', true],
    ['2026-11-23T21:00:00', false],
  ])('at %s there: %s', (iso, open) => {
    for (const timeZone of ['America/New_York', 'America/Los_Angeles', 'Europe/Berlin', 'Australia/Adelaide']) {
      expect(isCallable(at(iso, timeZone), ALWAYS, place(timeZone), {})).toBe(open)
    }
  })
  it('are the stricter of the law’s and the team’s', () => {
    expect(callingHours({ days: [1, 2], from: 360, to: 1320 }, null)).toEqual({ days: [1, 2], from: 480, to: 1260 })
    expect(callingHours({ days: EVERY_DAY, from: 540, to: 1080 }, 'US')).toMatchObject({ from: 540, to: 1080 })
  })
  // From memory: the Australian industry standard of 2017 and the Canadian rules on unsolicited telecommunications;
  // common practice in Britain.
  it.each([
    ['Australia/Sydney', 'AU', '2026-11-23T08:59', false],
    ['Australia/Sydney', 'AU', '2026-11-23T09:00', true],
    ['Australia/Sydney', 'au', '2026-11-23T20:00', false],
    ['Australia/Sydney', 'AU', '2026-11-28T16:59', true],
    ['Australia/Sydney', 'AU', '2026-11-28T17:00', false],
    ['Australia/Sydney', 'AU', '2026-11-29T12:00', false],
    ['America/Toronto', 'CA', '2026-11-23T08:30', false],
    ['America/Toronto', 'CA', '2026-11-23T21:29', true],
    ['America/Toronto', 'CA', '2026-11-28T09:30', false],
    ['America/Toronto', 'CA', '2026-11-29T17:59', true],
    ['Europe/London', 'GB', '2026-11-28T08:30', true],
    ['Europe/London', 'GB', '2026-11-29T08:30', false],
    ['Europe/Berlin', 'DE', '2026-11-29T08:30', true],
  ])('are the country’s own: in %s (%s) at %s: %s', (timeZone, country, iso, open) => {
    expect(isCallable(at(iso, timeZone), ALWAYS, place(timeZone, country), {})).toBe(open)
  })
  it('that begin after a day’s legal hours have ended leave that day out', () => {
    const late: Hours = { days: EVERY_DAY, from: 17 * 60 + 30, to: 1200 }
    const sydney = place('Australia/Sydney', 'AU')
    expect(nextCallable(at('2026-11-28T09:00', sydney.timeZone), late, sydney, {})).toBe(
      at('2026-11-30T17:30', sydney.timeZone),
    )
    expect(callableUntil(at('2026-11-28T16:00', sydney.timeZone), ALWAYS, sydney, {})).toBe(
      at('2026-11-28T17:00', sydney.timeZone),
    )
  })
  it('open again after a weekend and a holiday', () => {
    const holidays = { US: { '2026-11-26': 'Thanksgiving Day' } }
    const office: Hours = { days: [1, 2, 3, 4, 5], from: 480, to: 1080 }
    const ny = place('America/New_York', 'US')
    expect(nextCallable(at('2026-11-25T19:00', ny.timeZone), office, ny, holidays)).toBe(
      at('2026-11-27T08:00', ny.timeZone),
    )
    expect(nextCallable(at('2026-11-27T18:00', ny.timeZone), office, ny, holidays)).toBe(
      at('2026-11-30T08:00', ny.timeZone),
    )
    expect(callableUntil(at('2026-11-25T10:00', ny.timeZone), office, ny, holidays)).toBe(
      at('2026-11-25T18:00', ny.timeZone),
    )
  })
  it('for every hour and zone: what opens next is open, and nothing between is', () => {
    const hours = fc.record({
      days: fc.subarray(EVERY_DAY, { minLength: 1 }),
      from: fc.integer({ min: 0, max: 1380 }),
      length: fc.integer({ min: 30, max: 600 }),
    })
    fc.assert(
      fc.property(
        fc.integer({ min: Date.UTC(2026, 0), max: Date.UTC(2027, 0) }),
        hours,
        fc.constantFrom('America/New_York', 'Europe/London', 'Australia/Sydney', 'Asia/Kolkata'),
        (moment, given, timeZone) => {
          const open: Hours = { days: given.days, from: given.from, to: Math.min(1440, given.from + given.length) }
          const next = nextOpen(moment, open, place(timeZone), {})
          expect(next).toBeGreaterThanOrEqual(moment)
          expect(isOpen(next, open, place(timeZone), {})).toBe(true)
          if (next > moment) expect(isOpen(next - 1, open, place(timeZone), {})).toBe(false)
        },
      ),
      { numRuns: 200 },
    )
  })
  it('say so where they never open', () => {
    expect(() => nextOpen(0, { days: [], from: 0, to: 60 }, place('UTC'), {})).toThrow(RangeError)
  })
})

describe('waits', () => {
  const holidays = holidayTables()
  it('count business days around the holidays of where the person is', () => {
    // 5 USC 6103: Thanksgiving is the fourth Thursday of November, in 2026 the 26th.
    const ny = place('America/New_York', 'US', 'NY')
    expect(afterWait(at('2026-11-25T10:00', ny.timeZone), { amount: 1, unit: 'business_days' }, ny, holidays)).toBe(
      at('2026-11-27T10:00', ny.timeZone),
    )
    // The same wait in Ontario, whose Thanksgiving was in October.
    const toronto = place('America/Toronto', 'CA', 'ON')
    expect(
      afterWait(at('2026-11-25T10:00', toronto.timeZone), { amount: 1, unit: 'business_days' }, toronto, holidays),
    ).toBe(at('2026-11-26T10:00', toronto.timeZone))
  })
  it('skip a holiday of one region only there', () => {
    // Reformation Day, 31 October, is a public holiday in Brandenburg and not in Bavaria (from memory); in 2025 a
    // Friday.
    const [bb, by] = ['BB', 'BY'].map((region) =>
      addBusinessDays(
        at('2025-10-30T09:00', 'Europe/Berlin'),
        1,
        place('Europe/Berlin', 'DE', region),
        holidayTables(),
      ),
    )
    expect([bb, by].map((moment) => DateTime.fromMillis(moment!, { zone: 'Europe/Berlin' }).toISODate())).toEqual([
      '2025-11-03',
      '2025-10-31',
    ])
  })
  it.each([
    // IANA tz: the United States spring forward on 8 March 2026 and fall back on 1 November, Sydney the other way on 5
    // April and 4 October.
    ['America/New_York', '2026-03-07T09:30', '2026-03-08T09:30', 23],
    ['America/New_York', '2026-10-31T09:30', '2026-11-01T09:30', 25],
    ['Australia/Sydney', '2026-04-04T09:30', '2026-04-05T09:30', 25],
    ['Australia/Sydney', '2026-10-03T09:30', '2026-10-04T09:30', 23],
  ])('of a day keep the wall clock in %s from %s', (timeZone, from, to, hours) => {
    const moment = afterWait(at(from, timeZone), { amount: 1, unit: 'days' }, place(timeZone), {})
    expect(moment).toBe(at(to, timeZone))
    expect((moment - at(from, timeZone)) / 3_600_000).toBe(hours)
  })
  it('of hours are elapsed hours across a clock change', () => {
    const timeZone = 'America/New_York'
    expect(afterWait(at('2026-03-07T23:00', timeZone), { amount: 4, unit: 'hours' }, place(timeZone), {})).toBe(
      at('2026-03-08T04:00', timeZone),
    )
  })
  it('are refused when negative or broken', () => {
    for (const amount of [-1, 1.5, NaN]) {
      expect(() => afterWait(0, { amount, unit: 'days' }, place('UTC'), {})).toThrow(RangeError)
    }
  })
})

describe('zones', () => {
  it('are known or not', () => {
    expect(['Europe/Berlin', 'UTC', 'Mars/Olympus', '', 'UTC+3'].map(isZone)).toEqual([true, true, false, false, false])
    expect(() => minuteOfDay(0, 'Mars/Olympus')).toThrow(/Unknown time zone/)
  })
})
