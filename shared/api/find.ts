import { z } from 'zod'
import { endpoint, id, required } from './endpoint'

const hit = z.object({ id, name: z.string() })
/** Anything by what someone types of it: a few of each kind, the likeliest first. */
export const findAnything = endpoint({
  method: 'get',
  path: '/api/find',
  summary: 'Find prospects, companies, lists and cadences by part of a name, email address or phone number',
  query: z.object({ text: required(200) }),
  response: z.object({
    people: z.array(
      hit.extend({
        title: z.string().nullable(),
        company: z.string().nullable(),
        atCompany: z.boolean().describe('Found by where they are, not by what they are called or how they are reached'),
      }),
    ),
    companies: z.array(hit.extend({ people: z.number() })),
    lists: z.array(hit),
    cadences: z.array(hit),
  }),
})
