import type { Cause } from '../state/effects'
import type { DomainEvent } from '../state/events'
import type { ReactionContext } from '../state/reactionContext'
import { cadenceOf } from './progress'
import { withdraw } from './withdraw'

/**
 * Moves someone to a step of the cadence they are in, or lets the one they are at wait until a time. What waited for
 * them there is taken back; an email that has gone out is left out when they come by it again.
 */
export function moveWithin(context: ReactionContext, event: Extract<DomainEvent, { kind: 'enrollmentMoved' }>): void {
  const enrollment = context.state.enrollment[event.enrollmentId]
  if (!enrollment || enrollment.status === 'ended') {
    return context.refuse('enrollment', 'This prospect has already left the cadence')
  }
  const stepId = event.stepId ?? enrollment.stepId
  // From an earlier version one may move within it, or to the cadence as it is now.
  const versions = [cadenceOf(context, enrollment), context.playbook.cadences[enrollment.cadenceId]]
  if (event.stepId && !versions.some((cadence) => cadence?.steps.some(({ id }) => id === event.stepId))) {
    return context.refuse('stepId', 'There is no such step in this cadence')
  }
  if (event.dueAt !== null && event.dueAt < context.now) return context.refuse('dueAt', 'Choose a time in the future')
  const cause: Cause = { source: 'person' }
  withdraw(context, enrollment, cause)
  const moved = { status: 'waiting' as const, stepId, dueAt: event.dueAt ?? context.now }
  context.change('moveEnrollment', 'enrollment', enrollment.id, moved, cause)
}
