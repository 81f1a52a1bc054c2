import { DateTime } from 'luxon'
import type { Instant } from '../instant'

/** A result as another dialer wrote it: text by the name of its column. */
export const RESULT_FIELDS = {
  id: 'Id',
  number: 'Number',
  outcome: 'Outcome',
  calledAt: 'Called at',
  caller: 'Caller',
  note: 'Note',
  callBackAt: 'Call back at',
  reason: 'Reason',
} as const
export type ResultField = keyof typeof RESULT_FIELDS
/** What a row says, trimmed; fields it does not have are empty. */
export type ResultContent = Record<ResultField, string>

/** Names that columns have, in lower case with underscores; ours first. Common practice, no published source. */
const NAMES: Readonly<Record<ResultField, readonly string[]>> = {
  id: ['id', 'reference', 'external_id', 'lead_id', 'contact_id'],
  number: ['number', 'phone', 'phone_number', 'to', 'called_number'],
  outcome: ['outcome', 'result', 'disposition', 'status'],
  calledAt: ['called_at', 'call_time', 'time', 'date', 'started_at', 'timestamp'],
  caller: ['caller', 'caller_email', 'agent', 'agent_email', 'user'],
  note: ['note', 'notes', 'comment', 'comments'],
  callBackAt: ['call_back_at', 'callback_at', 'call_back', 'callback'],
  reason: ['reason'],
}
const plain = (name: string): string =>
  name
    .replace(/([a-z\d])([A-Z])/g, '$1_$2')
    .trim()
    .toLowerCase()
    .replace(/[^a-z\d]+/g, '_')
    .replace(/^_|_$/g, '')

/** Which column, from 0, each field of a result is in, by the head row. Fields without a column are left out. */
export function resultColumns(head: readonly string[]): Partial<Record<ResultField, number>> {
  const names = head.map(plain)
  const found: Partial<Record<ResultField, number>> = {}
  for (const [field, known] of Object.entries(NAMES) as [ResultField, readonly string[]][]) {
    const at = known.map((name) => names.indexOf(name)).find((index) => index >= 0)
    if (at !== undefined) found[field] = at
  }
  return found
}

/** A row's cells as what they say. */
export function contentOf(cells: readonly string[], columns: Partial<Record<ResultField, number>>): ResultContent {
  return Object.fromEntries(
    (Object.keys(RESULT_FIELDS) as ResultField[]).map((field) => {
      const at = columns[field]
      return [field, at === undefined ? '' : (cells[at] ?? '').trim()]
    }),
  ) as ResultContent
}

/** Ways in which a time is written, besides ISO 8601. */
const FORMATS = ['M/d/yyyy h:mm a', 'M/d/yyyy h:mm:ss a', 'M/d/yyyy H:mm', 'M/d/yyyy H:mm:ss', 'yyyy-MM-dd H:mm:ss']

/**
 * Reads a time: ISO 8601, with an offset or in `timeZone`, or as Americans write it ("11/27/2026 2:14 PM"). Null where
 * it is none.
 */
export function readTime(text: string, timeZone: string): Instant | null {
  const iso = DateTime.fromISO(text, { zone: timeZone })
  if (iso.isValid && /[T ]\d/.test(text)) return iso.toMillis()
  for (const format of FORMATS) {
    const read = DateTime.fromFormat(text, format, { zone: timeZone, locale: 'en-US' })
    if (read.isValid) return read.toMillis()
  }
  return null
}

/** Why a row cannot be taken as it is, and at which field. */
export interface RowFault {
  field: ResultField
  message: string
}

/** What a row says once its times are read. */
export interface ReadResult {
  calledAt: Instant | null
  callBackAt: Instant | null
}

/** Reads the times of a row and asks whether it says who and what; gives the first fault otherwise. */
export function readResult(content: ResultContent, timeZone: string, now: Instant): ReadResult | RowFault {
  if (!content.id && !content.number) return { field: 'number', message: 'Neither our id nor a number' }
  if (!content.outcome) return { field: 'outcome', message: 'No outcome' }
  const calledAt = content.calledAt ? readTime(content.calledAt, timeZone) : null
  if (content.calledAt && calledAt === null) return { field: 'calledAt', message: 'This is not a date with a time' }
  if (calledAt !== null && calledAt > now) return { field: 'calledAt', message: 'This is in the future' }
  const callBackAt = content.callBackAt ? readTime(content.callBackAt, timeZone) : null
  if (content.callBackAt && callBackAt === null) {
    return { field: 'callBackAt', message: 'This is not a date with a time' }
  }
  if (callBackAt !== null && callBackAt <= now) return { field: 'callBackAt', message: 'This is in the past' }
  return { calledAt, callBackAt }
}
