import { perform } from '../actions/registry'
import { isZone } from '../places/isZone'
import type { ReactionContext } from './state/reactionContext'
import type { Cause } from './state/effects'
import type { DomainEvent, OutcomeDetails } from './state/events'
import type { Outcome } from './state/playbook'
import { cancelDelayed, STARTS } from './moves/delayed'
import { missingFields } from '../stage/gate'
import { factsFor } from './moves/gates'
import { cadenceOf, currentStep } from './moves/progress'
import { touch } from './moves/work'
import { dropUnchosenPlan } from './moves/nextAction'
import { nameOf } from './moves/referral'
import {
  fullName,
  ofProspect,
  openEnrollments,
  usablePhones,
  type Enrollment,
  type Prospect,
  type Task,
} from './state/engineState'

type CallLogged = Extract<DomainEvent, { kind: 'callLogged' }>

/** The open task a logged call answers: the one named, else what is due for this person by phone. */
export function taskInHand(context: ReactionContext, prospect: Prospect, taskId: string | null): Task | null {
  const open = ofProspect(context.state, 'task', prospect.id).filter((task) => task.status === 'open')
  if (taskId) return open.find((task) => task.id === taskId) ?? null
  return (
    open
      .filter((task) => ['call', 'call_back', 'follow_up', 'first_contact'].includes(task.kind))
      .filter((task) => task.dueAt <= context.now)
      .sort((a, b) => a.priority - b.priority || a.dueAt - b.dueAt)[0] ?? null
  )
}

/**
 * The enrollment a call belongs to: its task's, else the one that waits on a promised call, else the one waiting at a
 * call step.
 */
function enrollmentInHand(context: ReactionContext, prospect: Prospect, task: Task | null): Enrollment | null {
  const open = openEnrollments(context.state, prospect.id)
  const atCall = (row: Enrollment) => {
    const cadence = cadenceOf(context, row)
    return cadence !== null && currentStep(cadence, row)?.kind === 'call'
  }
  return (
    open.find((row) => row.id === task?.enrollmentId) ??
    open.find((row) => row.status === 'paused') ??
    open.find(atCall) ??
    null
  )
}

/** The call step's own task, where a call made early or by hand has done it. */
function stepTask(context: ReactionContext, enrollment: Enrollment | null): Task | null {
  if (enrollment?.status !== 'active') return null
  return (
    ofProspect(context.state, 'task', enrollment.prospectId).find(
      (task) =>
        task.status === 'open' &&
        task.kind === 'call' &&
        task.enrollmentId === enrollment.id &&
        task.stepId === enrollment.stepId,
    ) ?? null
  )
}

/** Checks what the outcome asks for; each lack becomes a problem at its field. */
export function checkDetails(
  context: ReactionContext,
  prospect: Prospect,
  outcome: Outcome,
  details: OutcomeDetails,
): void {
  for (const ask of outcome.requiredInputs) {
    if (ask === 'callBackAt' && details.callBackAt === undefined) {
      context.refuse('callBackAt', 'When should the call back be?')
    }
    if (ask === 'reason' && !details.reason?.trim()) context.refuse('reason', 'Which reason did they give?')
    if (ask === 'note' && !details.note?.trim()) context.refuse('note', 'This outcome requires a note')
    if (ask === 'meeting' && !details.meeting) context.refuse('meeting', 'When is the meeting?')
    // Who the right person is need not be known; but a number or an address is someone's.
    if (ask === 'referral' && (details.referral?.email || details.referral?.phone) && !nameOf(details.referral)) {
      context.refuse('referral', 'Enter their name')
    }
  }
  if (details.quality !== undefined && !context.playbook.callQualities.includes(details.quality)) {
    context.refuse('quality', 'Choose one of the team’s words for how it went')
  }
  const isAttempt = outcome.countsAs === 'attempt' && !outcome.requiredInputs.includes('note')
  if (isAttempt && context.playbook.attemptNotes && !details.note?.trim()) {
    context.refuse('note', 'A note is required with every attempt')
  }
  const known = factsFor(context, prospect)
  for (const { field, message } of missingFields(
    outcome.name,
    outcome.requiredFields,
    known,
    context.playbook.customFields,
  )) {
    context.refuse(field, message)
  }
  if (details.callBackAt !== undefined && details.callBackAt <= context.now) {
    context.refuse('callBackAt', 'Choose a time in the future')
  }
  if (details.callBackAt !== undefined && prospect.stopCall) {
    context.refuse('callBackAt', `${fullName(prospect)} asked for no calls`)
  }
  if (details.meeting && details.meeting.startAt <= context.now) {
    context.refuse('meeting', 'Choose a time in the future')
  }
  if (details.meeting && !isZone(details.meeting.timeZone)) {
    context.refuse('meeting', `Unknown time zone "${details.meeting.timeZone}"`)
  }
}

/** What the touch counts as: an attempt only where there was a call, unless the team counts every one. */
function countsAs(context: ReactionContext, outcome: Outcome, { call }: CallLogged): Outcome['countsAs'] {
  return outcome.countsAs === 'attempt' && !call && !context.playbook.countsUncalled ? 'none' : outcome.countsAs
}

/** What follows from a logged call: the touch, its task done, then every action of the outcome in order. */
export function onCallLogged(context: ReactionContext, event: CallLogged): void {
  const prospect = context.state.prospect[event.prospectId]!
  const outcome = context.playbook.outcomes[event.outcomeId]
  if (!outcome) return context.refuse('outcome', 'There is no such outcome')
  if (event.taskId && context.state.task[event.taskId]?.status !== 'open') {
    return context.refuse('task', 'Already handled')
  }
  if (event.phoneId && context.state.phone[event.phoneId]?.prospectId !== prospect.id) {
    context.refuse('phone', 'This number is not one of theirs')
  }
  checkDetails(context, prospect, outcome, event.details)
  if (context.problems.length) return
  const cause: Cause = { source: 'outcome', id: outcome.id }
  const asked = taskInHand(context, prospect, event.taskId)
  // An email that waits is not done by a call: it stays on the Desk.
  const given = asked?.kind === 'check_mail' ? null : asked
  const enrollment = enrollmentInHand(context, prospect, given)
  const task = given ?? stepTask(context, enrollment)
  const phoneId = event.phoneId ?? usablePhones(context.state, prospect.id)[0]?.id ?? null
  touch(
    context,
    prospect,
    {
      kind: task?.kind === 'meeting_result' ? 'meeting' : 'call',
      countsAs: countsAs(context, outcome, event),
      outcomeId: outcome.id,
      phoneId,
      reason: event.details.reason?.trim() || null,
      quality: event.details.quality ?? null,
      succeeded: event.details.succeeded ?? null,
      enrollmentId: enrollment?.id ?? null,
      stepId: enrollment?.stepId ?? null,
    },
    cause,
  )
  if (task) context.change('finishTask', 'task', task.id, { status: 'done', doneAt: context.now }, cause)
  dropUnchosenPlan(context, prospect)
  // Now that they were spoken to, what was scheduled because they were not is off.
  if (outcome.countsAs === 'conversation') cancelDelayed(context, prospect, STARTS, cause)
  const now = context.state.prospect[prospect.id]!
  const { details } = event
  const stageBefore = prospect.stageId
  perform({ context, prospect: now, stageBefore, enrollment, phoneId, details, outcome, cause }, outcome.actions)
}
