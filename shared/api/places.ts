import { z } from 'zod'
import { endpoint, id, text } from './endpoint'
import { asked } from './lists'
import { placeSchema } from './companies'

export type Place = z.infer<typeof placeSchema>

export const findPlaces = endpoint({
  method: 'get',
  path: '/api/places',
  summary: 'Towns of the world by the beginning of their name, the most populous first',
  query: z.object({ q: text(100) }),
  response: z.object({ places: z.array(placeSchema) }),
})
const spotSchema = placeSchema.extend({ people: z.number(), companies: z.number() })
export type Spot = z.infer<typeof spotSchema>
export const mapProspects = endpoint({
  method: 'post',
  path: '/api/prospects/map',
  readsOnly: true,
  summary:
    'Places of the prospects who match a filter, most prospects first; without an address, the company’s place counts',
  body: z.object({ ...asked, company: id.optional().describe('Only those at this company') }),
  response: z.object({
    spots: z.array(spotSchema),
    people: z.number().describe('How many are at these places'),
    beyond: z.number().describe('How many are at further places, which are left out'),
    nowhere: z.number().describe('How many have no address that is known'),
  }),
})
