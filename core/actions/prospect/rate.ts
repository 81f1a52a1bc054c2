import { z } from 'zod'
import { RATINGS, valuesOf } from '../../enumerations'
import { actionSchema, defineAction } from '../kind/define'

/** Rates the prospect, or lets the rating follow the score again. */
export const rate = defineAction({
  type: 'rate',
  label: 'Rate',
  schema: actionSchema('rate', {
    rating: z.enum([...valuesOf(RATINGS), 'score']).describe('A rating, or “score” to follow the score'),
  }),
  mayWait: true,
  apply({ context, prospect, cause }, { rating }) {
    const patch = rating === 'score' ? { ratedByScore: true } : { rating, ratedByScore: false }
    context.change('rate', 'prospect', prospect.id, patch, cause)
  },
  describe: ({ rating }) => (rating === 'score' ? 'Rates by score' : `Rates ${RATINGS[rating]}`),
})
