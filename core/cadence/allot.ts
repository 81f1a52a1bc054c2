import { SECOND, type Id, type Instant } from '../instant'
import { localDay, startOfDay, type Holidays, type Place } from '../calendar/local'
import { nextOpen, type Hours } from '../calendar/window'
import { local } from '../calendar/local'

/** What a sender may do, and has done: the cap counts days by the sender's wall clock in `zone`. */
export interface Sender {
  zone: string
  /** Mails a day. */
  cap: number
  /** Seconds between two mails. */
  spacing: number
  /** ISO day the count below belongs to, or null. */
  day: string | null
  given: number
  lastSlotAt: Instant | null
}

/** A mail that wants its moment, with the hours in which its recipient may be written to. */
export interface WantsSlot {
  id: Id
  window: Hours
  place: Place
}

/**
 * Gives each mail its moment, in order: now or after the sender's spacing, inside its window, on a day whose cap is
 * not used up. Returns the moments by id and the sender as used up by them.
 */
export function allotSlots(wanted: readonly WantsSlot[], sender: Sender, now: Instant, holidays: Holidays): { slots: Record<Id, Instant>, sender: Sender } {
  const slots: Record<Id, Instant> = {}
  let state = sender
  for (const mail of wanted) {
    let at = Math.max(now, state.lastSlotAt === null ? now : state.lastSlotAt + state.spacing * SECOND)
    for (let tries = 0; tries < 400; tries++) {
      at = nextOpen(at, mail.window, mail.place, holidays)
      const day = localDay(at, state.zone)
      const given = state.day === day ? state.given : 0
      if (state.cap > 0 && (state.day === null || day >= state.day) && given < state.cap) {
        state = { ...state, day, given: given + 1, lastSlotAt: state.spacing ? at : state.lastSlotAt }
        break
      }
      at = local(startOfDay(at, state.zone), state.zone).plus({ days: 1 }).toMillis()
    }
    slots[mail.id] = at
  }
  return { slots, sender: state }
}
