const clock = new Intl.DateTimeFormat('en-US', { hour: 'numeric', minute: '2-digit', timeZone: 'UTC' })

/** The full hours of a day as choices, in minutes since midnight: "8:00 AM". The last one is the end of the day. */
export const DAY_HOURS = Array.from({ length: 25 }, (_, hour) => ({
  value: hour * 60,
  title: hour === 24 ? 'midnight' : clock.format(hour * 3_600_000),
}))

/** The days of the week in the order of their ISO numbers, from 1 for Monday. */
export const WEEKDAYS = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun']
