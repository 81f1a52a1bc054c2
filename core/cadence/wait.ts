import { WAIT_UNITS, type WaitUnit } from '../enumerations'
import { HOUR, MINUTE, type Instant } from '../instant'
import { addBusinessDays, local, type Holidays, type Place } from '../calendar/local'

/** How long a step waits after the one before it (the first: after the enrollment). */
export interface Wait {
  amount: number
  unit: WaitUnit
}

/**
 * The instant a wait ends for someone at `place`. Minutes and hours are elapsed time; days, weeks and business days
 * keep the wall-clock time there, across clock changes. Throws RangeError for an amount that is negative or not whole.
 */
export function afterWait(from: Instant, wait: Wait, place: Place, holidays: Holidays): Instant {
  if (!Number.isInteger(wait.amount) || wait.amount < 0) throw new RangeError('A wait is a whole number from 0 on')
  if (wait.unit === 'minutes') return from + wait.amount * MINUTE
  if (wait.unit === 'hours') return from + wait.amount * HOUR
  let worked = known.get(holidays)
  if (!worked || worked.size >= KNOWN) known.set(holidays, (worked = new Map()))
  const key = `${from}/${wait.amount}/${wait.unit}/${place.timeZone}/${place.country}/${place.region}`
  const found = worked.get(key) ?? workOut(from, wait, place, holidays)
  worked.set(key, found)
  return found
}

/** Ends of waits worked out before: sets of people of one place begin to wait at one moment. */
const known = new WeakMap<Holidays, Map<string, Instant>>()
const KNOWN = 5_000

function workOut(from: Instant, wait: Wait, place: Place, holidays: Holidays): Instant {
  if (wait.unit === 'business_days') return addBusinessDays(from, wait.amount, place, holidays)
  const days = wait.unit === 'weeks' ? wait.amount * 7 : wait.amount
  return local(from, place.timeZone).plus({ days }).toMillis()
}

/** How long a wait is in words: "2 hours", "1 business day". */
export function lengthInWords({ amount, unit }: Wait): string {
  const label: string = WAIT_UNITS[unit]
  return `${amount} ${amount === 1 ? label.slice(0, -1) : label}`
}

/** A wait in words: "at once", "2 hours later", "1 business day later". */
export function waitInWords(wait: Wait): string {
  return wait.amount === 0 ? 'at once' : `${lengthInWords(wait)} later`
}
