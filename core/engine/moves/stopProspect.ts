import type { Channel, CompanyStatus, ExitReason, PhoneStatus, TaskKind } from '../../enumerations'
import type { Id } from '../../instant'
import type { ReactionContext } from '../state/reactionContext'
import type { Cause } from '../state/effects'
import { colleaguesOf, ofProspect, openEnrollments, usablePhones, type Prospect } from '../state/engineState'
import { cancelDelayed, STARTS } from './delayed'
import { advance, cadenceOf, endAll, endEnrollment } from './progress'
import { whyNoText } from './stops'
import { withdrawAll } from './withdraw'

/** Takes open work of some kinds back; cadences that wait for it go on without it. */
export function withdrawTasks(
  context: ReactionContext,
  prospect: Prospect,
  kinds: readonly TaskKind[],
  cause: Cause,
): void {
  for (const task of ofProspect(context.state, 'task', prospect.id)) {
    if (task.status !== 'open' || !kinds.includes(task.kind)) continue
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
  withdrawTasks(context, prospect, ['email'], cause)
}

/** Marks a number. Where that leaves none to call or to text, open calls or texts are taken back. */
export function markNumber(
  context: ReactionContext,
  prospect: Prospect,
  phoneId: Id,
  status: PhoneStatus,
  cause: Cause,
): void {
  context.change('markNumber', 'phone', phoneId, { status }, cause)
  if (!usablePhones(context.state, prospect.id).length) withdrawTasks(context, prospect, ['call', 'call_back'], cause)
  if (whyNoText(context.state, prospect)) withdrawTasks(context, prospect, ['text'], cause)
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

/** Whether a company's status keeps everyone there from being contacted, and how their cadences end then. */
export function exitOfStatus(status: CompanyStatus): ExitReason | null {
  if (status === 'not_a_fit') return 'not_a_fit'
  return status === 'do_not_contact' ? 'stopped' : null
}

/**
 * Takes everyone else at the company out of their cadences; a booked meeting leaves those alone whose cadence says that
 * only who booked leaves.
 */
export function endForColleagues(context: ReactionContext, prospect: Prospect, as: ExitReason, cause: Cause): void {
  for (const colleague of colleaguesOf(context.state, prospect)) {
    cancelDelayed(context, colleague, STARTS, cause)
    for (const enrollment of openEnrollments(context.state, colleague.id)) {
      const stays = as === 'meeting_booked' && cadenceOf(context, enrollment)?.exits.booked === 'person'
      // They did not book: a cadence counts its own meetings alone.
      if (!stays) endEnrollment(context, enrollment, as === 'meeting_booked' ? 'colleague_booked' : as, cause)
    }
  }
}

/** Sets or lifts a stop, and takes back what it forbids: queued mail, open calls. */
export function setStop(
  context: ReactionContext,
  prospect: Prospect,
  channel: Channel,
  on: boolean,
  cause: Cause,
): void {
  const patch = { ...(channel !== 'email' && { stopCall: on }), ...(channel !== 'call' && { stopEmail: on }) }
  context.change('setStop', 'prospect', prospect.id, patch, cause)
  if (!on) return
  const { stopCall, stopEmail } = context.state.prospect[prospect.id]!
  if (stopCall && stopEmail) {
    endAll(context, prospect, [], 'stopped', cause)
    return withdrawAll(context, context.state.prospect[prospect.id]!, cause)
  }
  if (stopEmail) withdrawEmail(context, prospect, cause)
  if (stopCall) withdrawTasks(context, prospect, ['call', 'call_back', 'text'], cause)
}
