import { z } from 'zod'
import { EXIT_REASONS, type ExitReason } from '../../enumerations'
import { endAll, endEnrollment } from '../../engine/moves/progress'
import { endForColleagues } from '../../engine/moves/stopProspect'
import { actionSchema, defineAction } from '../kind/define'

/** Why an outcome may end a cadence. */
export const OUTCOME_EXITS = [
  'replied',
  'meeting_booked',
  'stopped',
  'not_interested',
  'not_a_fit',
  'unreached',
  'wrong_person',
  'removed',
] as const satisfies readonly ExitReason[]

const WHAT = {
  cadence: 'Leaves the cadence',
  all: 'Leaves every cadence',
  company: 'Everyone at the company leaves their cadences',
} as const

/** Leaves this cadence, every cadence, or takes everyone at the company out. */
export const exit = defineAction({
  type: 'exit',
  label: 'Leave cadences',
  schema: actionSchema('exit', { scope: z.enum(['cadence', 'all', 'company']), as: z.enum(OUTCOME_EXITS) }),
  mayWait: true,
  reachesCompany: (action) => action.scope === 'company',
  apply({ context, prospect, enrollment, cause }, action) {
    // A call that belongs to no cadence ends none.
    if (action.scope === 'cadence') {
      if (enrollment) endEnrollment(context, enrollment, action.as, cause)
      return
    }
    endAll(context, prospect, [], action.as, cause)
    if (action.scope === 'company') endForColleagues(context, prospect, action.as, cause)
  },
  describe: (action) => `${WHAT[action.scope]} (${EXIT_REASONS[action.as]})`,
})
