import fc from 'fast-check'
import { parsePhoneNumberFromString, type CountryCode } from 'libphonenumber-js'
import { DateTime } from 'luxon'
import { describe, expect, it } from 'vitest'
import { local } from '../../../core/calendar/local'
import { isStorable, nameKey, tidy } from '../../../core/text/names'
import { normalizePhone, parsePhone } from '../../../core/text/phone'

/** Shortcuts that make the common case quick are held to the plain way, which a library or a standard defines. */
const WALL = "yyyy-MM-dd'T'HH:mm:ss.SSSZZ"

describe('a zone that remembers its offset', () => {
  const zones = [
    'America/New_York',
    'Europe/London',
    'Australia/Lord_Howe',
    'Asia/Kathmandu',
    'America/St_Johns',
    'Pacific/Apia',
    'Africa/Casablanca',
    'Africa/Monrovia',
    'UTC',
  ]
  const clock = (at: number, timeZone: string) => DateTime.fromMillis(at, { zone: timeZone }).toFormat(WALL)
  it('shows the clock that the library shows, at any moment from 1900 on', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: Date.UTC(1900, 0), max: Date.UTC(2100, 0) }),
        fc.constantFrom(...zones),
        (at, timeZone) => {
          // Twice: the second is answered from memory.
          expect(local(at, timeZone).toFormat(WALL)).toBe(clock(at, timeZone))
          expect(local(at + 1, timeZone).toFormat(WALL)).toBe(clock(at + 1, timeZone))
        },
      ),
      { numRuns: 500 },
    )
  })
  // IANA tz database: New York goes forward on 8 March 2026 at 7:00 UTC, Lord Howe by half an hour on 4 October 2026 at
  // 15:30 UTC the day before.
  it.each([
    ['America/New_York', Date.UTC(2026, 2, 8, 7)],
    ['America/New_York', Date.UTC(2026, 10, 1, 6)],
    ['Australia/Lord_Howe', Date.UTC(2026, 9, 3, 15, 30)],
    ['Europe/London', Date.UTC(2026, 2, 29, 1)],
  ])('turns over in %s at the very millisecond', (timeZone, turn) => {
    const before = DateTime.fromMillis(turn - 1, { zone: timeZone }).offset
    expect(DateTime.fromMillis(turn, { zone: timeZone }).offset).not.toBe(before)
    for (const at of [turn - 60_000, turn - 1, turn, turn + 1, turn + 899_999]) {
      expect(local(at, timeZone).toFormat(WALL)).toBe(clock(at, timeZone))
    }
  })
  it.each(['', 'Mars/Olympus', 'America/New York', '+25:00'])('refuses "%s"', (timeZone) =>
    expect(() => local(0, timeZone)).toThrow(RangeError),
  )
})

describe('a number read without finding out its country', () => {
  const countries: CountryCode[] = ['US', 'CA', 'GB', 'GG', 'DE', 'AT', 'FR', 'AU', 'JP', 'IT', 'KZ', 'RU', 'DO']
  const digits = fc.stringMatching(/^[0-9]{5,13}$/)
  const shaped = fc.oneof(
    digits,
    digits.map((d) => `(${d.slice(0, 3)}) ${d.slice(3, 6)}-${d.slice(6)}`),
    digits.map((d) => `0${d}`),
    digits.map((d) => `+${d}`),
    digits.map((d) => `011 ${d}`),
    digits.map((d) => `00${d}`),
    digits.map((d) => `${d} ext. 7`),
  )
  it('is the number that is found with it', () => {
    fc.assert(
      fc.property(shaped, fc.constantFrom(...countries), (text, country) => {
        expect(normalizePhone(text, country)).toBe(parsePhone(text, country)?.number ?? null)
      }),
      { numRuns: 3_000 },
    )
  })
  it('is what the library makes of it', () => {
    for (const [text, country] of [
      ['(607) 555-0142', 'US'],
      ['020 7946 0338', 'GB'],
      ['030 23125 117', 'DE'],
      ['+61 491 570 156', 'US'],
      ['416 555 0188', 'CA'],
    ] as const) {
      expect(normalizePhone(text, country)).toBe(parsePhoneNumberFromString(text, country)!.number)
    }
  })
  it.each([
    ['12', 'US'],
    // Too short for the Isle of Man, whose it would be.
    ['(162) 400-0', 'GB'],
    ['', 'US'],
    ['call me', 'DE'],
    ['555 0142', 'XX'],
  ])('is none for "%s" in %s', (text, country) => expect(normalizePhone(text, country)).toBeNull())
})

describe('text', () => {
  const any = fc.oneof(
    fc.string(),
    fc.string({ unit: 'binary' }),
    fc.string({ unit: 'grapheme' }),
    fc.stringMatching(/^[ -~]{0,30}$/),
  )
  it('is tidied alike, plain or not', () => {
    fc.assert(
      fc.property(any, (text) => {
        expect(tidy(text)).toBe(
          text
            .normalize('NFC')
            .replace(/[\s\u00a0]+/g, ' ')
            .trim(),
        )
      }),
      { numRuns: 1_000 },
    )
  })
  it('is compared alike, plain or not', () => {
    fc.assert(
      fc.property(any, (text) => {
        expect(nameKey(text)).toBe(
          text
            .normalize('NFKD')
            .toLowerCase()
            .replace(/[\u0300-\u036f]/g, '')
            .replace(/ß/g, 'ss')
            .replace(/[^\p{L}\p{N}\p{M}]+/gu, ' ')
            .trim(),
        )
      }),
      { numRuns: 1_000 },
    )
  })
  it('can be kept exactly where it holds no NUL and no half of a pair (Unicode 15, 3.9 D89)', () => {
    fc.assert(
      fc.property(
        fc.oneof(any, fc.string({ unit: fc.constantFrom('a', '\0', '\ud83c', '\udf31', '\ud83c\udf31') })),
        (text) => {
          expect(isStorable(text)).toBe(!text.includes('\0') && encodeURIComponentWorks(text))
        },
      ),
      { numRuns: 1_000 },
    )
  })
})

/** The platform's own judge of well-formed UTF-16. */
function encodeURIComponentWorks(text: string): boolean {
  try {
    encodeURIComponent(text)
    return true
  } catch {
    return false
  }
}
