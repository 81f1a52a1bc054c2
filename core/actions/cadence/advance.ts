import { advance as goOn } from '../../engine/moves/progress'
import { actionSchema, defineAction } from '../kind/define'

/** The cadence goes on to its next step. */
export const advance = defineAction({
  type: 'advance',
  label: 'Go on to the next step',
  schema: actionSchema('advance', {}),
  mayWait: false,
  apply({ context, prospect, enrollment, cause }) {
    if (enrollment && enrollment.status !== 'ended') goOn(context, prospect, enrollment, cause)
  },
  describe: () => 'Goes on to the next step',
})
