import fc from 'fast-check'
import { DateTime, IANAZone } from 'luxon'
import meta from 'moment-timezone/data/meta/latest.json' with { type: 'json' }
import Calendar from 'date-holidays'
import { describe, expect, it } from 'vitest'
import { callableUntil, isCallable, nextCallable } from '../../../core/calendar/callingHours'
import { addBusinessDays, holidayOn } from '../../../core/calendar/local'
import { nextOpen } from '../../../core/calendar/window'
import {
  callingZones,
  COUNTRIES,
  possibleZones,
  readCountry,
  readRegion,
  tidyRegion,
} from '../../../core/places/lookUp'
import { areaOf, placePerson } from '../../../core/places/place'
import { REGIONS } from '../../../core/places/regions'
import { holidayTables } from '../../../server/engine/holidays'

const HOME = { country: 'US', timeZone: 'America/New_York' }
const at = (iso: string, timeZone: string) => DateTime.fromISO(iso, { zone: timeZone }).toMillis()
const iso = (moment: number, timeZone: string) =>
  DateTime.fromMillis(moment, { zone: timeZone }).toFormat('yyyy-MM-dd HH:mm')

describe('the table of countries', () => {
  // IANA tz database, zone.tab, as the package moment-timezone ships it.
  const reference = meta.countries as Record<string, { zones: string[] }>
  it('has every country of the IANA tables with exactly its zones', () => {
    for (const [code, { zones }] of Object.entries(reference)) {
      expect([code, [...(COUNTRIES.get(code)?.zones ?? [])].sort()]).toEqual([code, [...zones].sort()])
    }
  })
  it('names every country as ISO 3166-1 does in English (CLDR), by two and three letters', () => {
    const names = new Intl.DisplayNames('en', { type: 'region' })
    for (const { code, code3, name } of COUNTRIES.values()) {
      expect(name).toBe(names.of(code))
      expect([code, code.toLowerCase(), name, name.toUpperCase(), ...(code3 ? [code3] : [])].map(readCountry)).toEqual(
        expect.arrayContaining([code]),
      )
      expect(readCountry(name)).toBe(code)
    }
  })
  it.each([
    ['USA', 'US'],
    ['U.S.A.', 'US'],
    ['United States of America', 'US'],
    ['UK', 'GB'],
    ['Great Britain', 'GB'],
    ['Deutschland', 'DE'],
    ['Österreich', 'AT'],
    ['The Netherlands', 'NL'],
    ['Czech Republic', 'CZ'],
    ['South Korea', 'KR'],
    ['nowhere', null],
    ['', null],
  ])('%j is %s', (text, code) => expect(readCountry(text)).toBe(code))
})

describe('regions', () => {
  it('have zones of their country, and are found by code and by every name', () => {
    for (const [country, regions] of Object.entries(REGIONS)) {
      for (const { code, names, zones } of regions) {
        for (const text of [code, `${country}-${code}`, ...names, names[0]!.toLowerCase()]) {
          expect([text, readRegion(text, country)?.code]).toEqual([text, code])
        }
        for (const timeZone of zones) expect([code, IANAZone.isValidZone(timeZone)]).toEqual([code, true])
      }
    }
  })
  // ISO 3166-2 codes as the package date-holidays lists them.
  it.each(['US', 'CA', 'AU', 'DE', 'AT', 'CH'])('of %s are all there', (country) => {
    for (const code of Object.keys(new Calendar().getStates(country) ?? {})) {
      expect([code, readRegion(code, country)?.code]).toEqual([code, code])
    }
  })
})

describe('where a prospect is', () => {
  it.each<[Parameters<typeof placePerson>[0], string, string, string]>([
    [{ country: 'US', region: 'CO' }, 'America/Denver', 'address', 'US'],
    [{ country: 'United States', region: 'Oregon' }, 'America/Los_Angeles', 'address', 'US'],
    [{ region: 'California' }, 'America/Los_Angeles', 'address', 'US'],
    [{ region: 'CA' }, 'America/Los_Angeles', 'address', 'US'],
    [{ country: 'Japan' }, 'Asia/Tokyo', 'address', 'JP'],
    [{ country: 'Kenya' }, 'Africa/Nairobi', 'address', 'KE'],
    [{ country: 'UK', numbers: ['+442079460321'] }, 'Europe/London', 'address', 'GB'],
    [{ numbers: ['+442079460321'] }, 'Europe/London', 'address', 'GB'],
    [{ numbers: ['+16085550141'] }, 'America/Chicago', 'number', 'US'],
    [{ numbers: ['+16045550141'] }, 'America/Vancouver', 'number', 'CA'],
    [{ country: 'US', numbers: ['+15415550117'] }, 'America/Los_Angeles', 'number', 'US'],
    [{ country: 'US', region: 'TX', numbers: ['+19155550117'] }, 'America/Denver', 'address', 'US'],
    [{ country: 'US' }, 'America/New_York', 'guess', 'US'],
    [{}, 'America/New_York', 'guess', 'US'],
    [{ country: 'Australia' }, 'Australia/Sydney', 'guess', 'AU'],
    [{ country: 'Atlantis' }, 'America/New_York', 'guess', 'ATLANTIS'],
    [{ timeZone: 'Europe/Paris', country: 'US', region: 'WI' }, 'Europe/Paris', 'given', 'US'],
  ])('%j: %s by %s in %s', (known, timeZone, timeZoneFrom, country) =>
    expect(placePerson(known, HOME)).toEqual({ timeZone, timeZoneFrom, country }),
  )
  it('is always a zone there is, whatever is known', () => {
    fc.assert(
      fc.property(
        fc.constantFrom('US', 'us', 'CA', 'Australia', 'DE', 'XX', '', null),
        fc.oneof(fc.constantFrom('NY', 'ca', 'QLD', '', null), fc.string()),
        fc.oneof(fc.constantFrom('Europe/Berlin', 'Mars/Olympus', '', null), fc.string()),
        fc.array(fc.constantFrom('+16085550141', '+442079460321', '+1')),
        (country, region, timeZone, numbers) => {
          expect(IANAZone.isValidZone(placePerson({ country, region, timeZone, numbers }, HOME).timeZone)).toBe(true)
        },
      ),
    )
  })
  it('follows from area codes, each of one state', () => {
    // From memory.
    expect(
      [
        ['+12125550100', 'NY'],
        ['+13035550100', 'CO'],
        ['+18085550100', 'HI'],
        ['+19075550100', 'AK'],
        ['+14165550100', 'ON'],
      ].map(([number]) => areaOf(number!)?.region),
    ).toEqual(['NY', 'CO', 'HI', 'AK', 'ON'])
    expect(areaOf('+18005550100')).toBeNull()
    expect(areaOf('+442079460321')).toBeNull()
  })
})

describe('calling a prospect whose time zone is unknown', () => {
  const team = { days: [1, 2, 3, 4, 5], from: 480, to: 1080 }
  const guessed = { timeZone: 'America/New_York', timeZoneFrom: 'guess' as const, country: 'US', region: null }
  it('waits until it is right in every zone that is possible (16 CFR 310.4(c))', () => {
    // 8:00 in Adak, the last of the American zones (UTC-10 in November), is 13:00 in New York.
    expect(isCallable(at('2026-11-23T10:42', 'America/New_York'), team, guessed, {})).toBe(false)
    expect(iso(nextCallable(at('2026-11-23T10:42', 'America/New_York'), team, guessed, {}), 'America/New_York')).toBe(
      '2026-11-23 13:00',
    )
    expect(iso(callableUntil(at('2026-11-23T14:00', 'America/New_York'), team, guessed, {})!, 'America/New_York')).toBe(
      '2026-11-23 18:00',
    )
    // Their number says where they are: the hours there hold.
    expect(
      isCallable(at('2026-11-23T10:42', 'America/New_York'), team, { ...guessed, timeZoneFrom: 'number' }, {}),
    ).toBe(true)
  })
  it('holds in both parts of a split state', () => {
    const texas = { timeZone: 'America/Chicago', timeZoneFrom: 'address' as const, country: 'US', region: 'Texas' }
    expect(callingZones(texas)).toEqual(['America/Chicago', 'America/Denver'])
    expect(iso(nextCallable(at('2026-11-23T06:00', 'America/Chicago'), team, texas, {}), 'America/Chicago')).toBe(
      '2026-11-23 09:00',
    )
  })
  it('never happens at a bad hour in any possible zone, whenever and wherever it is', () => {
    const places = fc.constantFrom(
      guessed,
      { timeZone: 'America/Toronto', timeZoneFrom: 'guess' as const, country: 'CA', region: null },
      { timeZone: 'Australia/Sydney', timeZoneFrom: 'guess' as const, country: 'AU', region: null },
      { timeZone: 'America/Denver', timeZoneFrom: 'address' as const, country: 'US', region: 'ID' },
    )
    fc.assert(
      fc.property(places, fc.integer({ min: 0, max: 365 * 24 * 4 }), (place, quarter) => {
        const moment = at('2026-01-01T00:00', 'UTC') + quarter * 900_000
        if (!isCallable(moment, team, place, {})) return
        for (const timeZone of possibleZones(place.country, place.region)) {
          const there = DateTime.fromMillis(moment, { zone: timeZone })
          expect(there.hour).toBeGreaterThanOrEqual(8)
          expect(there.hour).toBeLessThan(place.country === 'CA' ? 22 : 21)
        }
      }),
      { numRuns: 300 },
    )
  })
})

describe('holidays', () => {
  const holidays = holidayTables()
  it('of a region are its own, not its country’s as well: Scotland works on Easter Monday', () => {
    // The package date-holidays; Easter Monday 2026 is 6 April, St Andrew’s Day 30 November.
    expect(holidayOn('2026-04-06', { country: 'GB', region: 'SCT' }, holidays)).toBeNull()
    expect(holidayOn('2026-04-06', { country: 'GB', region: 'ENG' }, holidays)).toBe('Easter Monday')
  })
  it('are found by the region’s name', () => {
    expect(holidayOn('2026-01-06', { country: 'DE', region: 'Bavaria' }, holidays)).toBe(
      holidayOn('2026-01-06', { country: 'DE', region: 'BY' }, holidays),
    )
    expect(holidayOn('2026-01-06', { country: 'DE', region: 'Bayern' }, holidays)).not.toBeNull()
  })
  it('without a region are those of the country, and those of nearly all of its regions', () => {
    // 5 USC 6103: Thanksgiving is the fourth Thursday of November.
    expect(holidayOn('2026-11-26', { country: 'US', region: null }, holidays)).toBe('Thanksgiving Day')
    expect(holidayOn('2026-12-26', { country: 'AU', region: null }, holidays)).not.toBeNull()
  })
  it('hold in every year, however long the process lives', () => {
    expect(
      ['2019-12-25', '2026-12-25', '2041-12-25'].map((day) =>
        holidayOn(day, { country: 'US', region: 'NY' }, holidays),
      ),
    ).toEqual(['Christmas Day', 'Christmas Day', 'Christmas Day'])
  })
  it('that begin in the evening do not close the day', () => {
    for (const country of ['US', 'DE', 'CA', 'SE']) {
      const evening = new Calendar(country)
        .getHolidays(2026, 'en')
        .filter((day) => day.type === 'public' && !/ 00:00:00/.test(day.date))
      for (const day of evening) {
        expect(holidayOn(day.date.slice(0, 10), { country, region: null }, holidays)).toBeNull()
      }
    }
  })
})

describe('clock changes', () => {
  it('leave the wall clock of business days as it was', () => {
    // IANA tz: clocks went forward on Sunday 8 March 2026 at 2:00 in New York.
    const timeZone = 'America/New_York'
    expect(
      iso(
        addBusinessDays(at('2026-03-06T02:30', timeZone), 1, { timeZone, country: null, region: null }, {}),
        timeZone,
      ),
    ).toBe('2026-03-09 02:30')
  })
  it('that leave a day without midnight do not move the next day', () => {
    // IANA tz: Cairo springs forward at midnight on Friday 24 April 2026.
    const timeZone = 'Africa/Cairo'
    const place = { timeZone, country: null, region: null }
    expect(iso(nextOpen(at('2026-04-24T12:00', timeZone), { days: [6], from: 0, to: 1440 }, place, {}), timeZone)).toBe(
      '2026-04-25 00:00',
    )
  })
})

describe('a region as it is stored', () => {
  it.each([
    ['Vermont', 'US', 'VT'],
    ['us-vt', 'US', 'VT'],
    ['vt', 'US', 'VT'],
    ['Ontario', 'CA', 'ON'],
    ['New South Wales', 'au', 'NSW'],
    [' Bayern ', 'DE', 'Bayern'],
    ['Nowhere', 'US', 'Nowhere'],
    ['', 'US', ''],
  ])('of %j in %s is %j', (written, country, stored) => {
    expect(tidyRegion(written, country)).toBe(stored)
  })
})
