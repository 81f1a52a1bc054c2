import type { ExitReason, TaskKind } from '../../enumerations'
import type { Id, Instant } from '../../instant'
import { nextStep, stepBefore } from '../../cadence/route'
import { stepInsteadOf, type Cadence, type Step, type Way } from '../../cadence/steps'
import { stepTime } from '../../cadence/plan'
import { afterWait } from '../../cadence/wait'
import { nextCallable } from '../../calendar/callingHours'
import type { ReactionContext } from '../state/reactionContext'
import type { Cause } from '../state/effects'
import {
  ofProspect,
  openEnrollments,
  placeOf,
  usableEmail,
  type Enrollment,
  type Prospect,
  type Task,
  type Touch,
} from '../state/engineState'
import { emailTypeOf, whyNoCall, whyNoEmail, whyStopped } from './stops'
import { wayTaken } from './branches'
import { cancelDelayed, STARTS } from './delayed'
import { gateFacts, lackingAt, startWork } from './gates'
import { withdraw, withdrawAll } from './withdraw'

/** The moves that several reactions share. Each records effects in the context and returns nothing but what it made. */

export function cadenceOf(context: ReactionContext, enrollment: Enrollment): Cadence | null {
  return context.playbook.cadences[enrollment.cadenceId] ?? null
}

/** The step an enrollment is at; null where that has been deleted. */
export function currentStep(cadence: Cadence, enrollment: Enrollment): Step | null {
  return cadence.steps.find((step) => step.id === enrollment.stepId) ?? null
}

/** Puts a piece of work on someone's Desk. */
export function makeTask(
  context: ReactionContext,
  prospect: Prospect,
  task: {
    kind: TaskKind
    priority: number
    title: string
    dueAt: Instant
    enrollmentId?: Id
    stepId?: Id
    messageId?: Id
    ownerId?: Id | null
  },
  cause: Cause,
): Task {
  return context.create(
    'createTask',
    'task',
    {
      id: context.newId(),
      prospectId: prospect.id,
      ownerId: task.ownerId ?? prospect.ownerId ?? context.event.actorId,
      kind: task.kind,
      priority: task.priority,
      title: task.title,
      dueAt: task.dueAt,
      status: 'open',
      doneAt: null,
      enrollmentId: task.enrollmentId ?? null,
      stepId: task.stepId ?? null,
      messageId: task.messageId ?? null,
      timeZone: prospect.timeZone,
    },
    cause,
  )
}

/** Why a plan is off where a newer one has taken its place. */
export const PLAN_REPLACED = 'A newer plan has taken its place'

/** Cancels open plans of the kinds given that belong to no cadence: what is planned now takes their place. */
export function replacePlans(
  context: ReactionContext,
  prospect: Prospect,
  kinds: readonly TaskKind[],
  cause: Cause,
): void {
  for (const task of ofProspect(context.state, 'task', prospect.id)) {
    if (task.status !== 'open' || task.enrollmentId !== null || !kinds.includes(task.kind)) continue
    context.change('cancelTask', 'task', task.id, { status: 'cancelled', doneAt: context.now }, cause)
  }
}

/** Writes down a touch; the first one takes a new person to the stage the playbook names. */
export function touch(
  context: ReactionContext,
  prospect: Prospect,
  made: Pick<Touch, 'kind' | 'countsAs'> & Partial<Touch>,
  cause: Cause,
): void {
  context.create(
    'recordTouch',
    'touch',
    {
      id: context.newId(),
      prospectId: prospect.id,
      at: context.now,
      userId: context.event.actorId,
      outcomeId: null,
      reason: null,
      quality: null,
      succeeded: null,
      phoneId: null,
      enrollmentId: null,
      stepId: null,
      messageId: null,
      ...made,
    },
    cause,
  )
  startWork(context, prospect)
}

/** Moves a person to a stage through its gate. What the gate lacks becomes a problem unless it is overridden. */
export function moveStage(
  context: ReactionContext,
  prospect: Prospect,
  to: Id,
  given: { reason: string | null; note: string | null; override?: string | null },
  cause: Cause,
): void {
  const stage = context.playbook.stages[to]
  if (!stage) return context.refuse('stage', 'There is no such stage')
  if (prospect.stageId === to) return
  if (stage.archived) return context.refuse('stage', `${stage.name} is archived`)
  const missing = given.override ? [] : lackingAt(context, stage, gateFacts(context, prospect, given))
  for (const { field, message } of missing) context.refuse(field, message)
  context.change('moveStage', 'prospect', prospect.id, { stageId: to }, cause)
  const law: Cause = { source: 'system_rule', summary: `${stage.name} is closed: nothing more is planned` }
  if (stage.kind === 'closed') {
    endAll(context, prospect, [], 'not_a_fit', law)
    withdrawAll(context, prospect, law)
  }
  if (stage.kind === 'won') replacePlans(context, prospect, ['first_contact', 'follow_up'], law)
}

/** Ends an enrollment and takes its open work back. */
export function endEnrollment(context: ReactionContext, enrollment: Enrollment, exit: ExitReason, cause: Cause): void {
  if (enrollment.status === 'ended') return
  context.change(
    'endEnrollment',
    'enrollment',
    enrollment.id,
    { status: 'ended', dueAt: null, endedAt: context.now, exit },
    cause,
  )
  withdraw(context, enrollment, cause)
}

/** Ends every open enrollment of the person; and with `company`, of everyone there. Returns nobody twice. */
export function endAll(
  context: ReactionContext,
  prospect: Prospect,
  people: readonly Prospect[],
  exit: ExitReason,
  cause: Cause,
): void {
  for (const person of [prospect, ...people]) {
    cancelDelayed(context, person, STARTS, cause)
    for (const enrollment of openEnrollments(context.state, person.id)) {
      endEnrollment(context, enrollment, exit, cause)
    }
  }
}

/** Sends an enrollment on to the step after the one in hand, or ends it as finished after the last. */
export function advance(context: ReactionContext, prospect: Prospect, enrollment: Enrollment, cause: Cause): void {
  const cadence = cadenceOf(context, enrollment)
  const here = cadence && currentStep(cadence, enrollment)
  const next = cadence && (here ? nextStep(cadence, here) : stepInsteadOf(cadence, enrollment.stepId))
  if (!cadence || !next) return endEnrollment(context, enrollment, 'finished', cause)
  waitFor(context, prospect, enrollment, cadence, next, 'moveEnrollment', cause)
}

/**
 * Lets an enrollment wait for a step. A branch that is decided at once is gone through, where what its ways ask is
 * known; the step behind it is the one that is waited for. Gives when it falls due; null where the cadence is through.
 */
function waitFor(
  context: ReactionContext,
  prospect: Prospect,
  enrollment: Enrollment,
  cadence: Cadence,
  step: Step,
  kind: 'moveEnrollment' | 'skipStep',
  cause: Cause,
): Instant | null {
  const dueAt = afterWait(context.now, step.wait, placeOf(prospect), context.playbook.holidays)
  const way = step.kind === 'branch' && dueAt <= context.now ? wayTaken(context, enrollment, step) : null
  if (!way) {
    context.change(kind, 'enrollment', enrollment.id, { status: 'waiting', stepId: step.id, dueAt }, cause)
    return dueAt
  }
  const next = nextStep(cadence, step, way)
  const because = takesWay(step, way)
  if (next) return waitFor(context, prospect, enrollment, cadence, next, 'moveEnrollment', because)
  endEnrollment(context, enrollment, 'finished', because)
  return null
}

/** Why an enrollment goes on as it does behind a branch. */
const takesWay = (branch: Step, way: Way): Cause => ({
  source: 'step',
  id: branch.id,
  summary: `“${branch.name || 'Branch'}”: ${way.name || 'otherwise'}`,
})

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
        summary: 'No step is left',
      })
    }
    const cause: Cause = { source: 'step', id: step.id }
    const stopped = whyStopped(context.state, prospect, cadence.cold)
    if (stopped) return endEnrollment(context, enrollment, 'stopped', { source: 'system_rule', summary: stopped })
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
    const impossible = made
      ? 'this email has gone out before'
      : (whyNotReachable(context, prospect, step.kind, cadence.cold) ??
        whyNotFollowing(context, enrollment, cadence, step))
    if (impossible) {
      const summary = `${step.name || step.kind}: left out, ${impossible}`
      const next = nextStep(cadence, step)
      const skipped: Cause = { source: 'system_rule', summary }
      if (!next) return endEnrollment(context, enrollment, 'finished', skipped)
      const dueAt = waitFor(context, prospect, enrollment, cadence, next, 'skipStep', skipped)
      if (dueAt === null || dueAt > context.now) return
      continue
    }
    const at = stepTime(
      step.kind,
      context.now,
      cadence,
      context.playbook.callHours,
      placeOf(prospect),
      context.playbook.holidays,
    )
    if (step.kind === 'email') queueStepEmail(context, prospect, enrollment, step, at, cause)
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

/** Why a step of a kind cannot be done for a prospect at all, as a sentence's part; null where it can. */
function whyNotReachable(context: ReactionContext, prospect: Prospect, kind: string, cold: boolean): string | null {
  if (kind === 'email') return whyNoEmail(context.state, prospect, emailTypeOf(cold))
  return kind === 'call' ? whyNoCallStep(context, prospect) : null
}

/** What counts as having done a step of a kind: the call was logged, the email left, the task was ticked off. */
const DONE_BY = { call: ['call', 'meeting'], email: ['email'], task: ['task'], branch: [] } as const satisfies Record<
  Step['kind'],
  readonly Touch['kind'][]
>

/** Why a step that requires the one before it is left out: that one was not done. Null where it was, or need not be. */
function whyNotFollowing(
  context: ReactionContext,
  enrollment: Enrollment,
  cadence: Cadence,
  step: Step,
): string | null {
  const before = step.requiresPrevious ? stepBefore(cadence, step) : null
  if (!before) return null
  const kinds: readonly Touch['kind'][] = DONE_BY[before.kind]
  const done = ofProspect(context.state, 'touch', enrollment.prospectId).some(
    (touch) => touch.enrollmentId === enrollment.id && touch.stepId === before.id && kinds.includes(touch.kind),
  )
  return done ? null : `“${before.name || before.kind}” was not done`
}

/**
 * Why a call step is left out: nobody may be called, or there is no hour in which both the team and the law where they
 * are allow it.
 */
function whyNoCallStep(context: ReactionContext, prospect: Prospect): string | null {
  const why = whyNoCall(context.state, prospect)
  if (why) return why
  try {
    nextCallable(context.now, context.playbook.callHours, placeOf(prospect), context.playbook.holidays)
    return null
  } catch {
    return 'the team’s hours never fall into calling hours where they are'
  }
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
      kind: step.kind === 'call' ? 'call' : 'task',
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
