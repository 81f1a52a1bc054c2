import { z } from 'zod'
import { COMPANY_STATUSES, valuesOf } from '../../enumerations'
import { colleaguesOf, companyOf } from '../../engine/state/engineState'
import { exitOfStatus, stopCompany } from '../../engine/moves/stopProspect'
import { actionSchema, defineAction } from '../kind/define'

/** Sets the company's status; one that stops contact stops everyone there. */
export const setCompanyStatus = defineAction({
  type: 'setCompanyStatus',
  label: 'Set the company’s status',
  schema: actionSchema('setCompanyStatus', { to: z.enum(valuesOf(COMPANY_STATUSES)) }),
  mayWait: true,
  reachesCompany: () => true,
  apply({ context, prospect, cause }, { to }) {
    const company = companyOf(context.state, prospect)
    if (!company) return
    context.change('setCompanyStatus', 'company', company.id, { status: to }, cause)
    const exit = exitOfStatus(to)
    if (exit) stopCompany(context, [prospect, ...colleaguesOf(context.state, prospect)], exit, cause)
  },
  describe: ({ to }) => `Company: ${COMPANY_STATUSES[to]}`,
})
