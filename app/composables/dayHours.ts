import { useTimes } from './times'

/** Every half hour of a day as a choice, in minutes since midnight: "8:30 AM". The last one is the end of the day. */
export function useDayHours() {
  const times = useTimes()
  return Array.from({ length: 49 }, (_, half) => ({
    value: half * 30,
    title: half === 48 ? 'midnight' : times.clock(half * 1_800_000, 'UTC'),
  }))
}

/** The days of the week in the order of their ISO numbers, from 1 for Monday. */
export const WEEKDAYS = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun']
