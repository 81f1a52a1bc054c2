import type { Id } from '../instant'
import { onTextFailed, onTextReceived, onTextWritten, setTextConsent } from './textReactions'
import { afterLastSteps } from './afterLast'
import { onCallLogged } from './callOutcome'
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
import { colleaguesOf, companyOf, ENTITY_NAMES, type EngineState } from './state/engineState'
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

function dispatch(context: ReactionContext): void {
  const { event } = context
  const prospect = context.state.prospect[event.prospectId]!
  switch (event.kind) {
    // What is missing is their next action, which every reaction sees to at its end.
    case 'prospectAdded':
    case 'nextActionMissing':
      return
    case 'callLogged':
      return onCallLogged(context, event)
    case 'enrolled': {
      const why = enroll(context, prospect, event.cadenceId, { source: 'person' }, event.startAt)
      return why ? context.refuse(context.playbook.cadences[event.cadenceId] ? 'prospect' : 'cadence', why) : undefined
    }
    case 'actionDue':
      return onActionDue(context, event.delayedActionId)
    case 'actionCancelled':
      return onActionCancelled(context, event.delayedActionId)
    case 'unenrolled': {
      const enrollment = context.state.enrollment[event.enrollmentId]
      if (!enrollment || enrollment.status === 'ended') {
        return context.refuse('enrollment', 'This prospect has already left the cadence')
      }
      return endEnrollment(context, enrollment, 'removed', { source: 'person' })
    }
    case 'stepSkipped': {
      const enrollment = context.state.enrollment[event.enrollmentId]
      if (!enrollment || enrollment.status === 'ended') {
        return context.refuse('enrollment', 'This prospect has already left the cadence')
      }
      withdraw(context, enrollment, { source: 'person' })
      return advance(context, prospect, enrollment, { source: 'person' })
    }
    case 'enrollmentMoved':
      return moveWithin(context, event)
    case 'stepDue': {
      const enrollment = context.state.enrollment[event.enrollmentId]
      if (enrollment && context.playbook.cadences[enrollment.cadenceId]?.status === 'paused') return
      if (enrollment?.status === 'waiting' && enrollment.dueAt !== null && enrollment.dueAt <= event.at) {
        issueStep(context, enrollment.id)
      }
      return
    }
    case 'callAbandoned':
      return onCallAbandoned(context, event)
    case 'callMissed':
      return onCallMissed(context, event)
    case 'taskPlanned':
      return onTaskPlanned(context, event)
    case 'taskAssigned': {
      const task = context.state.task[event.taskId]
      if (task?.prospectId !== prospect.id || task.status !== 'open') return context.refuse('task', 'Already handled')
      context.change('assign', 'task', task.id, { ownerId: event.ownerId }, { source: 'person' })
      return
    }
    case 'taskDone':
      return onTaskDone(context, event)
    case 'emailWritten':
      return onEmailWritten(context, event)
    case 'emailSent':
      return onEmailSent(context, event)
    case 'emailOpened':
      return onEmailOpened(context, event)
    case 'emailClicked':
      return onEmailClicked(context, event)
    case 'emailFailed':
    case 'emailBounced':
      return onEmailFailed(context, event)
    case 'emailHeld':
    case 'emailUnconfirmed':
      return onEmailHeld(context, event)
    case 'emailStopped':
      return onEmailStopped(context, event)
    case 'emailSettled':
      return onEmailSettled(context, event)
    case 'textWritten':
      return onTextWritten(context, event)
    case 'textReceived':
      return onTextReceived(context, event)
    case 'textFailed':
      return onTextFailed(context, event)
    case 'textConsentSet':
      return setTextConsent(context, prospect, event)
    case 'emailReplied':
      return onEmailReplied(context, event)
    case 'unsubscribed':
      return onUnsubscribed(context)
    case 'stageMoved':
      return moveStage(context, prospect, event.to, event, {
        source: 'person',
        ...(event.override && { rule: 'gateOverridden' as const }),
      })
    case 'stopSet':
      return setStop(context, prospect, event.channel, event.on, { source: 'person' })
    case 'companyStatusSet': {
      const company = companyOf(context.state, prospect)
      if (!company) return context.refuse('company', 'This person has no company')
      context.change('setCompanyStatus', 'company', company.id, { status: event.to }, { source: 'person' })
      const exit = exitOfStatus(event.to)
      if (exit) {
        stopCompany(context, [prospect, ...colleaguesOf(context.state, prospect)], exit, {
          source: 'system_rule',
          rule: 'companyStopped',
        })
      }
      return
    }
    case 'prospectStatusSet': {
      if (event.to === 'archived' && prospect.status !== 'archived' && !event.reason?.trim()) {
        return context.refuse('reason', 'Enter why they are archived')
      }
      context.change('setProspectStatus', 'prospect', prospect.id, { status: event.to }, { source: 'person' })
      if (event.to !== 'active') {
        stopCompany(context, [prospect], event.to === 'archived' ? 'removed' : 'stopped', {
          source: 'system_rule',
          rule: 'prospectStopped',
        })
      }
      return
    }
    case 'phoneStatusSet': {
      if (context.state.phone[event.phoneId]?.prospectId !== prospect.id) {
        return context.refuse('phone', 'There is no such number')
      }
      return markNumber(context, prospect, event.phoneId, event.to, { source: 'person' })
    }
    case 'dealOpened':
      return onDealOpened(context, event)
    case 'dealChanged':
      return onDealChanged(context, event)
    case 'dealClosed':
      return onDealClosed(context, event)
    case 'meetingMoved':
      return onMeetingMoved(context, event)
    case 'meetingCancelled':
      return onMeetingCancelled(context, event)
    case 'meetingResult':
      return onMeetingResult(context, event)
    case 'addressStatusSet': {
      if (context.state.emailAddress[event.emailAddressId]?.prospectId !== prospect.id) {
        return context.refuse('email', 'There is no such address')
      }
      return setAddressStatus(context, prospect, event.emailAddressId, event.to)
    }
    case 'undone':
      return context.refuse('event', 'What is undone is worked out from its effects')
  }
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
