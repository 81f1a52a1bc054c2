import { withdrawEmail } from '../../engine/moves/stopProspect'
import { actionSchema, defineAction } from '../kind/define'

/** Cancels email that has not left; a cadence that waits for one goes on without it. */
export const cancelEmail = defineAction({
  type: 'cancelEmail',
  label: 'Cancel queued email',
  schema: actionSchema('cancelEmail', {}),
  mayWait: false,
  apply({ context, prospect, cause }) {
    withdrawEmail(context, prospect, cause)
  },
  describe: () => 'Cancels queued email',
})
