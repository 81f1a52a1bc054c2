import type { Id, Instant } from '../instant'
import { DAY } from '../instant'
import { stepAfter, stepInsteadOf, type Cadence, type Step } from '../cadence/steps'
import { happensAt } from '../cadence/plan'
import { afterWait } from '../cadence/wait'
import { nextCallable, nextWorkingMoment } from '../calendar/callingHours'
import { addBusinessDays } from '../calendar/local'
import { daysOf, dueAtOf, inWords } from '../queue/promise'
import { gateLacks } from '../stage/gate'
import type { Course } from './course'
import type { Because, Effect } from './effects'
import {
  attemptsOf,
  ofProspect,
  openEnrollments,
  placeOf,
  usableEmail,
  usablePhones,
  wasReached,
  type Enrollment,
  type ExitReason,
  type Prospect,
  type Situation,
  type Task,
  type TaskKind,
  type Touch,
} from './situation'
import { mailKindOf, whyNoCall, whyNoEmail, whyStopped } from './stops'

/** The moves that several reactions share. Each records effects on the course and returns nothing but what it made. */

export function cadenceOf(course: Course, enrollment: Enrollment): Cadence | null {
  return course.playbook.cadences[enrollment.cadenceId] ?? null
}

/** The step an enrollment is at; null where that has been deleted. */
export function currentStep(cadence: Cadence, enrollment: Enrollment): Step | null {
  return cadence.steps.find((step) => step.id === enrollment.stepId) ?? null
}

/** Puts a piece of work on somebody's Desk. */
export function makeTask(
  course: Course,
  prospect: Prospect,
  task: {
    kind: TaskKind
    lane: number
    title: string
    dueAt: Instant
    enrollmentId?: Id
    stepId?: Id
    messageId?: Id
    ownerId?: Id | null
  },
  because: Because,
): Task {
  return course.create(
    'createTask',
    'task',
    {
      id: course.newId(),
      prospectId: prospect.id,
      ownerId: task.ownerId ?? prospect.ownerId ?? course.happening.actorId,
      kind: task.kind,
      lane: task.lane,
      title: task.title,
      dueAt: task.dueAt,
      state: 'open',
      doneAt: null,
      enrollmentId: task.enrollmentId ?? null,
      stepId: task.stepId ?? null,
      messageId: task.messageId ?? null,
      zone: prospect.zone,
    },
    because,
  )
}

/** Why a plan is off where a newer one has taken its place. */
export const PLAN_REPLACED = 'A newer plan has taken its place'

/** Cancels open plans of the kinds given that belong to no cadence: what is planned now takes their place. */
export function replacePlans(course: Course, prospect: Prospect, kinds: readonly TaskKind[], because: Because): void {
  for (const task of ofProspect(course.situation, 'task', prospect.id)) {
    if (task.state !== 'open' || task.enrollmentId !== null || !kinds.includes(task.kind)) continue
    course.change('cancelTask', 'task', task.id, { state: 'cancelled', doneAt: course.now }, because)
  }
}

/** Writes down a touch; the first one takes a new person to the stage the playbook names. */
export function touch(
  course: Course,
  prospect: Prospect,
  made: Pick<Touch, 'kind' | 'countsAs'> & Partial<Touch>,
  because: Because,
): void {
  course.create(
    'recordTouch',
    'touch',
    {
      id: course.newId(),
      prospectId: prospect.id,
      at: course.now,
      userId: course.happening.actorId,
      outcomeId: null,
      reason: null,
      phoneId: null,
      enrollmentId: null,
      stepId: null,
      messageId: null,
      ...made,
    },
    because,
  )
  const first = course.playbook.firstTouch
  if (first && course.situation.prospect[prospect.id]!.stageId === first.from) {
    course.change(
      'moveStage',
      'prospect',
      prospect.id,
      { stageId: first.to },
      { by: 'law', says: 'The first touch starts the work' },
    )
  }
}

/** Moves a person to a stage through its gate. What the gate lacks becomes a problem unless it is overridden. */
export function moveStage(
  course: Course,
  prospect: Prospect,
  to: Id,
  given: { reason: string | null; note: string | null; override?: string | null },
  because: Because,
): void {
  const stage = course.playbook.stages[to]
  if (!stage) return course.refuse('stage', 'There is no such stage')
  if (prospect.stageId === to) return
  if (stage.archived) return course.refuse('stage', `${stage.name} is archived`)
  const lacks = given.override ? [] : gateLacks(stage, gateFacts(course, prospect, given), course.playbook.ownFields)
  for (const { field, message } of lacks) course.refuse(field, message)
  course.change('moveStage', 'prospect', prospect.id, { stageId: to }, because)
  const law: Because = { by: 'law', says: `${stage.name} is closed: nothing more is planned` }
  if (stage.kind === 'closed') {
    endAll(course, prospect, [], 'not_a_fit', law)
    withdrawAll(course, prospect, law)
  }
  if (stage.kind === 'won') replacePlans(course, prospect, ['first_contact', 'follow_up'], law)
}

/** Everything a gate looks at. */
export function gateFacts(course: Course, prospect: Prospect, given: { reason: string | null; note: string | null }) {
  const { situation } = course
  return {
    attempts: attemptsOf(situation, prospect.id),
    reached: wasReached(situation, prospect.id),
    reason: given.reason,
    note: given.note,
    fields: factsFor(course, prospect),
  }
}

/**
 * What gates may demand of a person: their own columns, an address and a number that can be used, the team's own
 * fields.
 */
function factsFor({ situation }: Course, prospect: Prospect): Readonly<Record<string, unknown>> {
  const phone = ofProspect(situation, 'phone', prospect.id).find(
    (one) => one.standing === 'unverified' || one.standing === 'correct',
  )
  return {
    ...prospect,
    email: usableEmail(situation, prospect.id)?.address,
    phone: phone?.number,
    ...situation.own[prospect.id],
  }
}

/** Takes back the open work an enrollment has put out: its task on a Desk, its mail that has not left. */
function withdraw(course: Course, enrollment: Enrollment, because: Because): void {
  for (const task of ofProspect(course.situation, 'task', enrollment.prospectId)) {
    if (task.enrollmentId === enrollment.id && task.state === 'open') {
      course.change('cancelTask', 'task', task.id, { state: 'cancelled', doneAt: course.now }, because)
    }
  }
  for (const message of ofProspect(course.situation, 'message', enrollment.prospectId)) {
    if (message.enrollmentId === enrollment.id && (message.state === 'queued' || message.state === 'held')) {
      course.change('cancelEmail', 'message', message.id, { state: 'cancelled' }, because)
    }
  }
}

/** Ends an enrollment and takes its open work back. */
export function endEnrollment(course: Course, enrollment: Enrollment, exit: ExitReason, because: Because): void {
  if (enrollment.state === 'ended') return
  course.change(
    'endEnrollment',
    'enrollment',
    enrollment.id,
    { state: 'ended', dueAt: null, endedAt: course.now, exit },
    because,
  )
  withdraw(course, enrollment, because)
}

/** Ends every open enrollment of the person; and with `company`, of everyone there. Returns nobody twice. */
export function endAll(
  course: Course,
  prospect: Prospect,
  people: readonly Prospect[],
  exit: ExitReason,
  because: Because,
): void {
  for (const person of [prospect, ...people]) {
    for (const enrollment of openEnrollments(course.situation, person.id)) {
      endEnrollment(course, enrollment, exit, because)
    }
  }
}

/** Sends an enrollment on to the step after the one in hand, or ends it as finished after the last. */
export function advance(course: Course, prospect: Prospect, enrollment: Enrollment, because: Because): void {
  const cadence = cadenceOf(course, enrollment)
  const here = cadence && currentStep(cadence, enrollment)
  const next = cadence && (here ? stepAfter(cadence, here) : stepInsteadOf(cadence, enrollment.stepId))
  if (!cadence || !next) return endEnrollment(course, enrollment, 'finished', because)
  const dueAt = afterWait(course.now, next.wait, placeOf(prospect), course.playbook.holidays)
  course.change('moveEnrollment', 'enrollment', enrollment.id, { state: 'waiting', stepId: next.id, dueAt }, because)
}

/** Does the step an enrollment has come to: queues its mail or puts its work on the Desk. */
export function issueStep(course: Course, enrollmentId: Id): void {
  for (;;) {
    const enrollment = course.situation.enrollment[enrollmentId]!
    const prospect = course.situation.prospect[enrollment.prospectId]!
    const cadence = cadenceOf(course, enrollment)
    const step = cadence && (currentStep(cadence, enrollment) ?? stepInsteadOf(cadence, enrollment.stepId))
    if (!cadence || !step) {
      return endEnrollment(course, enrollment, 'finished', {
        by: 'cadence',
        id: enrollment.cadenceId,
        says: 'No step is left',
      })
    }
    const because: Because = { by: 'step', id: step.id }
    const stopped = whyStopped(course.situation, prospect, cadence.cold)
    if (stopped) return endEnrollment(course, enrollment, 'stopped', { by: 'law', says: stopped })
    const made = ofProspect(course.situation, 'message', prospect.id).some(
      (row) => row.enrollmentId === enrollment.id && row.stepId === step.id && row.state !== 'cancelled',
    )
    const unreachable = whyNotReachable(course, prospect, step.kind, cadence.cold)
    const impossible = made ? 'this email has gone out before' : unreachable
    if (impossible) {
      const says = `${step.name || step.kind}: left out, ${impossible}`
      const next = stepAfter(cadence, step)
      if (!next) return endEnrollment(course, enrollment, 'finished', { by: 'law', says })
      const dueAt = afterWait(course.now, next.wait, placeOf(prospect), course.playbook.holidays)
      course.change(
        'skipStep',
        'enrollment',
        enrollment.id,
        { state: 'waiting', stepId: next.id, dueAt },
        { by: 'law', says },
      )
      if (dueAt > course.now) return
      continue
    }
    const at = happensAt(
      step.kind,
      course.now,
      cadence,
      course.playbook.callHours,
      placeOf(prospect),
      course.playbook.holidays,
    )
    if (step.kind === 'email') queueStepEmail(course, prospect, enrollment, step, at, because)
    else issueStepTask(course, prospect, enrollment, step, at, because)
    return course.change(
      'moveEnrollment',
      'enrollment',
      enrollment.id,
      { state: 'active', stepId: step.id, dueAt: null },
      because,
    )
  }
}

/**
 * Why a call step is left out: nobody may be called, or there is no hour in which both the team and the law where they
 * are allow it.
 */
/** Why a step of a kind cannot be done for a prospect at all, as a sentence's part; null where it can. */
function whyNotReachable(course: Course, prospect: Prospect, kind: string, cold: boolean): string | null {
  if (kind === 'email') return whyNoEmail(course.situation, prospect, mailKindOf(cold))
  return kind === 'call' ? whyNoCallStep(course, prospect) : null
}

function whyNoCallStep(course: Course, prospect: Prospect): string | null {
  const why = whyNoCall(course.situation, prospect)
  if (why) return why
  try {
    nextCallable(course.now, course.playbook.callHours, placeOf(prospect), course.playbook.holidays)
    return null
  } catch {
    return 'the team’s hours never fall into calling hours where they are'
  }
}

function queueStepEmail(
  course: Course,
  prospect: Prospect,
  enrollment: Enrollment,
  step: Step,
  sendAt: Instant,
  because: Because,
): void {
  const earlier = ofProspect(course.situation, 'message', prospect.id).find(
    (row) => row.enrollmentId === enrollment.id && row.stepId === step.id,
  )
  const emailId = usableEmail(course.situation, prospect.id)!.id
  if (earlier) return course.change('queueEmail', 'message', earlier.id, { state: 'queued', sendAt, emailId }, because)
  course.create(
    'queueEmail',
    'message',
    {
      id: course.newId(),
      prospectId: prospect.id,
      kind: 'step',
      enrollmentId: enrollment.id,
      stepId: step.id,
      appointmentId: null,
      emailId,
      senderId: prospect.ownerId ?? enrollment.byId,
      state: 'queued',
      sendAt,
      sentAt: null,
    },
    because,
  )
}

function issueStepTask(
  course: Course,
  prospect: Prospect,
  enrollment: Enrollment,
  step: Step,
  dueAt: Instant,
  because: Because,
): void {
  const earlier = ofProspect(course.situation, 'task', prospect.id).find(
    (row) => row.enrollmentId === enrollment.id && row.stepId === step.id,
  )
  if (earlier) return course.change('createTask', 'task', earlier.id, { state: 'open', doneAt: null, dueAt }, because)
  makeTask(
    course,
    prospect,
    {
      kind: step.kind === 'call' ? 'call' : 'task',
      lane: 2,
      title: step.name,
      dueAt,
      enrollmentId: enrollment.id,
      stepId: step.id,
      ownerId: prospect.ownerId ?? enrollment.byId,
    },
    because,
  )
}

/**
 * Takes everything back that waits for somebody who is stopped: email that has not left, and open work but for meetings
 * that have been held.
 */
export function withdrawAll(course: Course, prospect: Prospect, because: Because): void {
  for (const message of ofProspect(course.situation, 'message', prospect.id)) {
    if (message.state === 'queued' || message.state === 'held') {
      course.change('cancelEmail', 'message', message.id, { state: 'cancelled' }, because)
    }
  }
  for (const task of ofProspect(course.situation, 'task', prospect.id)) {
    if (task.state === 'open' && task.kind !== 'meeting_result') {
      course.change('cancelTask', 'task', task.id, { state: 'cancelled', doneAt: course.now }, because)
    }
  }
}

/** Takes open calls back from somebody who may not be called any more; cadences that wait for one go on without it. */
export function withdrawCalls(course: Course, prospect: Prospect, because: Because): void {
  for (const task of ofProspect(course.situation, 'task', prospect.id)) {
    if (task.state !== 'open' || (task.kind !== 'call' && task.kind !== 'call_back')) continue
    course.change('cancelTask', 'task', task.id, { state: 'cancelled', doneAt: course.now }, because)
    const enrollment = task.enrollmentId
      ? course.situation.enrollment[task.enrollmentId]
      : openEnrollments(course.situation, prospect.id).find((row) => row.state === 'paused')
    if (enrollment && enrollment.state !== 'ended' && enrollment.state !== 'waiting') {
      advance(course, prospect, enrollment, because)
    }
  }
}

/**
 * Takes back email that has not left from somebody who takes none any more; cadences that wait for one go on without
 * it.
 */
export function withdrawEmail(course: Course, prospect: Prospect, because: Because): void {
  for (const message of ofProspect(course.situation, 'message', prospect.id)) {
    if (message.state !== 'queued' && message.state !== 'held') continue
    course.change('cancelEmail', 'message', message.id, { state: 'cancelled' }, because)
    const enrollment = message.enrollmentId ? course.situation.enrollment[message.enrollmentId] : null
    if (enrollment?.state === 'active' && enrollment.stepId === message.stepId) {
      advance(course, prospect, enrollment, because)
    }
  }
}

/** Marks a number. Where that leaves none to call, open calls are taken back. */
export function markNumber(
  course: Course,
  prospect: Prospect,
  phoneId: Id,
  standing: 'unverified' | 'correct' | 'wrong' | 'disconnected' | 'do_not_call',
  because: Because,
): void {
  course.change('markNumber', 'phone', phoneId, { standing }, because)
  if (!usablePhones(course.situation, prospect.id).length) withdrawCalls(course, prospect, because)
}

/** A stop on a company is a stop for everyone there: their cadences end and what waits for them is taken back. */
export function stopCompany(course: Course, people: readonly Prospect[], exit: ExitReason, because: Because): void {
  for (const person of people) {
    for (const enrollment of openEnrollments(course.situation, person.id)) {
      endEnrollment(course, enrollment, exit, because)
    }
    withdrawAll(course, person, because)
  }
}

/**
 * Whether work of an active enrollment's step is open: its task, its email that has not left, or a task about that
 * email.
 */
function hasOpenWork(situation: Situation, enrollment: Enrollment): boolean {
  const messages = ofProspect(situation, 'message', enrollment.prospectId).filter(
    (row) => row.enrollmentId === enrollment.id,
  )
  return (
    messages.some((row) => row.state === 'queued' || row.state === 'sending') ||
    ofProspect(situation, 'task', enrollment.prospectId).some(
      (task) =>
        task.state === 'open' &&
        (task.enrollmentId === enrollment.id || messages.some((row) => row.id === task.messageId)),
    )
  )
}

/**
 * Sends enrollments on whose step has nothing open any more: the work was done in another way, or the call back they
 * waited for is off.
 */
function moveStuckOn(course: Course, prospectId: Id): void {
  const waitsForCallBack = ofProspect(course.situation, 'task', prospectId).some(
    (task) => task.state === 'open' && task.kind === 'call_back',
  )
  for (const enrollment of openEnrollments(course.situation, prospectId)) {
    const stuck =
      enrollment.state === 'active'
        ? !hasOpenWork(course.situation, enrollment)
        : enrollment.state === 'paused' && !waitsForCallBack
    if (!stuck) continue
    const because: Because = { by: 'law', says: 'Nothing of this step is open any more' }
    withdraw(course, enrollment, because)
    advance(course, course.situation.prospect[prospectId]!, enrollment, because)
  }
}

/** Whom the effects concern: those they change, and everyone at a company whose status they change. */
export function concernedBy(course: Course, effects: readonly Effect[] = course.effects): Set<Id> {
  const concerned = new Set<Id>([course.happening.prospectId])
  for (const effect of effects) {
    if (effect.entity === 'company') {
      for (const person of Object.values(course.situation.prospect)) {
        if (person.companyId === effect.id) concerned.add(person.id)
      }
      continue
    }
    const row = course.situation[effect.entity][effect.id]
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
export function closeDeadEnds(course: Course, concerned: ReadonlySet<Id> = concernedBy(course)): void {
  for (const id of concerned) {
    const prospect = course.situation.prospect[id]
    if (!prospect) continue
    moveStuckOn(course, id)
    const underWay = ofProspect(course.situation, 'message', id).some(
      (row) => row.state === 'queued' || row.state === 'sending',
    )
    if (!underWay) planNextAction(course, prospect)
  }
}

/**
 * Gives somebody in an open or paused stage a next action, unless they have one: a task that is open, or a cadence they
 * are in.
 */
export function planNextAction(course: Course, prospect: Prospect): void {
  const kind = course.playbook.stages[prospect.stageId]?.kind
  if ((kind !== 'open' && kind !== 'parked') || whyStopped(course.situation, prospect, false)) return
  const busy =
    ofProspect(course.situation, 'task', prospect.id).some((task) => task.state === 'open') ||
    openEnrollments(course.situation, prospect.id).length > 0
  if (!busy) followUp(course, prospect, kind)
}

function followUp(course: Course, prospect: Prospect, stageKind: 'open' | 'parked'): void {
  const touches = ofProspect(course.situation, 'touch', prospect.id)
  const written = ofProspect(course.situation, 'message', prospect.id).some(
    (row) => row.state === 'queued' || row.state === 'sending',
  )
  if (!touches.length && !written && stageKind === 'open') {
    const law: Because = { by: 'law', says: 'Nobody is forgotten: new people wait for a first contact' }
    makeTask(course, prospect, { kind: 'first_contact', lane: 3, title: FIRST_CONTACT, dueAt: course.now }, law)
    return
  }
  const { title, at, says } = followUpDate(course, prospect)
  const dueAt = workingMoment(course, prospect, at)
  makeTask(
    course,
    prospect,
    { kind: 'follow_up', lane: 2, title, dueAt },
    { by: 'law', says: `Nobody is forgotten: ${says}` },
  )
}

/** What new people's first task is called. */
export const FIRST_CONTACT = 'First contact'
const [TRY_AGAIN, FOLLOW_UP] = ['Try again', 'Follow up']

/** Cancels a next action that nobody chose: what has just happened asks for another one. */
export function dropUnchosenPlan(course: Course, prospect: Prospect): void {
  for (const task of ofProspect(course.situation, 'task', prospect.id)) {
    const unchosen =
      task.kind === 'first_contact' || (task.kind === 'follow_up' && [TRY_AGAIN, FOLLOW_UP].includes(task.title))
    if (task.state === 'open' && unchosen) {
      course.change(
        'cancelTask',
        'task',
        task.id,
        { state: 'cancelled', doneAt: course.now },
        { by: 'law', says: PLAN_REPLACED },
      )
    }
  }
}

/**
 * When somebody without a plan is taken up again: soon after an unanswered attempt, else by the touch goal of their
 * lists, else after the team's days.
 */
function followUpDate(course: Course, prospect: Prospect): { title: string; at: Instant; says: string } {
  const { retryDays, fallbackDays, attemptsAllowed, holidays } = course.playbook
  // An attempt that does not count, because no call was made, is tried again soon all the same.
  const { happening } = course
  const tried =
    happening.kind === 'callLogged' &&
    happening.prospectId === prospect.id &&
    course.playbook.outcomes[happening.outcomeId]?.countsAs === 'attempt'
  if (tried && attemptsOf(course.situation, prospect.id) < attemptsAllowed) {
    const at = addBusinessDays(course.now, retryDays, placeOf(prospect), holidays)
    return { title: TRY_AGAIN, at, says: `another try after ${retryDays} business days` }
  }
  const goal = course.situation.touchGoals[prospect.id]
  if (goal && daysOf(goal) < fallbackDays) {
    const at = dueAtOf({ listId: '', every: goal, lastAt: course.now, addedAt: course.now })
    return { title: FOLLOW_UP, at, says: `their list’s touch goal is ${inWords(goal)}` }
  }
  return {
    title: FOLLOW_UP,
    at: course.now + fallbackDays * DAY,
    says: `${fallbackDays} days where nothing else is planned`,
  }
}

/**
 * From `at` on, the first moment that is on a working day and in calling hours where they are; `at` itself where there
 * never is one.
 */
export function workingMoment(course: Course, prospect: Prospect, at: Instant): Instant {
  try {
    return nextWorkingMoment(at, course.playbook.callHours, placeOf(prospect), course.playbook.holidays)
  } catch {
    return at
  }
}
