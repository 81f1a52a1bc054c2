import { z } from 'zod'
import { CALL_RESULT_STATUSES, valuesOf } from '#core/enumerations'
import { endpoint, id, instant, required, text, withId } from '../endpoint'

const user = z.object({ id, name: z.string() })
const field = z.enum(['id', 'number', 'outcome', 'calledAt', 'caller', 'note', 'callBackAt', 'reason'])
/** A row as it is sent: text, by field. */
const cell = z.string().max(4_000).default('')
export const resultContent = z.object({
  id: cell.describe('Our id, as the export has it'),
  number: cell.describe('In place of the id: the number that was called'),
  outcome: cell.describe('One of the team’s outcomes, or what the dialer calls it'),
  calledAt: cell.describe('ISO 8601; without an offset in the team’s time zone'),
  caller: cell.describe('The email address of a user here; otherwise it is put in the note'),
  note: cell,
  callBackAt: cell.describe('For outcomes that ask for it'),
  reason: cell,
})
const exported = z.object({
  id,
  dialer: z.string(),
  campaign: z.string(),
  callerNumbers: z.array(z.string()),
  message: z.string(),
  exportedBy: user,
  exportedAt: instant,
  endedAt: instant.nullable().describe('Since when those without a result are called here again'),
  people: z.number(),
  back: z.number().describe('People of whom a result has come back'),
  waiting: z.number().describe('Results that are being logged'),
  logged: z.number(),
  known: z.number().describe('Results that had been logged before'),
  unreadable: z.number(),
})
export type CallExport = z.infer<typeof exported>
const result = z.object({
  id,
  fileName: z.string().nullable().describe('null for one that came by the API'),
  rowNumber: z.number(),
  content: resultContent.partial(),
  receivedAt: instant,
  status: z.enum(valuesOf(CALL_RESULT_STATUSES)),
  field: field.nullable().describe('Where the fault is'),
  error: z.string().nullable(),
})
export type CallResult = z.infer<typeof result>

export const listExports = endpoint({
  method: 'get',
  path: '/api/call-blocks/{id}/exports',
  summary: 'To which other dialers the people of a call block were handed, and what has come back',
  params: withId,
  response: z.object({
    exports: z.array(exported),
    toExport: z.number().describe('Who is still to call and nowhere else'),
    dialers: z.array(z.string()).describe('Other dialers that were used before'),
  }),
})
export const addExport = endpoint({
  method: 'post',
  path: '/api/call-blocks/{id}/exports',
  summary: 'Hand those who are still to call to another dialer: nobody here calls them until a result comes back',
  params: withId,
  body: z.object({
    id,
    dialer: required(80).describe('Which dialer, as the team calls it'),
    callerNumbers: z.array(required(40)).max(50).default([]).describe('Numbers to call from, taken in turn'),
    message: text(2_000).default('').describe('What is left in voicemail boxes'),
    tags: z.array(required(60)).max(10).default([]).describe('Put on everyone who is handed over'),
  }),
  response: z.object({ id, people: z.number(), skipped: z.number() }),
})
export const exportFile = endpoint({
  method: 'get',
  path: '/api/call-exports/{id}/file',
  summary: 'The people of an export, as CSV or JSON (docs/other-dialers.md)',
  params: withId,
  query: z.object({ format: z.enum(['csv', 'json']).default('csv') }),
  response: z.unknown(),
})
export const endExport = endpoint({
  method: 'post',
  path: '/api/call-exports/{id}/end',
  summary: 'Call those without a result here again; results that still come are taken',
  params: withId,
  response: z.object({ people: z.number() }),
})
export const addResults = endpoint({
  method: 'post',
  path: '/api/call-exports/{id}/results',
  summary: 'Results of another dialer: each is logged like a call here; sent twice, it is logged once',
  params: withId,
  body: z.object({ results: z.array(resultContent).min(1).max(5_000) }),
  response: z.object({ rows: z.number() }),
})
export const addResultFile = endpoint({
  method: 'post',
  path: '/api/call-exports/{id}/result-file',
  summary: 'A file of results, CSV or JSON; its bytes are the body of the request, at most 5 MB',
  params: withId,
  query: z.object({ name: required(200) }),
  response: z.object({ rows: z.number() }),
})
export const listUnreadable = endpoint({
  method: 'get',
  path: '/api/call-exports/{id}/unreadable',
  summary: 'Results that could not be logged, each with what is wrong',
  params: withId,
  response: z.object({ results: z.array(result), total: z.number() }),
})
export const editResult = endpoint({
  method: 'put',
  path: '/api/call-results/{id}',
  summary: 'Correct a result that could not be logged; it is tried again at once',
  params: withId,
  body: resultContent,
  response: result,
})
export const removeResult = endpoint({
  method: 'delete',
  path: '/api/call-results/{id}',
  summary: 'Discard a result that could not be logged',
  params: withId,
})
export const nameOutcome = endpoint({
  method: 'post',
  path: '/api/call-exports/{id}/outcome-names',
  summary: 'Say which outcome another dialer means by a word; results that wait for it are tried again',
  params: withId,
  body: z.object({ word: required(200), outcomeId: id }),
})
