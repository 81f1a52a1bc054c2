import { makeTask, replacePlans } from '../../engine/moves/work'
import { actionSchema, defineAction } from '../kind/define'

/** Plans the call back that was agreed; the cadence waits for it. */
export const callBack = defineAction({
  type: 'callBack',
  label: 'Wait for a call back',
  schema: actionSchema('callBack', {}),
  needs: 'callBackAt',
  mayWait: false,
  apply({ context, prospect, enrollment, details, cause }) {
    if (details.callBackAt === undefined) return
    replacePlans(context, prospect, ['first_contact', 'follow_up', 'call_back', 'call'], {
      source: 'system_rule',
      rule: 'planReplaced',
    })
    makeTask(
      context,
      prospect,
      {
        kind: 'call_back',
        priority: 1,
        title: 'Call back as agreed',
        dueAt: details.callBackAt,
        ownerId: context.event.actorId ?? prospect.ownerId,
      },
      cause,
    )
    if (enrollment && enrollment.status !== 'ended') {
      context.change('pauseEnrollment', 'enrollment', enrollment.id, { status: 'paused', dueAt: null }, cause)
    }
  },
  describe: () => 'The cadence waits for a call back',
})
