import type { TimeZoneSource } from '../enumerations'
import { nameKey } from '../text/names'
import { COUNTRY_TABLE } from './countries'
import { REGIONS, type Region } from './regions'

/** A country: its code (ISO 3166-1 alpha-2), three-letter code, name, and time zones, that of most people first. */
export interface Country {
  code: string
  code3: string
  name: string
  zones: readonly string[]
}

/** Every country, by code. */
export const COUNTRIES: ReadonlyMap<string, Country> = new Map(
  COUNTRY_TABLE.trim()
    .split('\n')
    .map((line) => {
      const [code, code3, name, zones] = line.split('|') as [string, string, string, string]
      return [code, { code, code3, name, zones: zones ? zones.split(' ') : [] }]
    }),
)

/** Names that people write besides the table's. */
const OTHER_NAMES: Readonly<Record<string, string>> = {
  usa: 'US',
  'u s a': 'US',
  'u s': 'US',
  'united states of america': 'US',
  america: 'US',
  'estados unidos': 'US',
  uk: 'GB',
  'u k': 'GB',
  'great britain': 'GB',
  britain: 'GB',
  england: 'GB',
  scotland: 'GB',
  wales: 'GB',
  'northern ireland': 'GB',
  deutschland: 'DE',
  allemagne: 'DE',
  osterreich: 'AT',
  oesterreich: 'AT',
  schweiz: 'CH',
  suisse: 'CH',
  svizzera: 'CH',
  espana: 'ES',
  italia: 'IT',
  brasil: 'BR',
  holland: 'NL',
  nederland: 'NL',
  'the netherlands': 'NL',
  belgie: 'BE',
  belgique: 'BE',
  danmark: 'DK',
  sverige: 'SE',
  norge: 'NO',
  suomi: 'FI',
  polska: 'PL',
  'czech republic': 'CZ',
  cesko: 'CZ',
  turkey: 'TR',
  russia: 'RU',
  'south korea': 'KR',
  korea: 'KR',
  'republic of korea': 'KR',
  'north korea': 'KP',
  uae: 'AE',
  emirates: 'AE',
  'hong kong': 'HK',
  macau: 'MO',
  taiwan: 'TW',
  vietnam: 'VN',
  'ivory coast': 'CI',
  'cape verde': 'CV',
  burma: 'MM',
  swaziland: 'SZ',
  macedonia: 'MK',
  'republic of ireland': 'IE',
  eire: 'IE',
  prc: 'CN',
}

const byName = new Map<string, string>([
  ...[...COUNTRIES.values()].flatMap(
    (country) =>
      [
        [nameKey(country.name), country.code],
        [country.code3.toLowerCase(), country.code],
      ] as [string, string][],
  ),
  ...Object.entries(OTHER_NAMES),
])

/** The country that a code of two or three letters or a name stands for; null for none. */
export function readCountry(text: string): string | null {
  const code = text.trim().toUpperCase()
  if (COUNTRIES.has(code)) return code
  return byName.get(nameKey(text)) ?? null
}

const regionsByKey = new Map(
  Object.entries(REGIONS).map(([country, regions]) => [
    country,
    new Map(
      regions.flatMap(
        (region) =>
          [[region.code.toLowerCase(), region], ...region.names.map((name) => [nameKey(name), region])] as [
            string,
            Region,
          ][],
      ),
    ),
  ]),
)

/**
 * The region of a country that a code ("WI", "US-WI") or a name ("Wisconsin") stands for; null where it is not known.
 */
export function readRegion(text: string | null | undefined, country: string): Region | null {
  if (!text) return null
  const regions = regionsByKey.get(country)
  return (
    regions?.get(nameKey(text)) ??
    regions?.get(text.trim().toLowerCase().replace(`${country.toLowerCase()}-`, '')) ??
    null
  )
}

/** Countries in whose addresses a region is written by its code. */
const CODED_REGIONS = new Set(['US', 'CA', 'AU'])

/**
 * A region as it is stored: "Vermont" and "US-VT" become "VT" in the United States, Canada and Australia; others stay
 * as written.
 */
export function tidyRegion(text: string, country: string): string {
  const written = text.trim()
  return CODED_REGIONS.has(country.toUpperCase())
    ? (readRegion(written, country.toUpperCase())?.code ?? written)
    : written
}

/** How a written name is compared with the names of places: the whole, a piece of it, or its beginning. */
export type NameTest = 'is' | 'contains' | 'startsWith'

const NAME_TESTS: Record<NameTest, (name: string, asked: string) => boolean> = {
  is: (name, asked) => name === asked,
  contains: (name, asked) => name.includes(asked),
  startsWith: (name, asked) => name.startsWith(asked),
}

/**
 * The codes, in small letters, under which countries or regions of a certain name are stored: "Canada" and "CAN" give
 * "ca", "Vermont" gives "vt". Empty where no name fits. Regions are found in the countries that write them by code.
 */
export function codesNamed(what: 'country' | 'region', test: NameTest, text: string): string[] {
  const asked = nameKey(text)
  if (!asked) return []
  const fits = (name: string) => NAME_TESTS[test](name, asked)
  const codes =
    what === 'country'
      ? [...byName].filter(([name]) => fits(name)).map(([, code]) => code)
      : [...CODED_REGIONS]
          .flatMap((country) => REGIONS[country] ?? [])
          .filter((region) => region.names.some((name) => fits(nameKey(name))))
          .map((region) => region.code)
  return [...new Set(codes.map((code) => code.toLowerCase()))]
}

/**
 * Every time zone someone may live by who is known to be in the country, or in a region of it. Empty for a country
 * that is not known.
 */
export function possibleZones(country: string | null, region: string | null): readonly string[] {
  const known = country ? COUNTRIES.get(country.toUpperCase()) : undefined
  if (!known) return []
  const part = readRegion(region, known.code)
  return part?.zones.length ? part.zones : known.zones
}

/**
 * The zones in whose hours someone may be called: their own where something says it, else every one that is possible.
 */
export function callingZones(place: {
  timeZone: string
  country: string | null
  region: string | null
  timeZoneFrom?: TimeZoneSource
}): readonly string[] {
  if (place.timeZoneFrom === undefined || place.timeZoneFrom === 'given' || place.timeZoneFrom === 'number') {
    return [place.timeZone]
  }
  const zones = possibleZones(place.country, place.region)
  return zones.includes(place.timeZone) ? zones : [place.timeZone]
}
