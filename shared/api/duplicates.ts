import { z } from 'zod'
import { endpoint, id, instant, withId } from './endpoint'

const likeSchema = z.object({
  id, name: z.string(), title: z.string().nullable(), company: z.string().nullable(), stage: z.string(), owner: z.string().nullable(),
  phones: z.array(z.string()), emails: z.array(z.string()), touches: z.number(), createdAt: instant,
})
export const findDuplicates = endpoint({
  method: 'get', path: '/api/duplicates', summary: 'Pairs of people who may be one, the surest first, with the reasons',
  query: z.object({ about: id.optional().describe('Only pairs with this person'), limit: z.coerce.number().int().min(1).max(500).default(100) }),
  response: z.object({ pairs: z.array(z.object({ one: likeSchema, other: likeSchema, sureness: z.number(), reasons: z.array(z.string()) })) }),
})
export const tellApart = endpoint({ method: 'post', path: '/api/duplicates/apart', summary: 'Keep that two people only look alike', body: z.object({ ids: z.tuple([id, id]) }) })
export const mergeProspects = endpoint({
  method: 'post', path: '/api/prospects/{id}/merge', summary: 'Make one person of two: everything of the other goes to this one', params: withId,
  body: z.object({ id, goneId: id }), response: z.object({ says: z.string() }),
})
export const listMerges = endpoint({
  method: 'get', path: '/api/merges', summary: 'The latest merges that stand',
  response: z.object({ merges: z.array(z.object({ id, keptId: id, kept: z.string(), gone: z.string(), by: z.string().nullable(), at: instant })) }),
})
export const undoMerge = endpoint({
  method: 'post', path: '/api/merges/{id}/undo', summary: 'Make two people of one again', params: withId,
  response: z.object({ keptId: id, goneId: id, kept: z.array(z.string()) }),
})
