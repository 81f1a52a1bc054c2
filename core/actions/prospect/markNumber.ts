import { z } from 'zod'
import { PHONE_STATUSES, type PhoneStatus } from '../../enumerations'
import { markNumber as mark } from '../../engine/moves/stopProspect'
import { actionSchema, defineAction } from '../kind/define'

/** What an outcome may mark a number as. */
export const MARKED = ['correct', 'wrong', 'disconnected', 'do_not_call'] as const satisfies readonly PhoneStatus[]

/** Marks the number that was called. */
export const markNumber = defineAction({
  type: 'markNumber',
  label: 'Mark the number',
  schema: actionSchema('markNumber', { as: z.enum(MARKED) }),
  mayWait: false,
  apply({ context, prospect, phoneId, cause }, action) {
    if (phoneId) mark(context, prospect, phoneId, action.as, cause)
  },
  describe: (action) => `The number is marked ${PHONE_STATUSES[action.as]}`,
})
