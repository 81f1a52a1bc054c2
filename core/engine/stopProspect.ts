import type { ExitReason, PhoneStatus } from '../enumerations'
import type { Id } from '../instant'
import type { ReactionContext } from './state/reactionContext'
import type { Cause } from './state/effects'
import { ofProspect, openEnrollments, usablePhones, type Prospect } from './state/engineState'
import { advance, endEnrollment } from './progress'
import { withdrawAll } from './withdraw'

/** Takes open calls back from someone who may not be called any more; cadences that wait for one go on without it. */
export function withdrawCalls(context: ReactionContext, prospect: Prospect, cause: Cause): void {
  for (const task of ofProspect(context.state, 'task', prospect.id)) {
    if (task.status !== 'open' || (task.kind !== 'call' && task.kind !== 'call_back')) continue
    context.change('cancelTask', 'task', task.id, { status: 'cancelled', doneAt: context.now }, cause)
    const enrollment = task.enrollmentId
      ? context.state.enrollment[task.enrollmentId]
      : openEnrollments(context.state, prospect.id).find((row) => row.status === 'paused')
    if (enrollment && enrollment.status !== 'ended' && enrollment.status !== 'waiting') {
      advance(context, prospect, enrollment, cause)
    }
  }
}

/**
 * Takes back email that has not left from someone who takes none any more; cadences that wait for one go on without
 * it.
 */
export function withdrawEmail(context: ReactionContext, prospect: Prospect, cause: Cause): void {
  for (const message of ofProspect(context.state, 'emailMessage', prospect.id)) {
    if (message.status !== 'queued' && message.status !== 'held') continue
    context.change('cancelEmail', 'emailMessage', message.id, { status: 'cancelled' }, cause)
    const enrollment = message.enrollmentId ? context.state.enrollment[message.enrollmentId] : null
    if (enrollment?.status === 'active' && enrollment.stepId === message.stepId) {
      advance(context, prospect, enrollment, cause)
    }
  }
}

/** Marks a number. Where that leaves none to call, open calls are taken back. */
export function markNumber(
  context: ReactionContext,
  prospect: Prospect,
  phoneId: Id,
  status: PhoneStatus,
  cause: Cause,
): void {
  context.change('markNumber', 'phone', phoneId, { status }, cause)
  if (!usablePhones(context.state, prospect.id).length) withdrawCalls(context, prospect, cause)
}

/** A stop on a company is a stop for everyone there: their cadences end and what waits for them is taken back. */
export function stopCompany(
  context: ReactionContext,
  people: readonly Prospect[],
  exit: ExitReason,
  cause: Cause,
): void {
  for (const person of people) {
    for (const enrollment of openEnrollments(context.state, person.id)) {
      endEnrollment(context, enrollment, exit, cause)
    }
    withdrawAll(context, person, cause)
  }
}
