import { z } from 'zod'
import { endpoint, id, instant, required, text, withId } from './endpoint'
import { filterInput } from './lists'

/** What can be done to many people at once. */
export const bulkActionSchema = z.discriminatedUnion('do', [
  z.object({ do: z.literal('assign'), to: z.array(id).min(1).max(100).describe('One, or several in turn') }),
  z.object({ do: z.literal('tag'), tag: required(60) }), z.object({ do: z.literal('untag'), tag: required(60) }),
  z.object({ do: z.literal('rate'), rating: z.enum(['hot', 'warm', 'cold']).nullable() }),
  z.object({ do: z.literal('work'), working: z.enum(['in_work', 'resting', 'removed']) }),
  z.object({ do: z.literal('putOn'), listId: id }),
])
export type BulkAction = z.infer<typeof bulkActionSchema>

/** Whom it is for: those who are named, or all that match. */
const asked = { action: bulkActionSchema, prospectIds: z.array(id).min(1).max(10_000).optional(), filter: filterInput.optional(), list: id.optional(), search: text(200).optional() }
const leftOut = z.array(z.object({ reason: z.string(), count: z.number(), people: z.array(z.object({ id, name: z.string() })) }))

export const previewBulk = endpoint({ method: 'post', path: '/api/bulk/preview', summary: 'How many people a change would touch, and whom it leaves out and why', body: z.object(asked), response: z.object({ touches: z.number(), leftOut }) })
export const startBulk = endpoint({ method: 'post', path: '/api/bulk', summary: 'Change many people at once; the work goes on by itself', body: z.object({ id, ...asked }), response: z.object({ id, touches: z.number() }) })
export const getBulk = endpoint({
  method: 'get', path: '/api/bulk/{id}', summary: 'How far a change of many has come, and its account', params: withId,
  response: z.object({ id, action: bulkActionSchema, about: z.string(), by: z.string(), state: z.enum(['waiting', 'running', 'done']), touches: z.number(), done: z.number(), at: instant, endedAt: instant.nullable(), leftOut }),
})
