import { useTimes } from './times'

/** The full hours of a day as choices, in minutes since midnight: "8:00 AM". The last one is the end of the day. */
export function useDayHours() {
  const times = useTimes()
  return Array.from({ length: 25 }, (_, hour) => ({
    value: hour * 60,
    title: hour === 24 ? 'midnight' : times.clock(hour * 3_600_000, 'UTC'),
  }))
}

/** The days of the week in the order of their ISO numbers, from 1 for Monday. */
export const WEEKDAYS = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun']
