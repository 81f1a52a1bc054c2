import { afterWait } from '../cadence/wait'
import type { Id } from '../instant'
import { exitOfStanding, onCallLogged, setStop } from './callOutcome'
import { Course } from './course'
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
  return run(new Course(situation, playbook, happening, newId))
}

function run(course: Course): Reaction {
  const { prospectId } = course.happening
  if (!course.situation.prospect[prospectId]) throw new Error(`The situation does not hold prospect ${prospectId}`)
  dispatch(course)
  if (course.problems.length) {
    course.takeBack()
    return { effects: [], problems: course.problems }
  }
  closeDeadEnds(course)
  return { effects: course.effects, problems: [] }
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
    reaction: run(new Course(world, playbook, happening, newId, true)),
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

function dispatch(course: Course): void {
  const { happening } = course
  const prospect = course.situation.prospect[happening.prospectId]!
  switch (happening.kind) {
    // What is missing is their next action, which every reaction sees to at its end.
    case 'prospectAdded':
    case 'nextActionMissing':
      return
    case 'callLogged':
      return onCallLogged(course, happening)
    case 'enrolled':
      return onEnrolled(course, happening.cadenceId)
    case 'unenrolled': {
      const enrollment = course.situation.enrollment[happening.enrollmentId]
      if (!enrollment || enrollment.state === 'ended') {
        return course.refuse('enrollment', 'This person has left the cadence already')
      }
      return endEnrollment(course, enrollment, 'removed', { by: 'person' })
    }
    case 'stepDue': {
      const enrollment = course.situation.enrollment[happening.enrollmentId]
      if (enrollment && course.playbook.cadences[enrollment.cadenceId]?.state === 'paused') return
      if (enrollment?.state === 'waiting' && enrollment.dueAt !== null && enrollment.dueAt <= happening.at) {
        issueStep(course, enrollment.id)
      }
      return
    }
    case 'taskPlanned':
      return onTaskPlanned(course, happening)
    case 'taskDone':
      return onTaskDone(course, happening.taskId)
    case 'emailWritten':
      return onEmailWritten(course, happening)
    case 'emailSent':
      return onEmailSent(course, happening)
    case 'emailFailed':
    case 'emailBounced':
      return onEmailFailed(course, happening)
    case 'emailHeld':
    case 'emailUnconfirmed':
      return onEmailHeld(course, happening)
    case 'emailStopped':
      return onEmailStopped(course, happening)
    case 'emailSettled':
      return onEmailSettled(course, happening)
    case 'emailReplied':
      return onEmailReplied(course, happening)
    case 'unsubscribed':
      return onUnsubscribed(course)
    case 'stageMoved':
      return moveStage(course, prospect, happening.to, happening, {
        by: 'person',
        ...(happening.override && { says: `Gate overridden: ${happening.override}` }),
      })
    case 'stopSet':
      return setStop(course, prospect, happening.channel, happening.on, { by: 'person' })
    case 'companyStandingSet': {
      const company = companyOf(course.situation, prospect)
      if (!company) return course.refuse('company', 'This person has no company')
      course.change('setCompanyStanding', 'company', company.id, { standing: happening.to }, { by: 'person' })
      const exit = exitOfStanding(happening.to)
      if (exit) {
        stopCompany(course, [prospect, ...colleaguesOf(course.situation, prospect)], exit, {
          by: 'law',
          says: 'A stop on a company is a stop for everyone there',
        })
      }
      return
    }
    case 'workStatusSet': {
      if (happening.to === 'removed' && prospect.working !== 'removed' && !happening.reason?.trim()) {
        return course.refuse('reason', 'Say why they are archived')
      }
      course.change('setWorkStatus', 'prospect', prospect.id, { working: happening.to }, { by: 'person' })
      if (happening.to !== 'in_work') {
        stopCompany(course, [prospect], happening.to === 'removed' ? 'removed' : 'stopped', {
          by: 'law',
          says: 'Nothing goes to people who are paused or archived',
        })
      }
      return
    }
    case 'phoneStandingSet': {
      if (course.situation.phone[happening.phoneId]?.prospectId !== prospect.id) {
        return course.refuse('phone', 'There is no such number')
      }
      return markNumber(course, prospect, happening.phoneId, happening.to, { by: 'person' })
    }
    case 'dealOpened':
      return onDealOpened(course, happening)
    case 'dealChanged':
      return onDealChanged(course, happening)
    case 'dealClosed':
      return onDealClosed(course, happening)
    case 'meetingMoved':
      return onMeetingMoved(course, happening)
    case 'meetingCancelled':
      return onMeetingCancelled(course, happening)
    case 'meetingResult':
      return onMeetingResult(course, happening)
    case 'addressStatusSet': {
      if (course.situation.email[happening.emailId]?.prospectId !== prospect.id) {
        return course.refuse('email', 'There is no such address')
      }
      return setAddressStatus(course, prospect, happening.emailId, happening.to)
    }
    case 'undone':
      return course.refuse('event', 'What is undone is worked out from its effects')
  }
}

function onEnrolled(course: Course, cadenceId: Id): void {
  const prospect = course.situation.prospect[course.happening.prospectId]!
  const cadence = course.playbook.cadences[cadenceId]
  if (!cadence) return course.refuse('cadence', 'There is no such cadence')
  const why = whyNotEnroll(
    course.situation,
    prospect,
    cadence,
    course.playbook.stages[prospect.stageId]?.kind ?? 'open',
  )
  if (why) return course.refuse('prospect', why)
  const first = cadence.steps[0]!
  replacePlans(course, prospect, ['first_contact', 'follow_up'], { by: 'law', says: 'The cadence is the plan now' })
  course.create(
    'openEnrollment',
    'enrollment',
    {
      id: course.newId(),
      prospectId: prospect.id,
      cadenceId,
      stepId: first.id,
      state: 'waiting',
      dueAt: afterWait(course.now, first.wait, placeOf(prospect), course.playbook.holidays),
      byId: course.happening.actorId,
      startedAt: course.now,
      endedAt: null,
      exit: null,
    },
    { by: 'person' },
  )
}

/** Work is planned by hand; nothing is planned for somebody who is stopped, and no call where none may be made. */
function onTaskPlanned(course: Course, happening: Extract<Happening, { kind: 'taskPlanned' }>): void {
  const prospect = course.situation.prospect[happening.prospectId]!
  const why = whyNotPlan(course.situation, prospect, happening.task)
  if (why) return course.refuse('prospect', why)
  if (happening.task === 'call') {
    replacePlans(course, prospect, ['first_contact', 'follow_up'], { by: 'law', says: PLAN_REPLACED })
  }
  makeTask(
    course,
    prospect,
    { kind: happening.task, lane: 2, title: happening.title, dueAt: happening.dueAt, ownerId: happening.ownerId },
    { by: 'person' },
  )
}

function onTaskDone(course: Course, taskId: Id): void {
  const task = course.situation.task[taskId]
  if (!task || task.state !== 'open') return course.refuse('task', 'This has been dealt with already')
  const prospect = course.situation.prospect[task.prospectId]!
  course.change('finishTask', 'task', task.id, { state: 'done', doneAt: course.now }, { by: 'person' })
  const held = task.kind === 'meeting_result'
  const meeting = held
    ? Object.values(course.situation.appointment).find(
        (row) => row.prospectId === prospect.id && row.state === 'booked' && row.endAt === task.dueAt,
      )
    : undefined
  if (meeting) course.change('settleMeeting', 'appointment', meeting.id, { state: 'held' }, { by: 'person' })
  touch(
    course,
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
  const message = task.kind === 'check_mail' && task.messageId ? course.situation.message[task.messageId] : null
  if (message?.state === 'held') {
    course.change('cancelEmail', 'message', message.id, { state: 'cancelled' }, { by: 'person' })
  }
  const enrollment = task.enrollmentId ? course.situation.enrollment[task.enrollmentId] : null
  if (enrollment?.state === 'active' && enrollment.stepId === task.stepId) {
    advance(course, prospect, enrollment, { by: 'step', id: enrollment.stepId })
  }
}
