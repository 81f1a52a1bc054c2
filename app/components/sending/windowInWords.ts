import { WINDOW_CLOCKS, WINDOW_HOLIDAYS } from '#core/enumerations'
import type { SendingWindow } from '#shared/api/email/sending'
import { WEEKDAYS } from '~/composables/dayHours'

/** Days in a row as a stretch: "Mon–Fri", "Mon, Wed–Thu". */
function daysInWords(days: readonly number[]): string {
  const stretches: [number, number][] = []
  for (const day of [...days].sort()) {
    const last = stretches.at(-1)
    if (last && last[1] === day - 1) last[1] = day
    else stretches.push([day, day])
  }
  const name = (day: number) => WEEKDAYS[day - 1]!
  return stretches.map(([from, to]) => (from === to ? name(from) : `${name(from)}–${name(to)}`)).join(', ')
}

/** A window as a line: "Mon–Fri, 8:00 AM to 5:00 PM by the prospect’s clock, closed on the prospect’s holidays". */
export function windowInWords(
  { days, from, to, clock, holidays }: Pick<SendingWindow, 'days' | 'from' | 'to' | 'clock' | 'holidays'>,
  times: { clock(at: number, timeZone: string): string },
): string {
  const at = (minutes: number) => (minutes === 1440 ? 'midnight' : times.clock(minutes * 60_000, 'UTC'))
  const closed = holidays === 'none' ? 'also on holidays' : `closed on ${WINDOW_HOLIDAYS[holidays]} holidays`
  return `${daysInWords(days)}, ${at(from)} to ${at(to)} by ${WINDOW_CLOCKS[clock]} clock, ${closed}`
}
