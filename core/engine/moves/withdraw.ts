import type { ReactionContext } from '../state/reactionContext'
import type { Cause } from '../state/effects'
import { cancelDelayed } from './delayed'
import { ofProspect, type Enrollment, type Prospect } from '../state/engineState'

/** Takes back the open work an enrollment has put out: its task on a Desk, its mail that has not left. */
export function withdraw(context: ReactionContext, enrollment: Enrollment, cause: Cause): void {
  for (const task of ofProspect(context.state, 'task', enrollment.prospectId)) {
    if (task.enrollmentId === enrollment.id && task.status === 'open') {
      context.change('cancelTask', 'task', task.id, { status: 'cancelled', doneAt: context.now }, cause)
    }
  }
  for (const message of ofProspect(context.state, 'emailMessage', enrollment.prospectId)) {
    if (message.enrollmentId === enrollment.id && (message.status === 'queued' || message.status === 'held')) {
      context.change('cancelEmail', 'emailMessage', message.id, { status: 'cancelled' }, cause)
    }
  }
}

/**
 * Takes everything back that waits for someone who is stopped: email that has not left, actions that are scheduled, and
 * open work but for meetings that have been held.
 */
export function withdrawAll(context: ReactionContext, prospect: Prospect, cause: Cause): void {
  for (const message of ofProspect(context.state, 'emailMessage', prospect.id)) {
    if (message.status === 'queued' || message.status === 'held') {
      context.change('cancelEmail', 'emailMessage', message.id, { status: 'cancelled' }, cause)
    }
  }
  for (const task of ofProspect(context.state, 'task', prospect.id)) {
    if (task.status === 'open' && task.kind !== 'meeting_result') {
      context.change('cancelTask', 'task', task.id, { status: 'cancelled', doneAt: context.now }, cause)
    }
  }
  cancelDelayed(context, prospect, null, cause)
}
