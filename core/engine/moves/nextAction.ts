import { DAY, type Id, type Instant } from '../../instant'
import { nextWorkingMoment } from '../../calendar/callingHours'
import { addBusinessDays } from '../../calendar/local'
import { daysOf, dueAtOf } from '../../queue/touchGoal'
import type { ReactionContext } from '../state/reactionContext'
import type { CauseValues, Rule } from '../state/causes'
import type { Cause, Effect } from '../state/effects'
import {
  attemptsOf,
  ofProspect,
  openEnrollments,
  placeOf,
  waitingActions,
  type EngineState,
  type Enrollment,
  type Prospect,
  wasTouched,
} from '../state/engineState'
import { whyStopped } from './stops'
import { STARTS } from './delayed'
import { withdraw } from './withdraw'
import { advance } from './progress'
import { makeTask } from './work'

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
    const cause: Cause = { source: 'system_rule', rule: 'stepDone' }
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
 * The law of no dead ends, for everyone the effects concern: an enrollment whose step has nothing open goes on, and
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
 * Gives someone in an open or paused stage a next action, unless they have one: a task that is open, or a cadence they
 * are in, or something that is scheduled to begin.
 */
export function planNextAction(context: ReactionContext, prospect: Prospect): void {
  const kind = context.playbook.stages[prospect.stageId]?.kind
  if ((kind !== 'open' && kind !== 'paused') || whyStopped(context.state, prospect, false)) return
  const busy =
    ofProspect(context.state, 'task', prospect.id).some((task) => task.status === 'open') ||
    openEnrollments(context.state, prospect.id).length > 0 ||
    waitingActions(context.state, prospect.id).some((row) => STARTS.has(row.action.type))
  if (!busy) followUp(context, prospect, kind)
}

function followUp(context: ReactionContext, prospect: Prospect, stageKind: 'open' | 'paused'): void {
  const written = ofProspect(context.state, 'emailMessage', prospect.id).some(
    (row) => row.status === 'queued' || row.status === 'sending',
  )
  if (!wasTouched(context.state, prospect.id) && !written && stageKind === 'open') {
    const law: Cause = { source: 'system_rule', rule: 'firstContact' }
    makeTask(context, prospect, { kind: 'first_contact', priority: 3, title: FIRST_CONTACT, dueAt: context.now }, law)
    return
  }
  const { title, at, rule, values } = followUpDate(context, prospect)
  const dueAt = workingMoment(context, prospect, at)
  makeTask(context, prospect, { kind: 'follow_up', priority: 2, title, dueAt }, { source: 'system_rule', rule, values })
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
        { source: 'system_rule', rule: 'planReplaced' },
      )
    }
  }
}

/**
 * When someone without a plan is taken up again: soon after an unanswered attempt, else by the touch goal of their
 * lists, else after the team's days.
 */
function followUpDate(
  context: ReactionContext,
  prospect: Prospect,
): { title: string; at: Instant; rule: Rule; values: CauseValues } {
  const { retryDays, fallbackDays, attemptsAllowed, holidays } = context.playbook
  // An attempt that does not count, because no call was made, is tried again soon all the same.
  const { event } = context
  const tried =
    event.kind === 'callLogged' &&
    event.prospectId === prospect.id &&
    context.playbook.outcomes[event.outcomeId]?.countsAs === 'attempt'
  if (tried && attemptsOf(context.state, prospect.id) < attemptsAllowed) {
    const at = addBusinessDays(context.now, retryDays, placeOf(prospect), holidays)
    return { title: TRY_AGAIN, at, rule: 'nextStepRetry', values: { days: retryDays } }
  }
  const goal = context.state.touchGoals[prospect.id]
  if (goal && daysOf(goal) < fallbackDays) {
    const at = dueAtOf({ listId: '', every: goal, lastAt: context.now, addedAt: context.now })
    return { title: FOLLOW_UP, at, rule: 'nextStepGoal', values: { every: goal } }
  }
  return {
    title: FOLLOW_UP,
    at: context.now + fallbackDays * DAY,
    rule: 'nextStepFallback',
    values: { days: fallbackDays },
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
