import { addReferral as add } from '../../engine/moves/referral'
import { actionSchema, defineAction } from '../kind/define'

/** Adds the right person, as they were named. */
export const addReferral = defineAction({
  type: 'addReferral',
  label: 'Add the right person',
  schema: actionSchema('addReferral', {}),
  needs: 'referral',
  mayWait: false,
  apply({ context, prospect, details, cause }) {
    add(context, prospect, details, cause)
  },
  describe: () => 'Adds the right person',
})
