import Calendar from 'date-holidays'
import type { Holidays } from '#core/calendar/local'

const COUNTRIES = ['US', 'CA', 'GB', 'IE', 'DE', 'AT', 'CH', 'FR', 'NL', 'AU', 'NZ']
/** The package's subdivision codes where they differ from ISO 3166-2 practice on the job. */
const REGIONS = new Set(['CA', 'GB', 'DE', 'AU', 'CH', 'AT'])

const made = new Map<number, Holidays>()

/**
 * Public holidays of the year before, the year and the two after it, for the countries a team usually works in. Each
 * country's and region's table is worked out when it is first looked at.
 */
export function holidayTables(year: number): Holidays {
  const known = made.get(year)
  if (known) return known
  const tables: Record<string, Record<string, string>> = {}
  const offer = (key: string, calendar: () => Calendar) => {
    let days: Record<string, string> | null = null
    Object.defineProperty(tables, key, { enumerable: true, get: () => days ??= publicHolidays(calendar(), year, key.startsWith('GB')) })
  }
  for (const country of COUNTRIES) {
    offer(country, () => new Calendar(country))
    if (!REGIONS.has(country)) continue
    for (const region of Object.keys(new Calendar().getStates(country) ?? {})) offer(`${country}-${region}`, () => new Calendar(country, region))
  }
  made.set(year, tables)
  return tables
}

function publicHolidays(calendar: Calendar, year: number, bankToo: boolean): Record<string, string> {
  const days: Record<string, string> = {}
  for (let y = year - 1; y <= year + 2; y++) {
    for (const holiday of calendar.getHolidays(y, 'en')) {
      if (holiday.type === 'public' || (bankToo && holiday.type === 'bank')) days[holiday.date.slice(0, 10)] ??= holiday.name
    }
  }
  return days
}
