import type { StepKind } from '../../enumerations'
import type { Id, Instant } from '../../instant'
import { nextStep, stepBefore } from '../../cadence/route'
import { stepInsteadOf, type Cadence, type Step } from '../../cadence/steps'
import { stepTime } from '../../cadence/plan'
import { nextCallable } from '../../calendar/callingHours'
import { senderPlace } from '../../calendar/sendingWindow'
import type { Barrier } from '../state/causes'
import type { Cause } from '../state/effects'
import { ofProspect, placeOf, usableEmail, type Enrollment, type Prospect, type Touch } from '../state/engineState'
import type { ReactionContext } from '../state/reactionContext'
import { wayTaken } from './branches'
import { cadenceOf, currentStep, endEnrollment, takesWay, waitFor } from './progress'
import { stepBarrier, stopOf } from './stops'
import { makeTask } from './work'

/** Does the step an enrollment has come to: queues its mail or puts its work on the Desk. */
export function issueStep(context: ReactionContext, enrollmentId: Id): void {
  for (;;) {
    const enrollment = context.state.enrollment[enrollmentId]!
    const prospect = context.state.prospect[enrollment.prospectId]!
    const cadence = cadenceOf(context, enrollment)
    const step = cadence && (currentStep(cadence, enrollment) ?? stepInsteadOf(cadence, enrollment.stepId))
    if (!cadence || !step) {
      return endEnrollment(context, enrollment, 'finished', {
        source: 'cadence',
        id: enrollment.cadenceId,
        rule: 'noStepLeft',
      })
    }
    const cause: Cause = { source: 'step', id: step.id }
    const stop = stopOf(context.state, prospect, cadence.cold)
    if (stop) {
      return endEnrollment(context, enrollment, 'stopped', { source: 'system_rule', rule: 'stopped', values: { stop } })
    }
    if (step.kind === 'branch') {
      const way = wayTaken(context, enrollment, step)
      if (!way) throw new Error(`What the ways of “${step.name}” ask was not read`)
      const next = nextStep(cadence, step, way)
      const because = takesWay(step, way)
      if (!next) return endEnrollment(context, enrollment, 'finished', because)
      const dueAt = waitFor(context, prospect, enrollment, cadence, next, 'moveEnrollment', because)
      if (dueAt === null || dueAt > context.now) return
      continue
    }
    const made = ofProspect(context.state, 'emailMessage', prospect.id).some(
      (row) => row.enrollmentId === enrollment.id && row.stepId === step.id && row.status !== 'cancelled',
    )
    const barrier = made
      ? 'sent_before'
      : (unreachable(context, prospect, step.kind, cadence) ?? notFollowing(context, enrollment, cadence, step))
    if (barrier) {
      const next = nextStep(cadence, step)
      const skipped: Cause = { source: 'system_rule', rule: 'stepLeftOut', values: { stepId: step.id, barrier } }
      if (!next) return endEnrollment(context, enrollment, 'finished', skipped)
      const dueAt = waitFor(context, prospect, enrollment, cadence, next, 'skipStep', skipped)
      if (dueAt === null || dueAt > context.now) return
      continue
    }
    const at = stepTime(step.kind, context.now, cadence, {
      teamHours: context.playbook.callHours,
      place: placeOf(prospect),
      sender: senderPlace(context.playbook, prospect.ownerId ?? enrollment.byId),
      holidays: context.playbook.holidays,
    })
    if (step.kind === 'email' && !step.review) queueStepEmail(context, prospect, enrollment, step, at, cause)
    else issueStepTask(context, prospect, enrollment, step, at, cause)
    return context.change(
      'moveEnrollment',
      'enrollment',
      enrollment.id,
      { status: 'active', stepId: step.id, dueAt: null },
      cause,
    )
  }
}

/**
 * Why a step of a kind cannot be done for a prospect at all, as a part of a sentence; null where it can. A call or a
 * text is left out where there is no hour in which both the team and the law there allow it.
 */
function unreachable(context: ReactionContext, prospect: Prospect, kind: StepKind, cadence: Cadence): Barrier | null {
  const why = stepBarrier(context.state, prospect, kind, cadence)
  if (why || (kind !== 'call' && kind !== 'text')) return why
  try {
    nextCallable(context.now, context.playbook.callHours, placeOf(prospect), context.playbook.holidays)
    return null
  } catch {
    return 'no_calling_hours'
  }
}

/** What counts as having done a step of a kind: the call was logged, the email left, the task was ticked off. */
const DONE_BY = {
  call: ['call', 'meeting'],
  email: ['email'],
  text: ['text'],
  social: ['social'],
  task: ['task'],
  meeting: ['meeting'],
  branch: [],
} as const satisfies Record<StepKind, readonly Touch['kind'][]>

/** Why a step that requires the one before it is left out: that one was not done. Null where it was, or need not be. */
function notFollowing(context: ReactionContext, enrollment: Enrollment, cadence: Cadence, step: Step): Barrier | null {
  const before = step.requiresPrevious ? stepBefore(cadence, step) : null
  if (!before) return null
  const kinds: readonly Touch['kind'][] = DONE_BY[before.kind]
  const done = ofProspect(context.state, 'touch', enrollment.prospectId).some(
    (touch) => touch.enrollmentId === enrollment.id && touch.stepId === before.id && kinds.includes(touch.kind),
  )
  return done ? null : 'step_before_not_done'
}

function queueStepEmail(
  context: ReactionContext,
  prospect: Prospect,
  enrollment: Enrollment,
  step: Step,
  sendAt: Instant,
  cause: Cause,
): void {
  const earlier = ofProspect(context.state, 'emailMessage', prospect.id).find(
    (row) => row.enrollmentId === enrollment.id && row.stepId === step.id,
  )
  const emailAddressId = usableEmail(context.state, prospect.id)!.id
  if (earlier) {
    return context.change('queueEmail', 'emailMessage', earlier.id, { status: 'queued', sendAt, emailAddressId }, cause)
  }
  context.create(
    'queueEmail',
    'emailMessage',
    {
      id: context.newId(),
      prospectId: prospect.id,
      kind: 'step',
      enrollmentId: enrollment.id,
      stepId: step.id,
      meetingId: null,
      emailAddressId,
      senderId: prospect.ownerId ?? enrollment.byId,
      status: 'queued',
      sendAt,
      sentAt: null,
      openedAt: null,
      clickedAt: null,
    },
    cause,
  )
}

function issueStepTask(
  context: ReactionContext,
  prospect: Prospect,
  enrollment: Enrollment,
  step: Step,
  dueAt: Instant,
  cause: Cause,
): void {
  const earlier = ofProspect(context.state, 'task', prospect.id).find(
    (row) => row.enrollmentId === enrollment.id && row.stepId === step.id,
  )
  if (earlier) return context.change('createTask', 'task', earlier.id, { status: 'open', doneAt: null, dueAt }, cause)
  makeTask(
    context,
    prospect,
    {
      kind: step.kind === 'branch' ? 'task' : step.kind,
      priority: 2,
      title: step.name,
      dueAt,
      enrollmentId: enrollment.id,
      stepId: step.id,
      ownerId: prospect.ownerId ?? enrollment.byId,
    },
    cause,
  )
}
