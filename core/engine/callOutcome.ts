import type { Channel, CompanyStatus, ExitReason } from '../enumerations'
import { DAY, type Id } from '../instant'
import { isZone } from '../places/isZone'
import type { ReactionContext } from './state/reactionContext'
import { openDealOf } from './deals'
import type { Cause } from './state/effects'
import type { DomainEvent, OutcomeDetails } from './state/events'
import { bookMeeting } from './meetings'
import type { OutcomeAction, Outcome } from './state/playbook'
import { missingRequirements } from '../stage/gate'
import {
  advance,
  cadenceOf,
  currentStep,
  endAll,
  endEnrollment,
  gateFacts,
  makeTask,
  moveStage,
  PLAN_REPLACED,
  replacePlans,
  touch,
} from './progress'
import { dropUnchosenPlan, workingMoment } from './nextAction'
import { markNumber, stopCompany, withdrawCalls, withdrawEmail } from './stopProspect'
import { withdrawAll } from './withdraw'
import {
  attemptsOf,
  colleaguesOf,
  companyOf,
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
function checkDetails(context: ReactionContext, prospect: Prospect, outcome: Outcome, details: OutcomeDetails): void {
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

function applies(action: OutcomeAction, attempts: number): boolean {
  return (
    (action.fromAttempt === undefined || attempts >= action.fromAttempt) &&
    (action.beforeAttempt === undefined || attempts < action.beforeAttempt)
  )
}

/** What follows from a logged call: the touch, its task done, then every action of the outcome in order. */
export function onCallLogged(context: ReactionContext, event: CallLogged): void {
  const prospect = context.state.prospect[event.prospectId]!
  const outcome = context.playbook.outcomes[event.outcomeId]
  if (!outcome) return context.refuse('outcome', 'There is no such outcome')
  if (event.taskId && context.state.task[event.taskId]?.status !== 'open') {
    return context.refuse('task', 'Already handled')
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
      enrollmentId: enrollment?.id ?? null,
      stepId: enrollment?.stepId ?? null,
    },
    cause,
  )
  if (task) context.change('finishTask', 'task', task.id, { status: 'done', doneAt: context.now }, cause)
  dropUnchosenPlan(context, prospect)
  const attempts = attemptsOf(context.state, prospect.id)
  for (const action of outcome.actions) {
    if (applies(action, attempts)) {
      follow(context, context.state.prospect[prospect.id]!, enrollment, phoneId, action, event.details, cause)
    }
  }
}

function follow(
  context: ReactionContext,
  prospect: Prospect,
  enrollment: Enrollment | null,
  phoneId: string | null,
  action: OutcomeAction,
  details: OutcomeDetails,
  cause: Cause,
): void {
  const outcome = context.event.kind === 'callLogged' ? context.playbook.outcomes[context.event.outcomeId] : null
  switch (action.type) {
    case 'advance':
      if (enrollment && context.state.enrollment[enrollment.id]!.status !== 'ended') {
        advance(context, prospect, context.state.enrollment[enrollment.id]!, cause)
      }
      return
    case 'callBack':
      if (details.callBackAt === undefined) return
      replacePlans(context, prospect, ['first_contact', 'follow_up', 'call_back', 'call'], {
        source: 'system_rule',
        summary: PLAN_REPLACED,
      })
      makeTask(
        context,
        prospect,
        {
          kind: 'call_back',
          priority: 1,
          title: 'Call back as agreed',
          dueAt: details.callBackAt,
          ownerId: context.event.actorId ?? prospect.ownerId,
        },
        cause,
      )
      if (enrollment) {
        context.change('pauseEnrollment', 'enrollment', enrollment.id, { status: 'paused', dueAt: null }, cause)
      }
      return
    case 'exit': {
      // A call that belongs to no cadence ends none.
      if (action.scope === 'cadence') {
        if (enrollment) endEnrollment(context, context.state.enrollment[enrollment.id]!, action.as, cause)
        return
      }
      endAll(context, prospect, [], action.as, cause)
      if (action.scope === 'company') endForColleagues(context, prospect, action.as, cause)
      return
    }
    case 'moveStage': {
      // Where no reason is asked for, the outcome itself is the reason.
      const given = { reason: details.reason?.trim() || (outcome?.name ?? null), note: details.note ?? null }
      const people = action.scope === 'company' ? [prospect, ...colleaguesOf(context.state, prospect)] : [prospect]
      for (const person of people) {
        const kind = context.playbook.stages[person.stageId]?.kind
        const fits = action.onlyFrom
          ? action.onlyFrom.includes(person.stageId)
          : person === prospect || kind === 'open' || kind === 'paused'
        // A colleague whom the gate holds back stays where they are; only the person called can be asked for what it
        // wants.
        if (fits && (person.id === prospect.id || passes(context, person, action.to, given))) {
          moveStage(
            context,
            person,
            action.to,
            person.id === prospect.id ? given : { ...given, override: 'company' },
            cause,
          )
        }
      }
      return
    }
    case 'setCompanyStatus': {
      const company = companyOf(context.state, prospect)
      if (!company) return
      context.change('setCompanyStatus', 'company', company.id, { status: action.to }, cause)
      const exit = exitOfStatus(action.to)
      if (exit) stopCompany(context, [prospect, ...colleaguesOf(context.state, prospect)], exit, cause)
      return
    }
    case 'markNumber':
      if (phoneId) markNumber(context, prospect, phoneId, action.as, cause)
      return
    case 'stop':
      return setStop(context, prospect, action.channel, true, cause)
    case 'makeTask': {
      replacePlans(context, prospect, ['first_contact', 'follow_up', 'call'], {
        source: 'system_rule',
        summary: PLAN_REPLACED,
      })
      const dueAt = workingMoment(context, prospect, context.now + action.days * DAY)
      makeTask(context, prospect, { kind: 'follow_up', priority: 2, title: action.title, dueAt }, cause)
      return
    }
    case 'bookMeeting':
      return bookMeeting(context, prospect, details, cause)
    case 'openDeal': {
      const company = companyOf(context.state, prospect)
      // One deal at a company at a time, unless someone asks for another by hand.
      if (openDealOf(context, prospect)) return
      context.create(
        'openDeal',
        'deal',
        {
          id: context.newId(),
          companyId: company?.id ?? null,
          prospectId: prospect.id,
          ownerId: prospect.ownerId ?? context.event.actorId,
          name: company?.name ?? fullName(prospect),
          status: 'open',
          likelihood: action.likelihood,
          openedAt: context.now,
          value: null,
          stageId: null,
          expectedClose: null,
          closedAt: null,
          closeReason: null,
        },
        cause,
      )
      return
    }
    case 'addReferral':
      return addReferral(context, prospect, details, cause)
  }
}

/** Whether a company's status keeps everyone there from being contacted, and how their cadences end then. */
export function exitOfStatus(status: CompanyStatus): ExitReason | null {
  if (status === 'not_a_fit') return 'not_a_fit'
  return status === 'do_not_contact' ? 'stopped' : null
}

/** Whether a colleague passes a gate on what was said at their company: that conversation counts for them, too. */
function passes(
  context: ReactionContext,
  person: Prospect,
  to: Id,
  given: { reason: string | null; note: string | null },
): boolean {
  const stage = context.playbook.stages[to]
  return (
    !stage ||
    !missingRequirements(stage, { ...gateFacts(context, person, given), reached: true }, context.playbook.customFields)
      .length
  )
}

/**
 * Takes everyone else at the company out of their cadences; a booked meeting leaves those alone whose cadence says that
 * only who booked leaves.
 */
function endForColleagues(context: ReactionContext, prospect: Prospect, as: ExitReason, cause: Cause): void {
  for (const colleague of colleaguesOf(context.state, prospect)) {
    for (const enrollment of openEnrollments(context.state, colleague.id)) {
      const stays = as === 'meeting_booked' && cadenceOf(context, enrollment)?.exits.booked === 'person'
      // They did not book: a cadence counts its own meetings alone.
      if (!stays) endEnrollment(context, enrollment, as === 'meeting_booked' ? 'colleague_booked' : as, cause)
    }
  }
}

/** Sets or lifts a stop, and takes back what it forbids: queued mail, open calls. */
export function setStop(
  context: ReactionContext,
  prospect: Prospect,
  channel: Channel,
  on: boolean,
  cause: Cause,
): void {
  const patch = { ...(channel !== 'email' && { stopCall: on }), ...(channel !== 'call' && { stopEmail: on }) }
  context.change('setStop', 'prospect', prospect.id, patch, cause)
  if (!on) return
  const { stopCall, stopEmail } = context.state.prospect[prospect.id]!
  if (stopCall && stopEmail) {
    endAll(context, prospect, [], 'stopped', cause)
    return withdrawAll(context, context.state.prospect[prospect.id]!, cause)
  }
  if (stopEmail) withdrawEmail(context, prospect, cause)
  if (stopCall) withdrawCalls(context, prospect, cause)
}

const nameOf = ({ firstName, lastName }: NonNullable<OutcomeDetails['referral']>) => `${firstName}${lastName}`.trim()

function addReferral(context: ReactionContext, prospect: Prospect, details: OutcomeDetails, cause: Cause): void {
  const { referral } = details
  if (!referral || !nameOf(referral)) return
  const known = referral.knownId ? context.state.prospect[referral.knownId] : null
  const first = Object.values(context.playbook.stages)
    .filter((stage) => stage.kind === 'open' && !stage.archived)
    .sort((a, b) => a.position - b.position)[0]!
  const person =
    known ??
    context.create(
      'addPerson',
      'prospect',
      {
        id: context.newId(),
        companyId: prospect.companyId,
        ownerId: prospect.ownerId ?? context.event.actorId,
        stageId: first.id,
        firstName: referral.firstName.trim(),
        lastName: referral.lastName.trim(),
        title: referral.title?.trim() || null,
        timeZone: prospect.timeZone,
        timeZoneFrom: prospect.timeZoneFrom,
        country: prospect.country,
        region: prospect.region,
        stopCall: false,
        stopEmail: false,
        status: 'active',
      },
      cause,
    )
  if (!known && referral.email) {
    context.create(
      'addContact',
      'emailAddress',
      { id: context.newId(), prospectId: person.id, address: referral.email, status: 'ok', position: 0 },
      cause,
    )
  }
  if (!known && referral.phone) {
    context.create(
      'addContact',
      'phone',
      {
        id: context.newId(),
        prospectId: person.id,
        number: referral.phone,
        kind: 'work',
        status: 'unverified',
        position: 0,
      },
      cause,
    )
  }
  if (
    ofProspect(context.state, 'task', person.id).some((task) => task.status === 'open') ||
    openEnrollments(context.state, person.id).length
  ) {
    return
  }
  makeTask(
    context,
    person,
    { kind: 'follow_up', priority: 1, title: `Referred by ${fullName(prospect)}`, dueAt: context.now },
    cause,
  )
}
