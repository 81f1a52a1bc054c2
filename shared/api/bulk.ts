import { z } from 'zod'
import { endpoint, id, instant, required, text, withId } from './endpoint'
import { filterInput } from './lists'
import { ratingGiven } from './prospects'

/** What can be done to many people at once. */
export const bulkActionSchema = z.discriminatedUnion('do', [
  z.object({ do: z.literal('assign'), to: z.array(id).min(1).max(100).describe('One, or several in turn') }),
  z.object({ do: z.literal('assignToCompanyOwner') }),
  z.object({ do: z.literal('tag'), tag: required(60) }), z.object({ do: z.literal('untag'), tag: required(60) }),
  z.object({ do: z.literal('rate'), rating: ratingGiven }),
  z.object({ do: z.literal('work'), working: z.enum(['in_work', 'resting', 'removed']) }),
  z.object({ do: z.literal('putOn'), listId: id }),
  z.object({ do: z.literal('setField'), field: z.union([z.enum(['title', 'source', 'city', 'region', 'postalCode']), z.templateLiteral(['custom:', z.uuid()])]), value: z.unknown().describe('null empties it') }),
  z.object({ do: z.literal('enroll'), cadenceId: id }),
  z.object({ do: z.literal('leaveCadences'), cadenceId: id.nullable().describe('One cadence, or null for all') }),
  z.object({ do: z.literal('stop'), channel: z.enum(['call', 'email', 'all']) }),
  z.object({ do: z.literal('plan'), task: z.enum(['call', 'task']), title: required(200), dueAt: instant, ownerId: id.nullable().describe('null: each person’s own owner') }),
  z.object({ do: z.literal('mail'), subject: required(300), body: required(50_000), kind: z.enum(['one_to_one', 'marketing', 'requested']), sendAt: instant.nullable().describe('null: at once') }),
])
export type BulkAction = z.infer<typeof bulkActionSchema>

/** Whom it is for: those who are named, or all that match. */
const asked = { action: bulkActionSchema, prospectIds: z.array(id).min(1).max(10_000).optional(), filter: filterInput.optional(), list: id.optional(), search: text(200).optional() }
const leftOut = z.array(z.object({ reason: z.string(), count: z.number(), people: z.array(z.object({ id, name: z.string() })) }))

export const previewBulk = endpoint({
  method: 'post', path: '/api/bulk/preview', readsOnly: true, summary: 'How many people a change would touch, and whom it leaves out and why', body: z.object(asked),
  response: z.object({
    touches: z.number(), leftOut,
    /** For mail: customers apart from prospects, and the mail as one of them would get it. */
    mail: z.object({ customers: z.number(), prospects: z.number(), example: z.object({ name: z.string(), subject: z.string(), body: z.string(), missing: z.array(z.string()) }).nullable() }).nullable(),
  }),
})
export const startBulk = endpoint({ method: 'post', path: '/api/bulk', summary: 'Change many people at once; the work goes on by itself', body: z.object({ id, ...asked }), response: z.object({ id, touches: z.number() }) })
const account = z.object({ id, action: bulkActionSchema, about: z.string(), by: z.string(), state: z.enum(['waiting', 'running', 'done']), touches: z.number(), done: z.number(), at: instant, endedAt: instant.nullable() })
export const listBulk = endpoint({ method: 'get', path: '/api/bulk', summary: 'Changes of many, newest first: the caller’s own, or everybody’s for managers', response: z.object({ changes: z.array(account) }) })
export const getBulk = endpoint({
  method: 'get', path: '/api/bulk/{id}', summary: 'How far a change of many has come, and its account', params: withId,
  response: account.extend({ leftOut }),
})
