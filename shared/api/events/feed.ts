import { z } from 'zod'
import { EVENTS } from '#core/events/registry'
import { endpoint, id, instant } from '../endpoint'

const kinds = Object.keys(EVENTS) as [string, ...string[]]

/** One event of the log: ids, values and codes, and nothing that says who someone is. */
export const loggedEventSchema = z.object({
  position: z.number().describe('Its place in the log; a later event has a higher one'),
  id,
  at: instant,
  kind: z.string(),
  subject: z
    .object({ type: z.enum(['prospect', 'company', 'deal', 'list', 'form']), id })
    .describe('To what it happened'),
  actorId: id.nullable().describe('The user who did it; null for what the program did'),
  causedBy: id.nullable().describe('The event from which it followed'),
  payload: z.record(z.string(), z.unknown()),
})
export const readEvents = endpoint({
  method: 'get',
  path: '/api/events',
  summary: 'Events of the whole team in the order they were logged, after a position; none is ever missed',
  access: 'manager',
  query: z.object({
    after: z.coerce.number().int().min(0).max(Number.MAX_SAFE_INTEGER).default(0),
    kind: z.enum(kinds).optional(),
    limit: z.coerce.number().int().min(1).max(1000).default(200),
  }),
  response: z.object({
    events: z.array(loggedEventSchema),
    next: z.number().describe('The position to ask after next time'),
  }),
})
