import { SECOND, type Id, type Instant } from '../instant'
import { localDay, startOfDay, type Holidays, type Place } from '../calendar/local'
import { nextOpen, type Hours } from '../calendar/window'
import { local } from '../calendar/local'

/** What a sender may do, and has done: the cap counts days by the sender's wall clock in `zone`. */
export interface Sender {
  timeZone: string
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
 * Gives each mail its moment, in order: now or after the sender's spacing, today, inside its window and within the cap.
 * A mail that cannot go today (its window is closed, the cap is used up) takes no slot and holds nobody up: it is only
 * given the time to ask again (`waits`). Returns the moments by id and the sender as used up by them.
 */
export function allotSlots(
  wanted: readonly WantsSlot[],
  sender: Sender,
  now: Instant,
  holidays: Holidays,
): { slots: Record<Id, Instant>; waits: Record<Id, Instant>; sender: Sender } {
  const slots: Record<Id, Instant> = {}
  const waits: Record<Id, Instant> = {}
  const today = localDay(now, sender.timeZone)
  const tomorrow = local(startOfDay(now, sender.timeZone), sender.timeZone).plus({ days: 1 }).startOf('day').toMillis()
  let state: Sender = { ...sender, day: today, given: sender.day === today ? sender.given : 0 }
  for (const mail of wanted) {
    const opens = nextOpen(now, mail.window, mail.place, holidays)
    const at = Math.max(now, state.lastSlotAt === null ? now : state.lastSlotAt + state.spacing * SECOND)
    if (opens > now) waits[mail.id] = opens
    else if (state.given >= state.cap || at >= tomorrow || nextOpen(at, mail.window, mail.place, holidays) > at) {
      waits[mail.id] = nextOpen(Math.max(tomorrow, at), mail.window, mail.place, holidays)
    } else {
      slots[mail.id] = at
      state = { ...state, given: state.given + 1, lastSlotAt: state.spacing ? at : state.lastSlotAt }
    }
  }
  return { slots, waits, sender: state }
}
