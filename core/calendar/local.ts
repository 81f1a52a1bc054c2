import { DateTime, IANAZone } from 'luxon'
import type { TimeZoneSource } from '../enumerations'
import { MINUTE, type Instant } from '../instant'
import { readRegion } from '../places/lookUp'
import { isZone } from '../places/isZone'

/**
 * Holidays by country ("US") or country and region ("US-WI"): ISO day -> name. Passed in from outside. A region's table
 * is whole; the country's is for those of whom no region is known.
 */
export type Holidays = Readonly<Record<string, Readonly<Record<string, string>>>>

/** Where someone is, as far as the calendar needs it. */
export interface Place {
  /** IANA time zone name. */
  timeZone: string
  /** ISO 3166-1 alpha-2, or null where unknown. */
  country: string | null
  /** The region as written: ISO 3166-2 subdivision without the country ("WI"), or its name; or null. */
  region: string | null
  /** What says that this is the zone; absent where it is certain. */
  timeZoneFrom?: TimeZoneSource
}

/**
 * Before this some zones kept odd minutes; since then offsets change only where a quarter of an hour begins (IANA tz
 * database).
 */
const IN_QUARTERS_SINCE = Date.UTC(1973, 0)

const QUARTER = 15 * MINUTE

const REMEMBERED = 10_000

/**
 * A zone that works out its offset once for each quarter of an hour: the calendar asks about the same few moments again
 * and again.
 */
class RememberingZone extends IANAZone {
  private readonly offsets = new Map<number, number>()

  override offset(at: number): number {
    if (!(at >= IN_QUARTERS_SINCE)) return super.offset(at)
    const quarter = Math.floor(at / QUARTER)
    const known = this.offsets.get(quarter)
    if (known !== undefined) return known
    const offset = super.offset(at)
    if (this.offsets.size >= REMEMBERED) this.offsets.clear()
    this.offsets.set(quarter, offset)
    return offset
  }
}

const zones = new Map<string, RememberingZone>()

function zoneNamed(name: string): RememberingZone {
  const known = zones.get(name)
  if (known) return known
  if (!isZone(name)) throw new RangeError(`Unknown time zone "${name}"`)
  const timeZone = new RememberingZone(name)
  zones.set(name, timeZone)
  return timeZone
}

/** The instant as a wall clock in `zone`. Throws RangeError for a zone nobody knows. */
export function local(at: Instant, timeZone: string): DateTime {
  return DateTime.fromMillis(at, { zone: zoneNamed(timeZone) })
}

/** ISO day ("2026-11-23") of the instant in `zone`. */
export function localDay(at: Instant, timeZone: string): string {
  return local(at, timeZone).toISODate()!
}

/** Minutes since local midnight by the wall clock, 0..1439. */
export function minuteOfDay(at: Instant, timeZone: string): number {
  const time = local(at, timeZone)
  return time.hour * 60 + time.minute
}

/** The name of the holiday on `day` at `place`, or null. */
export function holidayOn(day: string, place: Pick<Place, 'country' | 'region'>, holidays: Holidays): string | null {
  if (!place.country) return null
  const code = place.region ? (readRegion(place.region, place.country)?.code ?? place.region) : null
  const table = (code && holidays[`${place.country}-${code}`]) || holidays[place.country]
  return table?.[day] ?? null
}

/** Monday to Friday and no holiday at `place`. `day` is an ISO day. */
export function isBusinessDay(day: string, place: Pick<Place, 'country' | 'region'>, holidays: Holidays): boolean {
  return DateTime.fromISO(day).weekday <= 5 && holidayOn(day, place, holidays) === null
}

/**
 * The same wall-clock time `count` business days later at `place`. Zero gives the instant itself.
 * A start on a weekend or holiday counts from there: one business day later is the next business day.
 */
export function addBusinessDays(at: Instant, count: number, place: Place, holidays: Holidays): Instant {
  const start = local(at, place.timeZone)
  // Counted on the calendar, so that a clock change on the way leaves the wall clock as it was.
  let days = 0
  for (let left = count; left > 0;) {
    days++
    if (isBusinessDay(start.plus({ days }).toISODate()!, place, holidays)) left--
  }
  return start.plus({ days }).toMillis()
}

/** Midnight that begins the instant's day in `zone`. */
export function startOfDay(at: Instant, timeZone: string): Instant {
  return local(at, timeZone).startOf('day').toMillis()
}
