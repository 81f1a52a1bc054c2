import Calendar from 'date-holidays'
import type { Holidays } from '#core/calendar/local'

type Days = Readonly<Record<string, string>>

/** In how large a share of its regions a day has to be a holiday to be one for people of whom no region is known. */
const NEARLY_EVERYWHERE = 0.75

/**
 * The public holidays of one year; bank holidays too where work rests on them. Those that begin in the course of the
 * day do not close it.
 */
function publicHolidays(calendar: Calendar, year: number, bankToo: boolean): Days {
  const days: Record<string, string> = {}
  for (const holiday of calendar.getHolidays(year, 'en')) {
    const wholeDay = /^\d{4}-\d\d-\d\d 00:00:00/.test(holiday.date)
    if (wholeDay && (holiday.type === 'public' || (bankToo && holiday.type === 'bank'))) {
      days[holiday.date.slice(0, 10)] ??= holiday.name
    }
  }
  return days
}

/** A country's own holidays, and those that nearly all of its regions have. */
function countryHolidays(
  country: string,
  regions: readonly string[],
  year: number,
  ofRegion: (region: string, year: number) => Days,
): Days {
  const days: Record<string, string> = { ...publicHolidays(new Calendar(country), year, country === 'GB') }
  const counts = new Map<string, { name: string; count: number }>()
  for (const region of regions) {
    for (const [day, name] of Object.entries(ofRegion(region, year))) {
      counts.set(day, { name, count: (counts.get(day)?.count ?? 0) + 1 })
    }
  }
  for (const [day, { name, count }] of counts) if (count >= regions.length * NEARLY_EVERYWHERE) days[day] ??= name
  return days
}

/** A table of days that works out each year when it is first asked for, however long a process lives. */
function byYear(workOut: (year: number) => Days): Days {
  const years = new Map<string, Days>()
  return new Proxy({} as Record<string, string>, {
    get(_, day) {
      if (typeof day !== 'string' || !/^\d{4}-\d\d-\d\d$/.test(day)) return undefined
      const year = day.slice(0, 4)
      let days = years.get(year)
      if (!days) years.set(year, (days = workOut(Number(year))))
      return days[day]
    },
  })
}

function makeTables(): Holidays {
  const tables: Record<string, Days> = {}
  const offer = (key: string, table: () => Days) => {
    let made: Days | null = null
    Object.defineProperty(tables, key, { enumerable: true, get: () => (made ??= table()) })
  }
  for (const country of Object.keys(new Calendar().getCountries('en'))) {
    const regions = Object.keys(new Calendar().getStates(country) ?? {})
    const ofRegion = (region: string, year: number) =>
      publicHolidays(new Calendar(country, region), year, country === 'GB')
    offer(country, () => byYear((year) => countryHolidays(country, regions, year, ofRegion)))
    for (const region of regions) offer(`${country}-${region}`, () => byYear((year) => ofRegion(region, year)))
  }
  return tables
}

let tables: Holidays | null = null

/**
 * Public holidays of every country, and of its regions (each whole): ISO day -> name, for any year (the npm package
 * date-holidays). Worked out when first asked for.
 */
export function holidayTables(): Holidays {
  return (tables ??= makeTables())
}
