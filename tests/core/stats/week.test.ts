import fc from 'fast-check'
import { DateTime } from 'luxon'
import { describe, expect, it } from 'vitest'
import { weekDays } from '../../../core/stats/week'

describe('a week', () => {
  it('runs from Monday to Monday (ISO 8601), by the clock of the zone', () => {
    const wednesday = DateTime.fromISO('2026-11-25T09:00', { zone: 'America/New_York' }).toMillis()
    const shown = (back: number) =>
      weekDays(wednesday, 'America/New_York', back).map((at) =>
        DateTime.fromMillis(at, { zone: 'America/New_York' }).toISODate(),
      )
    expect(shown(0)).toEqual([
      '2026-11-23',
      '2026-11-24',
      '2026-11-25',
      '2026-11-26',
      '2026-11-27',
      '2026-11-28',
      '2026-11-29',
      '2026-11-30',
    ])
    expect(shown(4)[0]).toBe('2026-10-26')
    // The clock goes back on November 1, 2026: that Sunday has 25 hours.
    const days = weekDays(wednesday, 'America/New_York', 4)
    expect((days[7]! - days[6]!) / 3_600_000).toBe(25)
  })
  it('holds every moment in exactly one day, and the weeks join', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 4_102_444_800_000 }),
        fc.constantFrom('UTC', 'America/New_York', 'Australia/Lord_Howe', 'Asia/Kathmandu', 'Africa/Cairo'),
        (at, timeZone) => {
          const days = weekDays(at, timeZone)
          expect(days).toHaveLength(8)
          expect(days.slice(0, 7).filter((start, day) => at >= start && at < days[day + 1]!)).toHaveLength(1)
          expect(weekDays(days[0]!, timeZone, 1)[7]).toBe(days[0])
        },
      ),
    )
  })
})
