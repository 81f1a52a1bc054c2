import type { WaitUnit } from '../enumerations'
import { HOUR, type Instant } from '../instant'
import { addBusinessDays, local, type Holidays, type Place } from '../calendar/local'

/** How long a step waits after the one before it (the first: after the enrollment). */
export interface Wait {
  amount: number
  unit: WaitUnit
}

/**
 * The instant a wait ends for someone at `place`. Hours are elapsed hours; days and business days keep the
 * wall-clock time there, across clock changes. Throws RangeError for an amount that is negative or not whole.
 */
export function afterWait(from: Instant, wait: Wait, place: Place, holidays: Holidays): Instant {
  if (!Number.isInteger(wait.amount) || wait.amount < 0) throw new RangeError('A wait is a whole number from 0 on')
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
  switch (wait.unit) {
    case 'hours':
      return from + wait.amount * HOUR
    case 'days':
      return local(from, place.timeZone).plus({ days: wait.amount }).toMillis()
    case 'business_days':
      return addBusinessDays(from, wait.amount, place, holidays)
  }
}

/** A wait in words: "at once", "2 hours later", "1 business day later". */
export function waitInWords(wait: Wait): string {
  if (wait.amount === 0) return 'at once'
  const unit = { hours: 'hour', days: 'day', business_days: 'business day' }[wait.unit]
  return `${wait.amount} ${unit}${wait.amount === 1 ? '' : 's'} later`
}
