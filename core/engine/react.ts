import { afterWait } from '../cadence/wait'
import type { Id } from '../instant'
import { exitOfStanding, onCallLogged, setStop } from './callOutcome'
import { ReactionContext } from './reactionContext'
import { onDealChanged, onDealClosed, onDealOpened } from './deals'
import type { Effect } from './effects'
import type { Happening, Problem } from './happenings'
import {
  onEmailFailed,
  onEmailHeld,
  onEmailReplied,
  onEmailSent,
  onEmailSettled,
  onEmailStopped,
  onEmailWritten,
  onUnsubscribed,
  setAddressStatus,
} from './mailReactions'
import { onMeetingCancelled, onMeetingMoved, onMeetingResult } from './meetings'
import type { Playbook } from './playbook'
import {
  advance,
  closeDeadEnds,
  endEnrollment,
  issueStep,
  makeTask,
  markNumber,
  moveStage,
  PLAN_REPLACED,
  replacePlans,
  stopCompany,
  touch,
} from './progress'
import { colleaguesOf, companyOf, ENTITY_NAMES, placeOf, type Situation } from './situation'
import { whyNotEnroll, whyNotPlan } from './stops'

/** What follows from a happening: effects to apply, or problems that say why nothing is done. Never both. */
export interface Reaction {
  effects: Effect[]
  problems: Problem[]
}

/**
 * What follows when something happens. Pure: the same happening, situation, playbook and ids give the same reaction;
 * live work, the preview beside an outcome, rehearsals and tests all call this one function. `newId` supplies the ids
 * of new rows. A happening about somebody who is not in the situation throws.
 */
export function react(happening: Happening, situation: Situation, playbook: Playbook, newId: () => Id): Reaction {
  return run(new ReactionContext(situation, playbook, happening, newId))
}

function run(context: ReactionContext): Reaction {
  const { prospectId } = context.happening
  if (!context.situation.prospect[prospectId]) throw new Error(`The situation does not hold prospect ${prospectId}`)
  dispatch(context)
  if (context.problems.length) {
    context.takeBack()
    return { effects: [], problems: context.problems }
  }
  closeDeadEnds(context)
  return { effects: context.effects, problems: [] }
}

/**
 * Reacts to several happenings in order, each on what the ones before left: as `react` and `evolve` in turn, without
 * copying the situation for each. A refused one leaves the others alone.
 */
export function reactAll(
  happenings: readonly Happening[],
  situation: Situation,
  playbook: Playbook,
  newId: () => Id,
): { reactions: { happening: Happening; reaction: Reaction }[]; situation: Situation } {
  const world = {
    ...situation,
    ...Object.fromEntries(ENTITY_NAMES.map((name) => [name, { ...situation[name] }])),
  } as Situation
  const reactions = happenings.map((happening) => ({
    happening,
    reaction: run(new ReactionContext(world, playbook, happening, newId, true)),
  }))
  return { reactions, situation: world }
}

/** What can change others at the company, or looks at what they have there. */
const COMPANY_WIDE: ReadonlySet<Happening['kind']> = new Set([
  'emailReplied',
  'companyStandingSet',
  'meetingResult',
  'dealOpened',
  'dealClosed',
])

/**
 * Whether a happening can change anybody but the person it happens to: then the situation must hold everyone at the
 * company. What it says holds for this playbook only.
 */
export function reachesCompany(happening: Pick<Happening, 'kind'> & { outcomeId?: Id }, playbook: Playbook): boolean {
  if (happening.kind !== 'callLogged') return COMPANY_WIDE.has(happening.kind)
  const consequences = playbook.outcomes[happening.outcomeId ?? '']?.consequences ?? []
  return consequences.some(
    (consequence) =>
      consequence.do === 'setCompanyStanding' ||
      consequence.do === 'openDeal' ||
      ('scope' in consequence && consequence.scope === 'company'),
  )
}

function dispatch(context: ReactionContext): void {
  const { happening } = context
  const prospect = context.situation.prospect[happening.prospectId]!
  switch (happening.kind) {
    // What is missing is their next action, which every reaction sees to at its end.
    case 'prospectAdded':
    case 'nextActionMissing':
      return
    case 'callLogged':
      return onCallLogged(context, happening)
    case 'enrolled':
      return onEnrolled(context, happening.cadenceId)
    case 'unenrolled': {
      const enrollment = context.situation.enrollment[happening.enrollmentId]
      if (!enrollment || enrollment.state === 'ended') {
        return context.refuse('enrollment', 'This person has left the cadence already')
      }
      return endEnrollment(context, enrollment, 'removed', { by: 'person' })
    }
    case 'stepDue': {
      const enrollment = context.situation.enrollment[happening.enrollmentId]
      if (enrollment && context.playbook.cadences[enrollment.cadenceId]?.state === 'paused') return
      if (enrollment?.state === 'waiting' && enrollment.dueAt !== null && enrollment.dueAt <= happening.at) {
        issueStep(context, enrollment.id)
      }
      return
    }
    case 'taskPlanned':
      return onTaskPlanned(context, happening)
    case 'taskDone':
      return onTaskDone(context, happening.taskId)
    case 'emailWritten':
      return onEmailWritten(context, happening)
    case 'emailSent':
      return onEmailSent(context, happening)
    case 'emailFailed':
    case 'emailBounced':
      return onEmailFailed(context, happening)
    case 'emailHeld':
    case 'emailUnconfirmed':
      return onEmailHeld(context, happening)
    case 'emailStopped':
      return onEmailStopped(context, happening)
    case 'emailSettled':
      return onEmailSettled(context, happening)
    case 'emailReplied':
      return onEmailReplied(context, happening)
    case 'unsubscribed':
      return onUnsubscribed(context)
    case 'stageMoved':
      return moveStage(context, prospect, happening.to, happening, {
        by: 'person',
        ...(happening.override && { says: `Gate overridden: ${happening.override}` }),
      })
    case 'stopSet':
      return setStop(context, prospect, happening.channel, happening.on, { by: 'person' })
    case 'companyStandingSet': {
      const company = companyOf(context.situation, prospect)
      if (!company) return context.refuse('company', 'This person has no company')
      context.change('setCompanyStanding', 'company', company.id, { standing: happening.to }, { by: 'person' })
      const exit = exitOfStanding(happening.to)
      if (exit) {
        stopCompany(context, [prospect, ...colleaguesOf(context.situation, prospect)], exit, {
          by: 'law',
          says: 'A stop on a company is a stop for everyone there',
        })
      }
      return
    }
    case 'workStatusSet': {
      if (happening.to === 'removed' && prospect.working !== 'removed' && !happening.reason?.trim()) {
        return context.refuse('reason', 'Say why they are archived')
      }
      context.change('setWorkStatus', 'prospect', prospect.id, { working: happening.to }, { by: 'person' })
      if (happening.to !== 'in_work') {
        stopCompany(context, [prospect], happening.to === 'removed' ? 'removed' : 'stopped', {
          by: 'law',
          says: 'Nothing goes to people who are paused or archived',
        })
      }
      return
    }
    case 'phoneStandingSet': {
      if (context.situation.phone[happening.phoneId]?.prospectId !== prospect.id) {
        return context.refuse('phone', 'There is no such number')
      }
      return markNumber(context, prospect, happening.phoneId, happening.to, { by: 'person' })
    }
    case 'dealOpened':
      return onDealOpened(context, happening)
    case 'dealChanged':
      return onDealChanged(context, happening)
    case 'dealClosed':
      return onDealClosed(context, happening)
    case 'meetingMoved':
      return onMeetingMoved(context, happening)
    case 'meetingCancelled':
      return onMeetingCancelled(context, happening)
    case 'meetingResult':
      return onMeetingResult(context, happening)
    case 'addressStatusSet': {
      if (context.situation.email[happening.emailId]?.prospectId !== prospect.id) {
        return context.refuse('email', 'There is no such address')
      }
      return setAddressStatus(context, prospect, happening.emailId, happening.to)
    }
    case 'undone':
      return context.refuse('event', 'What is undone is worked out from its effects')
  }
}

function onEnrolled(context: ReactionContext, cadenceId: Id): void {
  const prospect = context.situation.prospect[context.happening.prospectId]!
  const cadence = context.playbook.cadences[cadenceId]
  if (!cadence) return context.refuse('cadence', 'There is no such cadence')
  const why = whyNotEnroll(
    context.situation,
    prospect,
    cadence,
    context.playbook.stages[prospect.stageId]?.kind ?? 'open',
  )
  if (why) return context.refuse('prospect', why)
  const first = cadence.steps[0]!
  replacePlans(context, prospect, ['first_contact', 'follow_up'], { by: 'law', says: 'The cadence is the plan now' })
  context.create(
    'openEnrollment',
    'enrollment',
    {
      id: context.newId(),
      prospectId: prospect.id,
      cadenceId,
      stepId: first.id,
      state: 'waiting',
      dueAt: afterWait(context.now, first.wait, placeOf(prospect), context.playbook.holidays),
      byId: context.happening.actorId,
      startedAt: context.now,
      endedAt: null,
      exit: null,
    },
    { by: 'person' },
  )
}

/** Work is planned by hand; nothing is planned for somebody who is stopped, and no call where none may be made. */
function onTaskPlanned(context: ReactionContext, happening: Extract<Happening, { kind: 'taskPlanned' }>): void {
  const prospect = context.situation.prospect[happening.prospectId]!
  const why = whyNotPlan(context.situation, prospect, happening.task)
  if (why) return context.refuse('prospect', why)
  if (happening.task === 'call') {
    replacePlans(context, prospect, ['first_contact', 'follow_up'], { by: 'law', says: PLAN_REPLACED })
  }
  makeTask(
    context,
    prospect,
    { kind: happening.task, lane: 2, title: happening.title, dueAt: happening.dueAt, ownerId: happening.ownerId },
    { by: 'person' },
  )
}

function onTaskDone(context: ReactionContext, taskId: Id): void {
  const task = context.situation.task[taskId]
  if (!task || task.state !== 'open') return context.refuse('task', 'This has been dealt with already')
  const prospect = context.situation.prospect[task.prospectId]!
  context.change('finishTask', 'task', task.id, { state: 'done', doneAt: context.now }, { by: 'person' })
  const held = task.kind === 'meeting_result'
  const meeting = held
    ? Object.values(context.situation.appointment).find(
        (row) => row.prospectId === prospect.id && row.state === 'booked' && row.endAt === task.dueAt,
      )
    : undefined
  if (meeting) context.change('settleMeeting', 'appointment', meeting.id, { state: 'held' }, { by: 'person' })
  touch(
    context,
    prospect,
    {
      kind: held ? 'meeting' : 'task',
      countsAs: held ? 'conversation' : 'neither',
      enrollmentId: task.enrollmentId,
      stepId: task.stepId,
    },
    { by: 'person' },
  )
  // Done on an email that could not go means: without it.
  const message = task.kind === 'check_mail' && task.messageId ? context.situation.message[task.messageId] : null
  if (message?.state === 'held') {
    context.change('cancelEmail', 'message', message.id, { state: 'cancelled' }, { by: 'person' })
  }
  const enrollment = task.enrollmentId ? context.situation.enrollment[task.enrollmentId] : null
  if (enrollment?.state === 'active' && enrollment.stepId === task.stepId) {
    advance(context, prospect, enrollment, { by: 'step', id: enrollment.stepId })
  }
}
