import { firstStep } from '../../cadence/route'
import { afterWait } from '../../cadence/wait'
import type { Id, Instant } from '../../instant'
import type { Cause } from '../state/effects'
import { placeOf, type Prospect } from '../state/engineState'
import type { ReactionContext } from '../state/reactionContext'
import { replacePlans } from './work'
import { whyNotEnroll } from './stops'

/**
 * Starts a cadence with a prospect, now or at `startAt`; where they may not be in it, nothing is done and the reason is
 * given.
 */
export function enroll(
  context: ReactionContext,
  prospect: Prospect,
  cadenceId: Id,
  cause: Cause,
  startAt: Instant | null = null,
): string | null {
  const cadence = context.playbook.cadences[cadenceId]
  if (!cadence) return 'There is no such cadence'
  const why = whyNotEnroll(context.state, context.playbook, prospect, cadence)
  if (why) return why
  const first = firstStep(cadence)!
  const start = Math.max(context.now, startAt ?? 0)
  replacePlans(context, prospect, ['first_contact', 'follow_up'], {
    source: 'system_rule',
    rule: 'cadenceIsPlan',
  })
  context.create(
    'openEnrollment',
    'enrollment',
    {
      id: context.newId(),
      prospectId: prospect.id,
      cadenceId,
      stepId: first.id,
      status: 'waiting',
      dueAt: afterWait(start, first.wait, placeOf(prospect), context.playbook.holidays),
      byId: context.event.actorId ?? prospect.ownerId,
      startedAt: start,
      endedAt: null,
      exit: null,
    },
    cause,
  )
  return null
}
