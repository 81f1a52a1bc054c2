import { afterWait, lengthInWords } from '../../cadence/wait'
import { placeOf } from '../../engine/state/engineState'
import { advance } from '../../engine/moves/progress'
import { actionSchema, defineAction, delaySchema } from '../kind/define'

/** The cadence goes on with its next step, but not before some time has passed. */
export const pauseCadence = defineAction({
  type: 'pauseCadence',
  label: 'Pause the cadence',
  schema: actionSchema('pauseCadence', { wait: delaySchema }),
  mayWait: false,
  apply({ context, prospect, enrollment, cause }, { wait }) {
    if (!enrollment || enrollment.status === 'ended') return
    if (enrollment.status !== 'waiting') advance(context, prospect, enrollment, cause)
    const { status, dueAt } = context.state.enrollment[enrollment.id]!
    const until = afterWait(context.now, wait, placeOf(prospect), context.playbook.holidays)
    if (status !== 'waiting' || dueAt === null || dueAt >= until) return
    context.change('moveEnrollment', 'enrollment', enrollment.id, { dueAt: until }, cause)
  },
  describe: ({ wait }) => `The next step comes in ${lengthInWords(wait)} at the earliest`,
})
