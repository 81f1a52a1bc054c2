import type { TimeZoneSource } from '../enumerations'
import { isZone } from './isZone'
import { parsePhone } from '../text/phone'
import { AREA_CODES, AREA_CODE_ZONES } from './areaCodes'
import { possibleZones, readCountry, readRegion } from './lookUp'

/** Where someone is, and what says so. */
export interface Placed {
  timeZone: string
  timeZoneFrom: TimeZoneSource
  country: string | null
}

/** What is known of someone's whereabouts: as written; numbers in E.164. */
export interface Whereabouts {
  timeZone?: string | null
  country?: string | null
  region?: string | null
  numbers?: readonly string[]
}

interface Area {
  country: 'US' | 'CA'
  region: string
  timeZone: string
}

const AREAS: ReadonlyMap<string, Area> = new Map(
  (['US', 'CA'] as const).flatMap((country) =>
    Object.entries(AREA_CODES[country]).flatMap(([region, codes]) =>
      codes
        .split(' ')
        .map((code): [string, Area] => [
          code,
          { country, region, timeZone: AREA_CODE_ZONES[code] ?? readRegion(region, country)!.zones[0]! },
        ]),
    ),
  ),
)

/** The state or province of a North American number by its area code, or null. */
export function areaOf(number: string): Area | null {
  const code = /^\+1(\d{3})\d{7}$/.exec(number)?.[1]
  return code ? (AREAS.get(code) ?? null) : null
}

/**
 * Where someone lives by what is known: a zone that is given, else region and country, else the area of a number, else
 * the country's, or the team's, main zone as a guess. Without a country it is that of the number, else the team's.
 */
export function placePerson(known: Whereabouts, home: { country: string; timeZone: string }): Placed {
  const stated = known.country ? readCountry(known.country) : null
  const area = (known.numbers ?? []).map(areaOf).find(Boolean) ?? null
  const ofNumber = () =>
    area?.country ?? (known.numbers ?? []).map((number) => parsePhone(number, null)?.country).find(Boolean) ?? null
  const byNumber = known.country || readRegion(known.region, home.country) ? null : ofNumber()
  const country = stated ?? (known.country ? null : (byNumber ?? home.country))
  if (known.timeZone && isZone(known.timeZone)) {
    return { timeZone: known.timeZone, timeZoneFrom: 'given', country: country ?? known.country ?? null }
  }
  const zones = possibleZones(country, known.region ?? null)
  if (!country || !zones.length) {
    return { timeZone: home.timeZone, timeZoneFrom: 'guess', country: country ?? known.country?.toUpperCase() ?? null }
  }
  if (readRegion(known.region, country)?.zones.length || zones.length === 1) {
    // A split state: the number's own area says which part, where it is of that state.
    const own = area && area.country === country && zones.includes(area.timeZone) ? area.timeZone : zones[0]!
    return {
      timeZone: own,
      timeZoneFrom: stated || readRegion(known.region, country) || byNumber ? 'address' : 'guess',
      country,
    }
  }
  if (area?.country === country) return { timeZone: area.timeZone, timeZoneFrom: 'number', country }
  return {
    timeZone: country === home.country && zones.includes(home.timeZone) ? home.timeZone : zones[0]!,
    timeZoneFrom: 'guess',
    country,
  }
}
