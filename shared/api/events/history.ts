import { z } from 'zod'
import { endpoint, id, instant, withId } from '../endpoint'
import { knotKind } from '../prospects'

export const historyEntrySchema = z.object({
  id,
  at: instant,
  kind: z.string(),
  title: z.string(),
  by: z.string().nullable(),
  /** What it did, one sentence an effect, each with its cause. */
  changes: z.array(z.object({ summary: z.string(), cause: z.string() })),
  note: z.string().nullable(),
  body: z.string().nullable(),
  undone: z.boolean(),
  canUndo: z.boolean(),
  /** The shape of its knot on the thread; null for what is no touch. */
  knot: knotKind.nullable(),
  recording: z.object({ callId: id, seconds: z.number() }).nullable().describe('Of a call, where it is kept'),
})
export type HistoryEntry = z.infer<typeof historyEntrySchema>
export const prospectHistory = endpoint({
  method: 'get',
  path: '/api/prospects/{id}/history',
  summary: 'Every touch and every change, with its cause, newest first',
  params: withId,
  query: z.object({ limit: z.coerce.number().int().min(1).max(500).default(200) }),
  response: z.object({ entries: z.array(historyEntrySchema) }),
})
export const undo = endpoint({
  method: 'post',
  path: '/api/events/{id}/undo',
  callers: true,
  summary: 'Undo an event, with everything that followed from it',
  params: withId,
  body: z.object({ id }),
  response: z.object({ undone: z.number(), unchanged: z.array(z.string()) }),
})
export const cancelScheduledAction = endpoint({
  method: 'post',
  path: '/api/scheduled-actions/{id}/cancel',
  summary: 'Cancel an action that is scheduled for a prospect',
  params: withId,
  body: z.object({ id }),
  response: z.object({ summary: z.string() }),
})
/** What happened to a company, a deal or a list, as it is shown there. */
export const recordEntrySchema = z.object({
  id,
  at: instant,
  title: z.string(),
  by: z.string().nullable(),
  body: z.string().nullable().describe('What changed, a line a field'),
  person: z.object({ id, name: z.string() }).nullable().describe('By way of whom, where the viewer may see them'),
  undone: z.boolean(),
  canUndo: z.boolean(),
})
export type RecordEntry = z.infer<typeof recordEntrySchema>
const recordHistory = {
  params: withId,
  query: z.object({ limit: z.coerce.number().int().min(1).max(500).default(50) }),
  response: z.object({ entries: z.array(recordEntrySchema) }),
}
export const companyHistory = endpoint({
  method: 'get',
  path: '/api/companies/{id}/history',
  summary: 'What was changed of a company, by whom and why, newest first',
  ...recordHistory,
})
export const dealHistory = endpoint({
  method: 'get',
  path: '/api/deals/{id}/history',
  summary: 'What was changed of a deal, by whom and why, newest first',
  ...recordHistory,
})
export const formHistory = endpoint({
  method: 'get',
  path: '/api/forms/{id}/history',
  summary: 'What was changed of a form, by whom, newest first',
  access: 'manager',
  ...recordHistory,
})
export const listHistory = endpoint({
  method: 'get',
  path: '/api/lists/{id}/history',
  summary: 'What was changed of a list, by whom, newest first',
  ...recordHistory,
})
