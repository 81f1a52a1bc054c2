import ical, { ICalAttendeeRole, ICalAttendeeStatus, ICalCalendarMethod, ICalEventStatus } from 'ical-generator'

interface Party { name: string, address: string }

/** A name as a parameter may hold it (RFC 5545, 3.2): no double quotes, no control characters. */
const parameter = (name: string) => name.replace(/"/g, '\u2019').replace(/\p{Cc}/gu, ' ').trim()

/**
 * An iCalendar invitation (RFC 5545, RFC 5546 REQUEST, or CANCEL for a cancelled meeting), its times in UTC. Instants in
 * ms; `writtenAt` is when it is made (DTSTAMP).
 */
export function invitation(appointment: { id: string, title: string, startAt: number, endAt: number, sequence: number, state: string }, organizer: Party, attendee: Party, writtenAt: number): string {
  const cancelled = appointment.state === 'cancelled'
  const calendar = ical({ method: cancelled ? ICalCalendarMethod.CANCEL : ICalCalendarMethod.REQUEST, prodId: { company: 'Uphill', product: 'Uphill' } })
  calendar.createEvent({
    id: `${appointment.id}@uphill`, sequence: appointment.sequence, start: new Date(appointment.startAt), end: new Date(appointment.endAt),
    stamp: new Date(writtenAt), summary: appointment.title, organizer: { name: parameter(organizer.name), email: organizer.address },
    status: cancelled ? ICalEventStatus.CANCELLED : ICalEventStatus.CONFIRMED,
    attendees: [{ name: parameter(attendee.name) || attendee.address, email: attendee.address, rsvp: true, role: ICalAttendeeRole.REQ, status: ICalAttendeeStatus.NEEDSACTION }],
  })
  return calendar.toString()
}
