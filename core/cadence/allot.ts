import type { EmailWait } from '../enumerations'
import { SECOND, type Id, type Instant } from '../instant'
import { chanceOf } from '../chance'
import { local, localDay, startOfDay, type Holidays, type Place } from '../calendar/local'
import { placeOfWindow, type SenderPlace, type SendingWindow } from '../calendar/sendingWindow'
import { nextOpen } from '../calendar/window'

/** A slow start: emails on the first day of sending, and how many more on each day after it. */
export interface Ramp {
  first: number
  more: number
}

/** What a sender may do, and has done: the cap counts days by the sender's wall clock. */
export interface Sender extends SenderPlace {
  /** Emails a day, once the slow start is over. */
  cap: number
  ramp: Ramp | null
  /** On how many days before the one below something was sent, since the slow start began. */
  daysSent: number
  /** The least seconds between two emails. */
  spacing: number
  /** By how much a pause may be longer than that at most, as a share of it. */
  jitter: number
  /** Emails a day to one receiving domain; null for as many as the cap allows. */
  domainCap: number | null
  /** ISO day the counts below belong to, or null. */
  day: string | null
  given: number
  /** What was given that day, by receiving domain. */
  domains: Readonly<Record<string, number>>
  lastSlotAt: Instant | null
}

/** An email that wants its moment, with the hours in which its recipient may be written to. */
export interface WantsSlot {
  id: Id
  window: SendingWindow
  /** The window that counts from tomorrow on; its own where there is none. */
  later?: SendingWindow
  place: Place
  /** The domain that receives it, in lower case. */
  domain: string
}

/** When an email asks again, and what it waits for. */
export interface SlotWait {
  at: Instant
  why: EmailWait
}

/** How many emails a sender may send on a day: the cap, or less in a slow start. */
export function capOf({ cap, ramp, daysSent }: Pick<Sender, 'cap' | 'ramp' | 'daysSent'>): number {
  return ramp ? Math.min(cap, ramp.first + ramp.more * daysSent) : cap
}

/** The sender as of `now`: on a new day nothing has been given yet. */
export function onDay(sender: Sender, now: Instant): Sender {
  const today = localDay(now, sender.timeZone)
  if (sender.day === today) return sender
  return { ...sender, day: today, given: 0, domains: {}, daysSent: sender.daysSent + (sender.given > 0 ? 1 : 0) }
}

/**
 * Gives each email its moment, in order: now or after the sender's spacing, today, inside its window, within the cap of
 * the day and that of its receiving domain. The pause before an email is the spacing and up to `jitter` of it more, by
 * the email's id. An email that cannot go today takes no slot and holds nobody up: it is only given the time to ask
 * again (`waits`). Returns the moments by id and the sender as used up by them.
 */
export function allotSlots(
  wanted: readonly WantsSlot[],
  sender: Sender,
  now: Instant,
  holidays: Holidays,
): { slots: Record<Id, Instant>; waits: Record<Id, SlotWait>; sender: Sender } {
  const slots: Record<Id, Instant> = {}
  const waits: Record<Id, SlotWait> = {}
  const tomorrow = local(startOfDay(now, sender.timeZone), sender.timeZone).plus({ days: 1 }).startOf('day').toMillis()
  const state = { ...onDay(sender, now) }
  const cap = capOf(state)
  const domains: Record<string, number> = { ...state.domains }
  for (const { id, window, later = window, place, domain } of wanted) {
    const opensFrom = (from: Instant, which: SendingWindow): Instant =>
      nextOpen(from, which.hours, placeOfWindow(which, place, sender), holidays)
    const pause = state.spacing * SECOND * (1 + state.jitter * (state.jitter ? chanceOf(id) : 0))
    const at = Math.max(now, state.lastSlotAt === null ? now : Math.ceil(state.lastSlotAt + pause))
    const opens = opensFrom(now, window)
    const waitFor = (why: EmailWait) => {
      waits[id] = { at: opensFrom(Math.max(tomorrow, at), later), why }
    }
    if (opens > now) waits[id] = { at: opens, why: 'window' }
    else if (state.given >= cap) waitFor('cap')
    else if (state.domainCap !== null && (domains[domain] ?? 0) >= state.domainCap) waitFor('domain')
    else if (at >= tomorrow || opensFrom(at, window) > at) waitFor('spacing')
    else {
      slots[id] = at
      state.given++
      domains[domain] = (domains[domain] ?? 0) + 1
      if (state.spacing) state.lastSlotAt = at
    }
  }
  return { slots, waits, sender: { ...state, domains } }
}

/** An email in the queue of a sender, with when it asks for its moment. */
export interface QueuedEmail extends WantsSlot {
  at: Instant
}

/** How often a projection asks for moments at most; what is later than that has no date. */
const MOST_ROUNDS = 500

/**
 * When each email of a sender's queue will leave, as it stands: those that are due together ask in the order given, so
 * that what finds no room goes ahead of what comes due later. No entry for an email that is too far off to be said.
 */
export function projectQueue(
  queue: readonly QueuedEmail[],
  sender: Sender,
  now: Instant,
  holidays: Holidays,
): Record<Id, Instant> {
  const leaves: Record<Id, Instant> = {}
  let state = sender
  let waiting = queue.map((email, order) => ({ ...email, order, at: Math.max(now, email.at) }))
  for (let round = 0; waiting.length && round < MOST_ROUNDS; round++) {
    const time = waiting.reduce((least, { at }) => Math.min(least, at), Infinity)
    const due = waiting.filter(({ at }) => at <= time).sort((a, b) => a.order - b.order)
    const { slots, waits, sender: after } = allotSlots(due, state, time, holidays)
    state = after
    Object.assign(leaves, slots)
    const putOff = due.flatMap((email) => (waits[email.id] ? [{ ...email, at: waits[email.id]!.at }] : []))
    waiting = [...putOff, ...waiting.filter(({ at }) => at > time)]
  }
  return leaves
}
