import { DAY, type Id, type Instant } from '../instant'

/** A list's promise to one person: to be in touch every so many days, counted from the last touch of the kinds that count, else from when they were added. */
export interface TouchPromise {
  listId: Id
  everyDays: number
  /** The last touch that counts; null for none yet. */
  lastAt: Instant | null
  addedAt: Instant
}

/** How a promise stands: past it, due soon (in the last fifth of its days, at least one day), or within it. */
export type Standing = 'past' | 'soon' | 'within'

/** When the promise falls due. */
export function dueAtOf(promise: TouchPromise): Instant {
  return (promise.lastAt ?? promise.addedAt) + promise.everyDays * DAY
}

/** How many days before it falls due a promise is soon due. */
export function soonDays(everyDays: number): number {
  return Math.max(1, Math.ceil(everyDays / 5))
}

/** How the promise stands now. */
export function standingOf(promise: TouchPromise, now: Instant): Standing {
  const left = dueAtOf(promise) - now
  return left < 0 ? 'past' : left <= soonDays(promise.everyDays) * DAY ? 'soon' : 'within'
}

/** Of several lists' promises to one person the stricter holds: the one that falls due first. Null where there is none. */
export function strictest(promises: readonly TouchPromise[]): TouchPromise | null {
  return promises.reduce<TouchPromise | null>((strict, one) => !strict || dueAtOf(one) < dueAtOf(strict) ? one : strict, null)
}
