import { z } from 'zod'
import { stepHere } from '../../cadence/steps'
import { cadenceOf } from '../../engine/moves/progress'
import { withdraw } from '../../engine/moves/withdraw'
import { actionSchema, defineAction, mustBeThere, named } from '../kind/define'

/** The cadence goes to a step of it, which is due at once; a call of another cadence stays where it is. */
export const goToStep = defineAction({
  type: 'goToStep',
  label: 'Go to a step',
  schema: actionSchema('goToStep', { stepId: z.uuid('Choose a step') }),
  mayWait: false,
  check: (action, names) => mustBeThere(names.steps, action.stepId, 'a step'),
  apply({ context, enrollment, cause }, { stepId }) {
    if (!enrollment || enrollment.status === 'ended') return
    const cadence = cadenceOf(context, enrollment)
    const step = cadence && stepHere(cadence, stepId)
    if (!step) return
    withdraw(context, enrollment, cause)
    const patch = { status: 'waiting', stepId: step.id, dueAt: context.now } as const
    context.change('moveEnrollment', 'enrollment', enrollment.id, patch, cause)
  },
  describe: (action, names) => `Goes to the step ${named(names.steps, action.stepId)}`,
})
