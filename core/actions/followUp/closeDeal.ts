import { z } from 'zod'
import { closeDeal as close, openDealOf } from '../../engine/moves/deals'
import { actionSchema, defineAction } from '../kind/define'

/** The open deal is won or lost; without one nothing follows. */
export const closeDeal = defineAction({
  type: 'closeDeal',
  label: 'Win or lose the deal',
  schema: actionSchema('closeDeal', { as: z.enum(['won', 'lost']) }),
  mayWait: true,
  reachesCompany: () => true,
  apply({ context, prospect, details, outcome, cause }, action) {
    const deal = openDealOf(context, prospect)
    if (!deal) return context.skip('No deal is open')
    close(context, deal, { result: action.as, reason: details.reason?.trim() || (outcome?.name ?? null) }, cause)
  },
  describe: (action) => (action.as === 'won' ? 'The deal is won' : 'The deal is lost'),
})
