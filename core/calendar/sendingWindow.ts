import type { WindowClock, WindowHolidays } from '../enumerations'
import type { Id } from '../instant'
import type { Place } from './local'
import type { Hours } from './window'

/** When email may go out: weekly hours by the prospect's or the sender's clock, closed on someone's holidays. */
export interface SendingWindow {
  hours: Hours
  clock: WindowClock
  holidays: WindowHolidays
}

/** Where email is sent from: the sender's time zone and the team's country (ISO 3166-1 alpha-2). */
export interface SenderPlace {
  timeZone: string
  country: string
}

/** What the playbook knows of where users are. */
export interface KnownSenders {
  userZones: Readonly<Record<Id, string>>
  timeZone: string
  country: string
}

/** Where a user sends from; the team's own place for no user and for one who is not known. */
export function senderPlace({ userZones, timeZone, country }: KnownSenders, userId: Id | null): SenderPlace {
  return { timeZone: (userId && userZones[userId]) || timeZone, country }
}

/**
 * The place at which a window is open or closed for a prospect: the zone of the clock that counts, with the country
 * whose holidays close it; without a country where none do.
 */
export function placeOfWindow(window: SendingWindow, prospect: Place, sender: SenderPlace): Place {
  const timeZone = window.clock === 'prospect' ? prospect.timeZone : sender.timeZone
  if (window.holidays === 'prospect') return { ...prospect, timeZone }
  return { timeZone, country: window.holidays === 'team' ? sender.country : null, region: null }
}
