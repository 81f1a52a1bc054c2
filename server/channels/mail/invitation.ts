import ical, { ICalAttendeeRole, ICalAttendeeStatus, ICalCalendarMethod, ICalEventStatus } from 'ical-generator'
import { local } from '#core/calendar/local'
import type { MergeValues } from '#core/text/merge'

/** A meeting as it stands in an email; instants in ms, `timeZone` the clock they are shown in. */
export interface Meeting {
  id: string
  title: string
  startAt: number
  endAt: number
  timeZone: string
  sequence: number
  status: string
  place: string | null
}

/** The subject of the email that tells of a meeting as it stands. */
export function invitationSubject({ title, sequence, status }: Meeting): string {
  if (status === 'cancelled') return `Canceled: ${title}`
  return sequence > 0 ? `New time: ${title}` : title
}

/**
 * What the email says to anyone who reads it without a calendar: who, when by their clock, where, and how to change it.
 */
export function invitationText(
  meeting: Meeting,
  { values, teamName }: { values: MergeValues; teamName: string },
): string {
  const sender = values.sender_name ?? teamName
  const [start, end] = [local(meeting.startAt, meeting.timeZone), local(meeting.endAt, meeting.timeZone)]
  const place = meeting.timeZone.split('/').at(-1)!.replaceAll('_', ' ')
  const when = `${start.toFormat('cccc, LLLL d, yyyy')}, ${start.toFormat('h:mm a')} to ${end.toFormat('h:mm a')} (${place} time)`
  const greeting = values.first_name ? `Hello ${String(values.first_name)},\n\n` : ''
  if (meeting.status === 'cancelled') {
    return `${greeting}our meeting “${meeting.title}” on ${when} is cancelled.\n\n${String(sender)}`
  }
  const opening = meeting.sequence > 0 ? 'our meeting has a new time:' : 'here is the invitation to our meeting:'
  const lines = [meeting.title, when, ...(meeting.place ? [meeting.place] : [])]
  return `${greeting}${opening}\n\n${lines.join('\n')}\n\nIf another time suits you better, just reply to this email.\n\n${String(sender)}`
}

interface Party {
  name: string
  address: string
}

/** A name as a parameter may hold it (RFC 5545, 3.2): no double quotes, no control characters. */
const parameter = (name: string) =>
  name
    .replace(/"/g, '\u2019')
    .replace(/\p{Cc}/gu, ' ')
    .trim()

/**
 * An iCalendar invitation (RFC 5545, RFC 5546 REQUEST, or CANCEL for a cancelled meeting), its times in UTC. Instants
 * in ms; `writtenAt` is when it is made (DTSTAMP).
 */
export function invitation(meeting: Meeting, organizer: Party, attendee: Party, writtenAt: number): string {
  const cancelled = meeting.status === 'cancelled'
  const calendar = ical({
    method: cancelled ? ICalCalendarMethod.CANCEL : ICalCalendarMethod.REQUEST,
    prodId: { company: 'Uphill', product: 'Uphill' },
  })
  calendar.createEvent({
    id: `${meeting.id}@uphill`,
    sequence: meeting.sequence,
    start: new Date(meeting.startAt),
    end: new Date(meeting.endAt),
    stamp: new Date(writtenAt),
    summary: meeting.title,
    ...(meeting.place && { location: meeting.place }),
    organizer: { name: parameter(organizer.name), email: organizer.address },
    status: cancelled ? ICalEventStatus.CANCELLED : ICalEventStatus.CONFIRMED,
    attendees: [
      {
        name: parameter(attendee.name) || attendee.address,
        email: attendee.address,
        rsvp: true,
        role: ICalAttendeeRole.REQ,
        status: ICalAttendeeStatus.NEEDSACTION,
      },
    ],
  })
  return calendar.toString()
}
