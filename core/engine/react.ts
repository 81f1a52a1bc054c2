import type { Id } from '../instant'
import { onTextFailed, onTextReceived, onTextWritten, setTextConsent } from './textReactions'
import { afterLastSteps } from './afterLast'
import { onCallLogged } from './callOutcome'
import { perform } from '../actions/registry'
import { eachAction } from './eachAction'
import { onFormSent } from './formSent'
import { onTaskDone } from './taskOutcome'
import { onCallAbandoned, onCallMissed } from './missedCall'
import { onActionCancelled, onActionDue } from './delayedActions'
import { ReactionContext } from './state/reactionContext'
import { onDealChanged, onDealClosed, onDealOpened } from './moves/deals'
import type { Effect } from './state/effects'
import type { DomainEvent, Problem } from './state/events'
import {
  onEmailFailed,
  onEmailHeld,
  onEmailClicked,
  onEmailOpened,
  onEmailReplied,
  onEmailSent,
  onEmailSettled,
  onEmailStopped,
  onEmailWritten,
  onUnsubscribed,
  setAddressStatus,
} from './emailReactions'
import { onMeetingCancelled, onMeetingMoved, onMeetingResult } from './moves/meetings'
import { applyExits } from './exits'
import type { Playbook } from './state/playbook'
import { issueStep } from './moves/issueStep'
import { advance, endEnrollment, moveStage } from './moves/progress'
import { moveWithin } from './moves/moveWithin'
import { withdraw } from './moves/withdraw'
import { makeTask, replacePlans } from './moves/work'
import { endWaitsEarly } from './moves/branches'
import { closeDeadEnds } from './moves/nextAction'
import { enroll } from './moves/enroll'
import { exitOfStatus, markNumber, setStop, stopCompany } from './moves/stopProspect'
import {
  colleaguesOf,
  companyOf,
  ENTITY_NAMES,
  type EngineState,
  type Enrollment,
  type Prospect,
} from './state/engineState'
import { whyNotPlan } from './moves/stops'

/** What follows from an event: effects to apply, or problems that say why nothing is done. Never both. */
export interface Reaction {
  effects: Effect[]
  problems: Problem[]
  /** What an action would have done and did not, and why, each as a sentence. */
  skipped?: string[]
}

/**
 * What follows when something happens. Pure: the same event, state, playbook and ids give the same reaction;
 * live work, the preview beside an outcome, rehearsals and tests all call this one function. `newId` supplies the ids
 * of new rows. An event about someone who is not in the state throws.
 */
export function react(event: DomainEvent, state: EngineState, playbook: Playbook, newId: () => Id): Reaction {
  return run(new ReactionContext(state, playbook, event, newId))
}

function run(context: ReactionContext): Reaction {
  const { prospectId } = context.event
  if (!context.state.prospect[prospectId]) throw new Error(`The state does not hold prospect ${prospectId}`)
  dispatch(context)
  if (context.problems.length) {
    context.takeBack()
    return { effects: [], problems: context.problems }
  }
  afterLastSteps(context)
  applyExits(context)
  endWaitsEarly(context, context.state.prospect[prospectId]!)
  closeDeadEnds(context)
  return { effects: context.effects, problems: [], skipped: context.skipped }
}

/**
 * Reacts to several events in order, each on what the ones before left: as `react` and `evolve` in turn, without
 * copying the state for each. A refused one leaves the others alone.
 */
export function reactAll(
  events: readonly DomainEvent[],
  state: EngineState,
  playbook: Playbook,
  newId: () => Id,
): { reactions: { event: DomainEvent; reaction: Reaction }[]; state: EngineState } {
  const world = {
    ...state,
    ...Object.fromEntries(ENTITY_NAMES.map((name) => [name, { ...state[name] }])),
  } as EngineState
  const reactions = events.map((event) => ({
    event,
    reaction: run(new ReactionContext(world, playbook, event, newId, true)),
  }))
  return { reactions, state: world }
}

type Of<K extends DomainEvent['kind']> = Extract<DomainEvent, { kind: K }>
type Reactions = { [K in DomainEvent['kind']]: (context: ReactionContext, event: Of<K>, prospect: Prospect) => void }

const BY_HAND = { source: 'person' } as const
const nothing = () => {}

/** What follows from each kind of event; one without an entry does not compile. */
const REACTIONS: Reactions = {
  // What is missing is their next action, which every reaction sees to at its end.
  prospectAdded: nothing,
  nextActionMissing: nothing,
  callLogged: onCallLogged,
  callAbandoned: onCallAbandoned,
  callMissed: onCallMissed,
  enrolled: onEnrolled,
  unenrolled(context, { enrollmentId }) {
    const enrollment = underWay(context, enrollmentId)
    if (enrollment) endEnrollment(context, enrollment, 'removed', BY_HAND)
  },
  stepSkipped(context, { enrollmentId }, prospect) {
    const enrollment = underWay(context, enrollmentId)
    if (!enrollment) return
    withdraw(context, enrollment, BY_HAND)
    advance(context, prospect, enrollment, BY_HAND)
  },
  enrollmentMoved: moveWithin,
  stepDue: onStepDue,
  actionDue: (context, { delayedActionId }) => onActionDue(context, delayedActionId),
  actionCancelled: (context, { delayedActionId }) => onActionCancelled(context, delayedActionId),
  taskPlanned: onTaskPlanned,
  taskAssigned(context, { taskId, ownerId }, prospect) {
    const task = context.state.task[taskId]
    if (task?.prospectId !== prospect.id || task.status !== 'open') return context.refuse('task', 'Already handled')
    context.change('assign', 'task', task.id, { ownerId }, BY_HAND)
  },
  taskDone: onTaskDone,
  emailWritten: onEmailWritten,
  emailSent: onEmailSent,
  emailOpened: onEmailOpened,
  emailClicked: onEmailClicked,
  emailFailed: onEmailFailed,
  emailBounced: onEmailFailed,
  emailHeld: onEmailHeld,
  emailUnconfirmed: onEmailHeld,
  emailStopped: onEmailStopped,
  emailSettled: onEmailSettled,
  emailReplied: onEmailReplied,
  unsubscribed: onUnsubscribed,
  formSent: onFormSent,
  actionsRun: onActionsRun,
  textWritten: onTextWritten,
  textReceived: onTextReceived,
  textFailed: onTextFailed,
  textConsentSet: (context, event, prospect) => setTextConsent(context, prospect, event),
  stageMoved: (context, event, prospect) =>
    moveStage(context, prospect, event.to, event, {
      source: 'person',
      ...(event.override && { rule: 'gateOverridden' as const }),
    }),
  stopSet: (context, { channel, on }, prospect) => setStop(context, prospect, channel, on, BY_HAND),
  companyStatusSet: onCompanyStatusSet,
  prospectStatusSet: onProspectStatusSet,
  phoneStatusSet(context, { phoneId, to }, prospect) {
    if (context.state.phone[phoneId]?.prospectId !== prospect.id) {
      return context.refuse('phone', 'There is no such number')
    }
    markNumber(context, prospect, phoneId, to, BY_HAND)
  },
  addressStatusSet(context, { emailAddressId, to }, prospect) {
    if (context.state.emailAddress[emailAddressId]?.prospectId !== prospect.id) {
      return context.refuse('email', 'There is no such address')
    }
    setAddressStatus(context, prospect, emailAddressId, to)
  },
  dealOpened: onDealOpened,
  dealChanged: onDealChanged,
  dealClosed: onDealClosed,
  meetingMoved: onMeetingMoved,
  meetingCancelled: onMeetingCancelled,
  meetingResult: onMeetingResult,
  undone: (context) => context.refuse('event', 'What is undone is worked out from its effects'),
}

function dispatch(context: ReactionContext): void {
  const { event } = context
  const reaction = REACTIONS[event.kind] as Reactions[DomainEvent['kind']] & ((...given: unknown[]) => void)
  reaction(context, event, context.state.prospect[event.prospectId]!)
}

/** An enrollment that has not ended; else the event is refused. */
function underWay(context: ReactionContext, id: Id): Enrollment | null {
  const enrollment = context.state.enrollment[id]
  if (enrollment && enrollment.status !== 'ended') return enrollment
  context.refuse('enrollment', 'This prospect has already left the cadence')
  return null
}

function onEnrolled(context: ReactionContext, { cadenceId, startAt }: Of<'enrolled'>, prospect: Prospect): void {
  const why = enroll(context, prospect, cadenceId, BY_HAND, startAt)
  if (why) context.refuse(context.playbook.cadences[cadenceId] ? 'prospect' : 'cadence', why)
}

/** Each action that may be done is done; where none changes anything, it is refused with the reason. */
function onActionsRun(context: ReactionContext, { actions }: Of<'actionsRun'>, prospect: Prospect): void {
  const about = { phoneId: null, details: {}, outcome: null, enrollment: null, cause: BY_HAND }
  const run = { context, prospect, stageBefore: prospect.stageId, ...about }
  eachAction(context, actions, (action) => perform(run, [action]))
  if (!context.effects.length) context.refuse('actions', context.skipped[0] ?? 'Nothing would change')
}

function onStepDue(context: ReactionContext, { enrollmentId, at }: Of<'stepDue'>): void {
  const enrollment = context.state.enrollment[enrollmentId]
  if (enrollment && context.playbook.cadences[enrollment.cadenceId]?.status === 'paused') return
  if (enrollment?.status === 'waiting' && enrollment.dueAt !== null && enrollment.dueAt <= at) {
    issueStep(context, enrollment.id)
  }
}

function onCompanyStatusSet(context: ReactionContext, { to }: Of<'companyStatusSet'>, prospect: Prospect): void {
  const company = companyOf(context.state, prospect)
  if (!company) return context.refuse('company', 'This person has no company')
  context.change('setCompanyStatus', 'company', company.id, { status: to }, BY_HAND)
  const exit = exitOfStatus(to)
  if (!exit) return
  const everyone = [prospect, ...colleaguesOf(context.state, prospect)]
  stopCompany(context, everyone, exit, { source: 'system_rule', rule: 'companyStopped' })
}

function onProspectStatusSet(
  context: ReactionContext,
  { to, reason }: Of<'prospectStatusSet'>,
  prospect: Prospect,
): void {
  if (to === 'archived' && prospect.status !== 'archived' && !reason?.trim()) {
    return context.refuse('reason', 'Enter why they are archived')
  }
  context.change('setProspectStatus', 'prospect', prospect.id, { status: to }, BY_HAND)
  if (to === 'active') return
  stopCompany(context, [prospect], to === 'archived' ? 'removed' : 'stopped', {
    source: 'system_rule',
    rule: 'prospectStopped',
  })
}

/** Work is planned by hand; nothing is planned for someone who is stopped, and nothing that cannot reach them. */
function onTaskPlanned(context: ReactionContext, event: Extract<DomainEvent, { kind: 'taskPlanned' }>): void {
  const prospect = context.state.prospect[event.prospectId]!
  const why = whyNotPlan(context.state, prospect, event.task)
  if (why) return context.refuse('prospect', why)
  if (event.task !== 'task') {
    replacePlans(context, prospect, ['first_contact', 'follow_up'], { source: 'system_rule', rule: 'planReplaced' })
  }
  makeTask(
    context,
    prospect,
    { kind: event.task, priority: 2, title: event.title, dueAt: event.dueAt, ownerId: event.ownerId },
    { source: 'person' },
  )
}
