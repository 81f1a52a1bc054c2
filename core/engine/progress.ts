import type { ExitReason, PhoneStatus, TaskKind } from '../enumerations'
import type { Id, Instant } from '../instant'
import { DAY } from '../instant'
import { stepAfter, stepBefore, stepInsteadOf, type Cadence, type Step } from '../cadence/steps'
import { stepTime } from '../cadence/plan'
import { afterWait } from '../cadence/wait'
import { nextCallable, nextWorkingMoment } from '../calendar/callingHours'
import { addBusinessDays } from '../calendar/local'
import { daysOf, dueAtOf, inWords } from '../queue/touchGoal'
import { gateLacks } from '../stage/gate'
import type { ReactionContext } from './reactionContext'
import type { Cause, Effect } from './effects'
import {
  attemptsOf,
  ofProspect,
  openEnrollments,
  placeOf,
  usableEmail,
  usablePhones,
  wasReached,
  type Enrollment,
  type Prospect,
  type EngineState,
  type Task,
  type Touch,
} from './engineState'
import { emailTypeOf, whyNoCall, whyNoEmail, whyStopped } from './stops'

/** The moves that several reactions share. Each records effects in the context and returns nothing but what it made. */

export function cadenceOf(context: ReactionContext, enrollment: Enrollment): Cadence | null {
  return context.playbook.cadences[enrollment.cadenceId] ?? null
}

/** The step an enrollment is at; null where that has been deleted. */
export function currentStep(cadence: Cadence, enrollment: Enrollment): Step | null {
  return cadence.steps.find((step) => step.id === enrollment.stepId) ?? null
}

/** Puts a piece of work on somebody's Desk. */
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
      zone: prospect.zone,
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
      phoneId: null,
      enrollmentId: null,
      stepId: null,
      messageId: null,
      ...made,
    },
    cause,
  )
  const first = context.playbook.firstTouch
  if (first && context.state.prospect[prospect.id]!.stageId === first.from) {
    context.change(
      'moveStage',
      'prospect',
      prospect.id,
      { stageId: first.to },
      { source: 'system_rule', summary: 'The first touch starts the work' },
    )
  }
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
  const lacks = given.override
    ? []
    : gateLacks(stage, gateFacts(context, prospect, given), context.playbook.customFields)
  for (const { field, message } of lacks) context.refuse(field, message)
  context.change('moveStage', 'prospect', prospect.id, { stageId: to }, cause)
  const law: Cause = { source: 'system_rule', summary: `${stage.name} is closed: nothing more is planned` }
  if (stage.kind === 'closed') {
    endAll(context, prospect, [], 'not_a_fit', law)
    withdrawAll(context, prospect, law)
  }
  if (stage.kind === 'won') replacePlans(context, prospect, ['first_contact', 'follow_up'], law)
}

/** Everything a gate looks at. */
export function gateFacts(
  context: ReactionContext,
  prospect: Prospect,
  given: { reason: string | null; note: string | null },
) {
  const { state } = context
  return {
    attempts: attemptsOf(state, prospect.id),
    reached: wasReached(state, prospect.id),
    reason: given.reason,
    note: given.note,
    fields: factsFor(context, prospect),
  }
}

/**
 * What gates may demand of a person: their own columns, an address and a number that can be used, the team's own
 * fields.
 */
function factsFor({ state }: ReactionContext, prospect: Prospect): Readonly<Record<string, unknown>> {
  const phone = ofProspect(state, 'phone', prospect.id).find(
    (one) => one.status === 'unverified' || one.status === 'correct',
  )
  return {
    ...prospect,
    email: usableEmail(state, prospect.id)?.address,
    phone: phone?.number,
    ...state.customValues[prospect.id],
  }
}

/** Takes back the open work an enrollment has put out: its task on a Desk, its mail that has not left. */
function withdraw(context: ReactionContext, enrollment: Enrollment, cause: Cause): void {
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
    for (const enrollment of openEnrollments(context.state, person.id)) {
      endEnrollment(context, enrollment, exit, cause)
    }
  }
}

/** Sends an enrollment on to the step after the one in hand, or ends it as finished after the last. */
export function advance(context: ReactionContext, prospect: Prospect, enrollment: Enrollment, cause: Cause): void {
  const cadence = cadenceOf(context, enrollment)
  const here = cadence && currentStep(cadence, enrollment)
  const next = cadence && (here ? stepAfter(cadence, here) : stepInsteadOf(cadence, enrollment.stepId))
  if (!cadence || !next) return endEnrollment(context, enrollment, 'finished', cause)
  const dueAt = afterWait(context.now, next.wait, placeOf(prospect), context.playbook.holidays)
  context.change('moveEnrollment', 'enrollment', enrollment.id, { status: 'waiting', stepId: next.id, dueAt }, cause)
}

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
    const made = ofProspect(context.state, 'emailMessage', prospect.id).some(
      (row) => row.enrollmentId === enrollment.id && row.stepId === step.id && row.status !== 'cancelled',
    )
    const impossible = made
      ? 'this email has gone out before'
      : (whyNotReachable(context, prospect, step.kind, cadence.cold) ??
        whyNotFollowing(context, enrollment, cadence, step))
    if (impossible) {
      const summary = `${step.name || step.kind}: left out, ${impossible}`
      const next = stepAfter(cadence, step)
      if (!next) return endEnrollment(context, enrollment, 'finished', { source: 'system_rule', summary })
      const dueAt = afterWait(context.now, next.wait, placeOf(prospect), context.playbook.holidays)
      context.change(
        'skipStep',
        'enrollment',
        enrollment.id,
        { status: 'waiting', stepId: next.id, dueAt },
        { source: 'system_rule', summary },
      )
      if (dueAt > context.now) return
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
const DONE_BY = { call: ['call', 'meeting'], email: ['email'], task: ['task'] } as const satisfies Record<
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

/**
 * Takes everything back that waits for somebody who is stopped: email that has not left, and open work but for meetings
 * that have been held.
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
}

/** Takes open calls back from somebody who may not be called any more; cadences that wait for one go on without it. */
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
 * Takes back email that has not left from somebody who takes none any more; cadences that wait for one go on without
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

/**
 * Whether work of an active enrollment's step is open: its task, its email that has not left, or a task about that
 * email.
 */
function hasOpenWork(state: EngineState, enrollment: Enrollment): boolean {
  const messages = ofProspect(state, 'emailMessage', enrollment.prospectId).filter(
    (row) => row.enrollmentId === enrollment.id,
  )
  return (
    messages.some((row) => row.status === 'queued' || row.status === 'sending') ||
    ofProspect(state, 'task', enrollment.prospectId).some(
      (task) =>
        task.status === 'open' &&
        (task.enrollmentId === enrollment.id || messages.some((row) => row.id === task.messageId)),
    )
  )
}

/**
 * Sends enrollments on whose step has nothing open any more: the work was done in another way, or the call back they
 * waited for is off.
 */
function moveStuckOn(context: ReactionContext, prospectId: Id): void {
  const waitsForCallBack = ofProspect(context.state, 'task', prospectId).some(
    (task) => task.status === 'open' && task.kind === 'call_back',
  )
  for (const enrollment of openEnrollments(context.state, prospectId)) {
    const stuck =
      enrollment.status === 'active'
        ? !hasOpenWork(context.state, enrollment)
        : enrollment.status === 'paused' && !waitsForCallBack
    if (!stuck) continue
    const cause: Cause = { source: 'system_rule', summary: 'Nothing of this step is open any more' }
    withdraw(context, enrollment, cause)
    advance(context, context.state.prospect[prospectId]!, enrollment, cause)
  }
}

/** Whom the effects concern: those they change, and everyone at a company whose status they change. */
export function concernedBy(context: ReactionContext, effects: readonly Effect[] = context.effects): Set<Id> {
  const concerned = new Set<Id>([context.event.prospectId])
  for (const effect of effects) {
    if (effect.entity === 'company') {
      for (const person of Object.values(context.state.prospect)) {
        if (person.companyId === effect.id) concerned.add(person.id)
      }
      continue
    }
    const row = context.state[effect.entity][effect.id]
    if (effect.entity === 'prospect') concerned.add(effect.id)
    else if (row && 'prospectId' in row) concerned.add(row.prospectId)
  }
  return concerned
}

/**
 * The law of no dead ends, for everybody the effects concern: an enrollment whose step has nothing open goes on, and
 * who stands in an open or paused stage without a task, a cadence that moves or email on its way gets one: new people a
 * first contact, others a follow-up (see `followUp`). People under a stop are left alone.
 */
export function closeDeadEnds(context: ReactionContext, concerned: ReadonlySet<Id> = concernedBy(context)): void {
  for (const id of concerned) {
    const prospect = context.state.prospect[id]
    if (!prospect) continue
    moveStuckOn(context, id)
    const underWay = ofProspect(context.state, 'emailMessage', id).some(
      (row) => row.status === 'queued' || row.status === 'sending',
    )
    if (!underWay) planNextAction(context, prospect)
  }
}

/**
 * Gives somebody in an open or paused stage a next action, unless they have one: a task that is open, or a cadence they
 * are in.
 */
export function planNextAction(context: ReactionContext, prospect: Prospect): void {
  const kind = context.playbook.stages[prospect.stageId]?.kind
  if ((kind !== 'open' && kind !== 'paused') || whyStopped(context.state, prospect, false)) return
  const busy =
    ofProspect(context.state, 'task', prospect.id).some((task) => task.status === 'open') ||
    openEnrollments(context.state, prospect.id).length > 0
  if (!busy) followUp(context, prospect, kind)
}

function followUp(context: ReactionContext, prospect: Prospect, stageKind: 'open' | 'paused'): void {
  const touches = ofProspect(context.state, 'touch', prospect.id)
  const written = ofProspect(context.state, 'emailMessage', prospect.id).some(
    (row) => row.status === 'queued' || row.status === 'sending',
  )
  if (!touches.length && !written && stageKind === 'open') {
    const law: Cause = { source: 'system_rule', summary: 'Nobody is forgotten: new people wait for a first contact' }
    makeTask(context, prospect, { kind: 'first_contact', priority: 3, title: FIRST_CONTACT, dueAt: context.now }, law)
    return
  }
  const { title, at, summary: summary } = followUpDate(context, prospect)
  const dueAt = workingMoment(context, prospect, at)
  makeTask(
    context,
    prospect,
    { kind: 'follow_up', priority: 2, title, dueAt },
    { source: 'system_rule', summary: `Nobody is forgotten: ${summary}` },
  )
}

/** What new people's first task is called. */
export const FIRST_CONTACT = 'First contact'
const [TRY_AGAIN, FOLLOW_UP] = ['Try again', 'Follow up']

/** Cancels a next action that nobody chose: what has just happened asks for another one. */
export function dropUnchosenPlan(context: ReactionContext, prospect: Prospect): void {
  for (const task of ofProspect(context.state, 'task', prospect.id)) {
    const unchosen =
      task.kind === 'first_contact' || (task.kind === 'follow_up' && [TRY_AGAIN, FOLLOW_UP].includes(task.title))
    if (task.status === 'open' && unchosen) {
      context.change(
        'cancelTask',
        'task',
        task.id,
        { status: 'cancelled', doneAt: context.now },
        { source: 'system_rule', summary: PLAN_REPLACED },
      )
    }
  }
}

/**
 * When somebody without a plan is taken up again: soon after an unanswered attempt, else by the touch goal of their
 * lists, else after the team's days.
 */
function followUpDate(context: ReactionContext, prospect: Prospect): { title: string; at: Instant; summary: string } {
  const { retryDays, fallbackDays, attemptsAllowed, holidays } = context.playbook
  // An attempt that does not count, because no call was made, is tried again soon all the same.
  const { event } = context
  const tried =
    event.kind === 'callLogged' &&
    event.prospectId === prospect.id &&
    context.playbook.outcomes[event.outcomeId]?.countsAs === 'attempt'
  if (tried && attemptsOf(context.state, prospect.id) < attemptsAllowed) {
    const at = addBusinessDays(context.now, retryDays, placeOf(prospect), holidays)
    return { title: TRY_AGAIN, at, summary: `another try after ${retryDays} business days` }
  }
  const goal = context.state.touchGoals[prospect.id]
  if (goal && daysOf(goal) < fallbackDays) {
    const at = dueAtOf({ listId: '', every: goal, lastAt: context.now, addedAt: context.now })
    return { title: FOLLOW_UP, at, summary: `their list’s touch goal is ${inWords(goal)}` }
  }
  return {
    title: FOLLOW_UP,
    at: context.now + fallbackDays * DAY,
    summary: `${fallbackDays} days where nothing else is planned`,
  }
}

/**
 * From `at` on, the first moment that is on a working day and in calling hours where they are; `at` itself where there
 * never is one.
 */
export function workingMoment(context: ReactionContext, prospect: Prospect, at: Instant): Instant {
  try {
    return nextWorkingMoment(at, context.playbook.callHours, placeOf(prospect), context.playbook.holidays)
  } catch {
    return at
  }
}
