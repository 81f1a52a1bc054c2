import { callingHours, isCallable } from '../calendar/callingHours'
import { local, type Holidays, type Place } from '../calendar/local'
import type { Hours } from '../calendar/window'
import type { Instant } from '../instant'
import { HOURS_OF_WEEK, type WeekHour } from '../stats/bestTime'

/** The hour of the week that an instant lies in, by the clock of `timeZone`. */
export function weekHourAt(at: Instant, timeZone: string): WeekHour {
  const { weekday, hour } = local(at, timeZone)
  return { weekday, hour }
}

/** The hours of the week in which people in a country may be called, whole or in part; holidays aside. */
export function callableHours(team: Hours, country: string | null): WeekHour[] {
  const hours = callingHours(team, country)
  return HOURS_OF_WEEK.filter(({ weekday, hour }) => {
    const { from, to } = hours.on?.[weekday] ?? hours
    return hours.days.includes(weekday) && hour * 60 < to && (hour + 1) * 60 > from
  })
}

/** For how many days a next time is looked for: a holiday may take the one in the coming week. */
const LOOKED_AT = 15

/**
 * The next instant after `now` at which an hour of the week begins for someone at `place` and they may be called; null
 * where there is none within two weeks.
 */
export function nextTimeIn(
  { weekday, hour }: WeekHour,
  now: Instant,
  place: Place,
  hours: Hours,
  holidays: Holidays,
): Instant | null {
  const today = local(now, place.timeZone).startOf('day')
  for (let day = 0; day < LOOKED_AT; day++) {
    const at = today.plus({ days: day }).set({ hour })
    if (at.weekday === weekday && at.toMillis() > now && isCallable(at.toMillis(), hours, place, holidays)) {
      return at.toMillis()
    }
  }
  return null
}
