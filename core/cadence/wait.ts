import { WAIT_UNITS, type DateStyle, type WaitUnit } from '../enumerations'
import { HOUR, MINUTE, type Instant } from '../instant'
import { showDate } from '../calendar/dateStyle'
import { addBusinessDays, isBusinessDay, local, localDay, type Holidays, type Place } from '../calendar/local'

/** How long a step waits after the one before it (the first: after the enrollment). */
export interface Wait {
  amount: number
  unit: WaitUnit
  /** The time of day it ends at, in minutes since midnight by the wall clock there; only where it is in days. */
  at?: number | null | undefined
}

/** Whether a wait in this unit can end at a time of day. */
export const endsAtTime = (unit: WaitUnit): boolean => unit !== 'minutes' && unit !== 'hours'

/**
 * The instant a wait ends for someone at `place`. Minutes and hours are elapsed time; days, weeks and business days
 * keep the wall-clock time there, across clock changes, or end at the time of day that is named: of the next day where
 * that time is over. Throws RangeError for an amount that is negative or not whole.
 */
export function afterWait(from: Instant, wait: Wait, place: Place, holidays: Holidays): Instant {
  if (!Number.isInteger(wait.amount) || wait.amount < 0) throw new RangeError('A wait is a whole number from 0 on')
  if (wait.unit === 'minutes') return from + wait.amount * MINUTE
  if (wait.unit === 'hours') return from + wait.amount * HOUR
  let worked = known.get(holidays)
  if (!worked || worked.size >= KNOWN) known.set(holidays, (worked = new Map()))
  const key = `${from}/${wait.amount}/${wait.unit}/${wait.at ?? ''}/${place.timeZone}/${place.country}/${place.region}`
  const found = worked.get(key) ?? workOut(from, wait, place, holidays)
  worked.set(key, found)
  return found
}

/** Ends of waits worked out before: sets of people of one place begin to wait at one moment. */
const known = new WeakMap<Holidays, Map<string, Instant>>()
const KNOWN = 5_000

function workOut(from: Instant, wait: Wait, place: Place, holidays: Holidays): Instant {
  const { at } = wait
  if (at == null) return plainEnd(from, wait, place, holidays)
  const atTime = (end: Instant) =>
    local(end, place.timeZone)
      .set({ hour: Math.floor(at / 60), minute: at % 60, second: 0, millisecond: 0 })
      .toMillis()
  const end = atTime(plainEnd(from, wait, place, holidays))
  const weekend = wait.unit === 'business_days' && !isBusinessDay(localDay(end, place.timeZone), place, holidays)
  if (end >= from && !weekend) return end
  return atTime(
    plainEnd(from, { amount: 1, unit: wait.unit === 'business_days' ? wait.unit : 'days' }, place, holidays),
  )
}

function plainEnd(from: Instant, wait: Wait, place: Place, holidays: Holidays): Instant {
  if (wait.unit === 'business_days') return addBusinessDays(from, wait.amount, place, holidays)
  const days = wait.unit === 'weeks' ? wait.amount * 7 : wait.amount
  return local(from, place.timeZone).plus({ days }).toMillis()
}

/** How long a wait is in words: "2 hours", "1 business day". */
export function lengthInWords({ amount, unit }: Wait): string {
  const label: string = WAIT_UNITS[unit]
  return `${amount} ${amount === 1 ? label.slice(0, -1) : label}`
}

/** A wait in words: "at once", "2 hours later", "1 business day later", "the next business day at 9:00 AM". */
export function waitInWords(wait: Wait, style: DateStyle = 'us'): string {
  if (wait.at == null) return wait.amount === 0 ? 'at once' : `${lengthInWords(wait)} later`
  const time = showDate(local(wait.at * MINUTE, 'UTC'), style, 'clock')
  if (wait.amount === 0) return wait.unit === 'business_days' ? `on a business day at ${time}` : `at ${time}`
  if (wait.amount > 1 || wait.unit === 'weeks') return `${lengthInWords(wait)} later at ${time}`
  return `the next ${wait.unit === 'business_days' ? 'business day' : 'day'} at ${time}`
}
