import fc from 'fast-check'
import { DateTime } from 'luxon'
import { describe, expect, it } from 'vitest'
import { afterWait, waitInWords, type Wait } from '../../../core/cadence/wait'
import { isBusinessDay } from '../../../core/calendar/local'

const HOLIDAYS = { US: { '2026-11-26': 'Thanksgiving Day', '2026-12-25': 'Christmas Day' } }
const OHIO = { timeZone: 'America/New_York', country: 'US', region: 'OH' }
const at = (iso: string) => DateTime.fromISO(iso, { zone: OHIO.timeZone }).toMillis()
const end = (from: string, wait: Wait) =>
  DateTime.fromMillis(afterWait(at(from), wait, OHIO, HOLIDAYS), { zone: OHIO.timeZone }).toFormat(
    'ccc yyyy-MM-dd HH:mm',
  )

describe('a wait that ends at a time of day', () => {
  const nextMorning: Wait = { amount: 1, unit: 'business_days', at: 540 }
  it('is the next business day at 9:00, over a weekend and a holiday', () => {
    expect(end('2026-11-23T15:42', nextMorning)).toBe('Tue 2026-11-24 09:00')
    expect(end('2026-11-25T15:42', nextMorning)).toBe('Fri 2026-11-27 09:00')
    expect(end('2026-11-27T07:00', nextMorning)).toBe('Mon 2026-11-30 09:00')
  })
  it('is today where that time is still to come, else the next day', () => {
    expect(end('2026-11-23T07:00', { amount: 0, unit: 'days', at: 540 })).toBe('Mon 2026-11-23 09:00')
    expect(end('2026-11-23T09:01', { amount: 0, unit: 'days', at: 540 })).toBe('Tue 2026-11-24 09:00')
    expect(end('2026-11-28T07:00', { amount: 0, unit: 'business_days', at: 540 })).toBe('Mon 2026-11-30 09:00')
  })
  it('keeps the wall clock across both clock changes of the year', () => {
    expect(end('2026-10-31T12:00', { amount: 1, unit: 'weeks', at: 870 })).toBe('Sat 2026-11-07 14:30')
    expect(end('2027-03-13T12:00', { amount: 1, unit: 'days', at: 870 })).toBe('Sun 2027-03-14 14:30')
  })
  it('never ends before it begins, and a business day is one there', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 400 * 1440 }),
        fc.nat(9),
        fc.nat(1439),
        fc.constantFrom('days' as const, 'business_days' as const, 'weeks' as const),
        (minutes, amount, time, unit) => {
          const from = at('2026-06-01T00:00') + minutes * 60_000
          const ends = afterWait(from, { amount, unit, at: time }, OHIO, HOLIDAYS)
          expect(ends).toBeGreaterThanOrEqual(from)
          const day = DateTime.fromMillis(ends, { zone: OHIO.timeZone })
          // At 2:30 in the night on which clocks go forward there is no such time.
          if (day.toISODate() !== '2027-03-14') expect(day.hour * 60 + day.minute).toBe(time)
          if (unit === 'business_days') expect(isBusinessDay(day.toISODate()!, OHIO, HOLIDAYS)).toBe(true)
        },
      ),
    )
  })
  it('is said in words', () => {
    expect(waitInWords(nextMorning)).toBe('the next business day at 9:00 AM')
    expect(waitInWords({ amount: 3, unit: 'days', at: 810 })).toBe('3 days later at 1:30 PM')
    expect(waitInWords({ amount: 3, unit: 'days', at: 810 }, 'us_24')).toBe('3 days later at 13:30')
    expect(waitInWords({ amount: 0, unit: 'hours' })).toBe('at once')
  })
})
