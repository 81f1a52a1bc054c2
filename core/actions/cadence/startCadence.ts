import { z } from 'zod'
import { CADENCE_STATUSES } from '../../enumerations'
import { enroll } from '../../engine/moves/enroll'
import { actionSchema, defineAction, mustBeThere, named } from '../kind/define'

/** Starts a cadence with the prospect, unless they may not be in it. */
export const startCadence = defineAction({
  type: 'startCadence',
  label: 'Start a cadence',
  schema: actionSchema('startCadence', { cadenceId: z.uuid('Choose a cadence') }),
  mayWait: true,
  check: (action, names) => mustBeThere(names.cadences, action.cadenceId, 'a cadence'),
  whyNotLater({ context }, { cadenceId }) {
    const cadence = context.playbook.cadences[cadenceId]
    if (!cadence) return 'The cadence is not started: it is archived'
    const off = cadence.status === 'archived' || cadence.status === 'draft'
    return off ? `“${cadence.name}” is not started: it is ${CADENCE_STATUSES[cadence.status]}` : null
  },
  apply({ context, prospect, cause }, { cadenceId }) {
    const why = enroll(context, prospect, cadenceId, cause)
    const name = context.playbook.cadences[cadenceId]?.name
    if (why) context.skip(name ? `“${name}” is not started: ${why}` : 'The cadence is not started: it is archived')
  },
  describe: (action, names) => `Starts ${named(names.cadences, action.cadenceId)}`,
})
