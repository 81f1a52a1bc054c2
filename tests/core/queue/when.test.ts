import fc from 'fast-check'
import { DateTime } from 'luxon'
import { describe, expect, it } from 'vitest'
import { isCallable } from '../../../core/calendar/callingHours'
import { readWhen, showMoment, whenChips, whenWarnings, type WhenContext } from '../../../core/queue/when'

const TIME_ZONE = 'America/New_York'
/** Monday, November 23, 2026, 10:42 AM in New York. */
const NOW = Date.UTC(2026, 10, 23, 15, 42)
const holidays = {
  US: { '2026-11-26': 'Thanksgiving Day', '2026-12-25': 'Christmas Day', '2027-01-01': 'New Year’s Day' },
}
const place = { timeZone: 'America/Los_Angeles', country: 'US', region: 'CA' }
const context: WhenContext = {
  now: NOW,
  kind: 'call',
  timeZone: TIME_ZONE,
  place,
  hours: { days: [1, 2, 3, 4, 5], from: 480, to: 1080 },
  holidays,
  monthFirst: true,
  dateStyle: 'us',
  best: null,
  goal: null,
}
const read = (text: string, more: Partial<WhenContext> = {}) => {
  const when = readWhen(text, { ...context, ...more })
  return 'at' in when
    ? DateTime.fromMillis(when.at, { zone: more.timeZone ?? TIME_ZONE }).toFormat('yyyy-MM-dd HH:mm')
    : when.error
}

describe('what is typed', () => {
  // Worked out on a calendar.
  it.each([
    ['tue 2:30', '2026-11-24 14:30'],
    ['Tuesday at 9', '2026-11-24 09:00'],
    ['12/1 9a', '2026-12-01 09:00'],
    ['dec 1 at 9:15am', '2026-12-01 09:15'],
    ['tomorrow', '2026-11-24 10:00'],
    ['tomorrow 2:30', '2026-11-24 14:30'],
    ['tomorrow at noon', '2026-11-24 12:00'],
    ['tomorrow morning', '2026-11-24 09:00'],
    ['3p', '2026-11-23 15:00'],
    ['9:30', '2026-11-24 09:30'],
    ['10', '2026-11-24 10:00'],
    ['this afternoon', '2026-11-23 14:00'],
    ['today 4', '2026-11-23 16:00'],
    ['in 20 min', '2026-11-23 11:02'],
    ['in an hour', '2026-11-23 11:42'],
    ['2h', '2026-11-23 12:42'],
    ['monday', '2026-11-30 10:00'],
    ['monday 3:15 pm', '2026-11-23 15:15'],
    ['friday 8:30', '2026-11-27 08:30'],
    ['next tue 3p', '2026-12-01 15:00'],
    ['12012026', '2026-12-01 10:00'],
    ['12012026 230p', '2026-12-01 14:30'],
    ['20261201 08:30', '2026-12-01 08:30'],
    ['2026-12-01 14:30', '2026-12-01 14:30'],
    ['1/5', '2027-01-05 10:00'],
    ['12/1/2026', '2026-12-01 10:00'],
    ['jan 5', '2027-01-05 10:00'],
    ['january 5 2027, 11am', '2027-01-05 11:00'],
  ])('%s is read by the clock it is typed in: %s', (text, at) => expect(read(text)).toBe(at))
  it('names no day: then it is the first working day there', () => {
    // December 14 is a Monday; January 1 is a holiday and the 2nd a Saturday; 10:00 in New York is before hours in
    // California.
    expect([read('in 3 weeks'), read('january'), read('next week'), read('next month')]).toEqual([
      '2026-12-14 11:00',
      '2027-01-04 11:00',
      '2026-11-30 11:00',
      '2026-12-01 11:00',
    ])
  })
  it('is a day first where dates are written so', () => {
    expect([read('5/1', { monthFirst: false }), read('05012027', { monthFirst: false })]).toEqual([
      '2027-01-05 10:00',
      '2027-01-05 10:00',
    ])
  })
  it('is said to be wrong where it cannot be read, has passed, or is too far away', () => {
    expect([read(''), read('asdf'), read('november 20 2026'), read('12/1/2099'), read('13/45')]).toEqual([
      'Say when',
      expect.stringContaining('Can’t read this'),
      'Choose a time in the future',
      'That is more than ten years away',
      expect.stringContaining('Can’t read this'),
    ])
  })
  it('is never an error in the program, and never in the past', () => {
    fc.assert(
      fc.property(fc.oneof(fc.string({ maxLength: 30 }), fc.stringMatching(/^[a-z0-9/:. -]{0,20}$/)), (text) => {
        const when = readWhen(text, context)
        if ('at' in when) expect(when.at).toBeGreaterThanOrEqual(NOW)
        else expect(when.error).not.toBe('')
      }),
      { numRuns: 500 },
    )
  })
  it('keeps to the wall clock on the day the clocks change', () => {
    // New York's clocks go forward on March 14, 2027 (IANA tz database).
    expect(read('3/14 9a', { kind: 'task', place: null })).toBe('2027-03-14 09:00')
  })
})

describe('what does not fit', () => {
  const at = (iso: string) => DateTime.fromISO(iso, { zone: place.timeZone }).toMillis()
  it('is named: the holiday, the weekend or the hour where they are', () => {
    expect(whenWarnings(at('2026-11-26T10:00'), context)).toEqual(['Thu, Nov 26 is Thanksgiving Day where they are'])
    expect(whenWarnings(at('2026-11-28T10:00'), context)).toEqual(['That is a Saturday where they are'])
    expect(whenWarnings(at('2026-11-24T06:30'), context)).toEqual([
      '6:30 AM is outside calling hours where they are (8:00 AM to 6:00 PM)',
    ])
    expect(whenWarnings(at('2026-11-24T10:00'), context)).toEqual([])
    expect(whenWarnings(at('2026-11-28T10:00'), { ...context, kind: 'task' })).toEqual([])
  })
  // Unicode CLDR, the locales en-US and en-GB.
  it.each([
    ['us', 'Mon, Nov 23, 10:42 AM'],
    ['us_24', 'Mon, Nov 23, 10:42'],
    ['day_first', 'Mon 23 Nov, 10:42'],
  ] as const)('shows moments in the style of the reader: %s', (style, shown) =>
    expect(showMoment(NOW, TIME_ZONE, style)).toBe(shown),
  )
})

describe('what is offered', () => {
  it('makes sense now: on working days and in hours there, the soonest first', () => {
    expect(whenChips(context).map((chip) => chip.label)).toEqual([
      'In an hour',
      'Tomorrow 11:00 AM',
      'Tomorrow 2:30 PM',
      'Monday 11:00 AM',
      'Next month',
      'In 2 weeks',
    ])
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 400 * 24 }),
        fc.constantFrom('call' as const, 'meeting' as const),
        (hours, kind) => {
          const now = NOW + hours * 3_600_000
          for (const chip of whenChips({ ...context, now, kind, goal: { amount: 10, unit: 'days' } })) {
            expect(chip.at).toBeGreaterThan(now)
            expect(isCallable(chip.at, context.hours, place, holidays)).toBe(true)
          }
        },
      ),
      { numRuns: 60 },
    )
  })
  it('includes the touch goal of their list', () => {
    const chip = whenChips({ ...context, goal: { amount: 10, unit: 'days' } }).find((one) =>
      one.label.startsWith('By the list’s goal'),
    )!
    expect(showMoment(chip.at, TIME_ZONE, 'us')).toBe('Thu, Dec 3, 11:00 AM')
  })
})
