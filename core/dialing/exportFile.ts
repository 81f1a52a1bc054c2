import { harmless } from '../imports/columns'

/** Someone who is handed to another dialer. */
export interface ExportedPerson {
  /** Our id of them in this export; a result names it. */
  id: string
  /** In E.164. */
  number: string
  firstName: string
  lastName: string
  title: string | null
  company: string | null
  /** Their time zone (IANA), for the hours in which they may be called. */
  timeZone: string
}

/** What another dialer is to do: whom to call, from which numbers, with what to say. */
export interface DialerExport {
  campaign: string
  /** Numbers that are shown to those who are called, in E.164; taken in turn. */
  callerNumbers: readonly string[]
  /** What is left in voicemail boxes. */
  message: string
  people: readonly ExportedPerson[]
}

/** The number that is shown to the person at a place, from 0; null where the dialer has its own. */
const callerNumberAt = (numbers: readonly string[], place: number): string | null =>
  numbers.length ? numbers[place % numbers.length]! : null

const HEAD = [
  'id',
  'number',
  'first_name',
  'last_name',
  'title',
  'company',
  'time_zone',
  'campaign',
  'caller_number',
  'message',
]

/** The export as rows of cells, the head first and a row for each person; docs/other-dialers.md has the columns. */
export function exportRows({ campaign, callerNumbers, message, people }: DialerExport): string[][] {
  const rows = people.map((one, place) => [
    one.id,
    one.number,
    harmless(one.firstName),
    harmless(one.lastName),
    harmless(one.title ?? ''),
    harmless(one.company ?? ''),
    one.timeZone,
    harmless(campaign),
    callerNumberAt(callerNumbers, place) ?? '',
    harmless(message),
  ])
  return [HEAD, ...rows]
}

/** The export as JSON; docs/other-dialers.md has its form. */
export function exportJson({ people, ...about }: DialerExport): string {
  const rows = people.map((one, place) => ({ ...one, callerNumber: callerNumberAt(about.callerNumbers, place) }))
  return JSON.stringify({ ...about, people: rows }, null, 2)
}
