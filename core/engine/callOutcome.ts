import { DAY, type Id } from '../instant'
import { isZone } from '../calendar/local'
import type { Course } from './course'
import { openDealOf } from './deals'
import type { Because } from './effects'
import type { Happening, OutcomeDetails } from './happenings'
import { bookMeeting } from './meetings'
import type { Consequence, Outcome } from './playbook'
import { gateLacks } from '../stage/gate'
import {
  advance,
  cadenceOf,
  currentStep,
  dropUnchosenPlan,
  endAll,
  endEnrollment,
  gateFacts,
  makeTask,
  markNumber,
  moveStage,
  PLAN_REPLACED,
  replacePlans,
  stopCompany,
  touch,
  withdrawAll,
  withdrawCalls,
  withdrawEmail,
  workingMoment,
} from './progress'
import {
  attemptsOf,
  colleaguesOf,
  companyOf,
  fullName,
  ofProspect,
  openEnrollments,
  usablePhones,
  type CompanyStanding,
  type Enrollment,
  type ExitReason,
  type Prospect,
  type Task,
} from './situation'

type CallLogged = Extract<Happening, { kind: 'callLogged' }>

/** The open task a logged call answers: the one named, else what is due for this person by phone. */
export function taskInHand(course: Course, prospect: Prospect, taskId: string | null): Task | null {
  const open = ofProspect(course.situation, 'task', prospect.id).filter((task) => task.state === 'open')
  if (taskId) return open.find((task) => task.id === taskId) ?? null
  return (
    open
      .filter((task) => ['call', 'call_back', 'follow_up', 'first_contact'].includes(task.kind))
      .filter((task) => task.dueAt <= course.now)
      .sort((a, b) => a.lane - b.lane || a.dueAt - b.dueAt)[0] ?? null
  )
}

/**
 * The enrollment a call belongs to: its task's, else the one that waits on a promised call, else the one waiting at a
 * call step.
 */
function enrollmentInHand(course: Course, prospect: Prospect, task: Task | null): Enrollment | null {
  const open = openEnrollments(course.situation, prospect.id)
  const atCall = (row: Enrollment) => {
    const cadence = cadenceOf(course, row)
    return cadence !== null && currentStep(cadence, row)?.kind === 'call'
  }
  return (
    open.find((row) => row.id === task?.enrollmentId) ??
    open.find((row) => row.state === 'paused') ??
    open.find(atCall) ??
    null
  )
}

/** The call step's own task, where a call made early or by hand has done it. */
function stepTask(course: Course, enrollment: Enrollment | null): Task | null {
  if (enrollment?.state !== 'active') return null
  return (
    ofProspect(course.situation, 'task', enrollment.prospectId).find(
      (task) =>
        task.state === 'open' &&
        task.kind === 'call' &&
        task.enrollmentId === enrollment.id &&
        task.stepId === enrollment.stepId,
    ) ?? null
  )
}

/** Checks what the outcome asks for; each lack becomes a problem at its field. */
function checkDetails(course: Course, prospect: Prospect, outcome: Outcome, details: OutcomeDetails): void {
  for (const ask of outcome.asks) {
    if (ask === 'callBackAt' && details.callBackAt === undefined) {
      course.refuse('callBackAt', 'When should the call back be?')
    }
    if (ask === 'reason' && !details.reason?.trim()) course.refuse('reason', 'Which reason did they give?')
    if (ask === 'note' && !details.note?.trim()) course.refuse('note', 'This outcome wants a note')
    if (ask === 'meeting' && !details.meeting) course.refuse('meeting', 'When is the meeting?')
    // Who the right person is need not be known; but a number or an address is somebody's.
    if (ask === 'referral' && (details.referral?.email || details.referral?.phone) && !nameOf(details.referral)) {
      course.refuse('referral', 'Enter their name')
    }
  }
  if (details.callBackAt !== undefined && details.callBackAt <= course.now) {
    course.refuse('callBackAt', 'That time has passed')
  }
  if (details.callBackAt !== undefined && prospect.stopCall) {
    course.refuse('callBackAt', `${fullName(prospect)} asked for no calls`)
  }
  if (details.meeting && details.meeting.startAt <= course.now) course.refuse('meeting', 'That time has passed')
  if (details.meeting && !isZone(details.meeting.zone)) {
    course.refuse('meeting', `Nobody knows the time zone "${details.meeting.zone}"`)
  }
}

/** What the touch counts as: an attempt only where there was a call, unless the team counts every one. */
function countsAs(course: Course, outcome: Outcome, { call }: CallLogged): Outcome['countsAs'] {
  return outcome.countsAs === 'attempt' && !call && !course.playbook.countsUncalled ? 'neither' : outcome.countsAs
}

function applies(consequence: Consequence, attempts: number): boolean {
  return (
    (consequence.fromAttempt === undefined || attempts >= consequence.fromAttempt) &&
    (consequence.beforeAttempt === undefined || attempts < consequence.beforeAttempt)
  )
}

/** What follows from a logged call: the touch, its task done, then every consequence of the outcome in order. */
export function onCallLogged(course: Course, happening: CallLogged): void {
  const prospect = course.situation.prospect[happening.prospectId]!
  const outcome = course.playbook.outcomes[happening.outcomeId]
  if (!outcome) return course.refuse('outcome', 'There is no such outcome')
  if (happening.taskId && course.situation.task[happening.taskId]?.state !== 'open') {
    return course.refuse('task', 'This has been dealt with already')
  }
  checkDetails(course, prospect, outcome, happening.details)
  if (course.problems.length) return
  const because: Because = { by: 'outcome', id: outcome.id }
  const asked = taskInHand(course, prospect, happening.taskId)
  // An email that waits is not done by a call: it stays on the Desk.
  const given = asked?.kind === 'check_mail' ? null : asked
  const enrollment = enrollmentInHand(course, prospect, given)
  const task = given ?? stepTask(course, enrollment)
  const phoneId = happening.phoneId ?? usablePhones(course.situation, prospect.id)[0]?.id ?? null
  touch(
    course,
    prospect,
    {
      kind: task?.kind === 'meeting_result' ? 'meeting' : 'call',
      countsAs: countsAs(course, outcome, happening),
      outcomeId: outcome.id,
      phoneId,
      reason: happening.details.reason?.trim() || null,
      enrollmentId: enrollment?.id ?? null,
      stepId: enrollment?.stepId ?? null,
    },
    because,
  )
  if (task) course.change('finishTask', 'task', task.id, { state: 'done', doneAt: course.now }, because)
  dropUnchosenPlan(course, prospect)
  const attempts = attemptsOf(course.situation, prospect.id)
  for (const consequence of outcome.consequences) {
    if (applies(consequence, attempts)) {
      follow(
        course,
        course.situation.prospect[prospect.id]!,
        enrollment,
        phoneId,
        consequence,
        happening.details,
        because,
      )
    }
  }
}

function follow(
  course: Course,
  prospect: Prospect,
  enrollment: Enrollment | null,
  phoneId: string | null,
  consequence: Consequence,
  details: OutcomeDetails,
  because: Because,
): void {
  const outcome = course.happening.kind === 'callLogged' ? course.playbook.outcomes[course.happening.outcomeId] : null
  switch (consequence.do) {
    case 'advance':
      if (enrollment && course.situation.enrollment[enrollment.id]!.state !== 'ended') {
        advance(course, prospect, course.situation.enrollment[enrollment.id]!, because)
      }
      return
    case 'callBack':
      if (details.callBackAt === undefined) return
      replacePlans(course, prospect, ['first_contact', 'follow_up', 'call_back', 'call'], {
        by: 'law',
        says: PLAN_REPLACED,
      })
      makeTask(
        course,
        prospect,
        {
          kind: 'call_back',
          lane: 1,
          title: 'Call back as promised',
          dueAt: details.callBackAt,
          ownerId: course.happening.actorId ?? prospect.ownerId,
        },
        because,
      )
      if (enrollment) {
        course.change('pauseEnrollment', 'enrollment', enrollment.id, { state: 'paused', dueAt: null }, because)
      }
      return
    case 'exit': {
      // A call that belongs to no cadence ends none.
      if (consequence.scope === 'cadence') {
        if (enrollment) endEnrollment(course, course.situation.enrollment[enrollment.id]!, consequence.as, because)
        return
      }
      endAll(course, prospect, [], consequence.as, because)
      if (consequence.scope === 'company') endForColleagues(course, prospect, consequence.as, because)
      return
    }
    case 'moveStage': {
      // Where no reason is asked for, the outcome itself is the reason.
      const given = { reason: details.reason?.trim() || (outcome?.name ?? null), note: details.note ?? null }
      const people =
        consequence.scope === 'company' ? [prospect, ...colleaguesOf(course.situation, prospect)] : [prospect]
      for (const person of people) {
        const kind = course.playbook.stages[person.stageId]?.kind
        const fits = consequence.onlyFrom
          ? consequence.onlyFrom.includes(person.stageId)
          : person === prospect || kind === 'open' || kind === 'parked'
        // A colleague whom the gate holds back stays where they are; only the person called can be asked for what it
        // wants.
        if (fits && (person.id === prospect.id || passes(course, person, consequence.to, given))) {
          moveStage(
            course,
            person,
            consequence.to,
            person.id === prospect.id ? given : { ...given, override: 'company' },
            because,
          )
        }
      }
      return
    }
    case 'setCompanyStanding': {
      const company = companyOf(course.situation, prospect)
      if (!company) return
      course.change('setCompanyStanding', 'company', company.id, { standing: consequence.to }, because)
      const exit = exitOfStanding(consequence.to)
      if (exit) stopCompany(course, [prospect, ...colleaguesOf(course.situation, prospect)], exit, because)
      return
    }
    case 'markNumber':
      if (phoneId) markNumber(course, prospect, phoneId, consequence.as, because)
      return
    case 'stop':
      return setStop(course, prospect, consequence.channel, true, because)
    case 'makeTask': {
      replacePlans(course, prospect, ['first_contact', 'follow_up', 'call'], { by: 'law', says: PLAN_REPLACED })
      const dueAt = workingMoment(course, prospect, course.now + consequence.days * DAY)
      makeTask(course, prospect, { kind: 'follow_up', lane: 2, title: consequence.title, dueAt }, because)
      return
    }
    case 'bookMeeting':
      return bookMeeting(course, prospect, details, because)
    case 'openDeal': {
      const company = companyOf(course.situation, prospect)
      // One deal at a company at a time, unless somebody asks for another by hand.
      if (openDealOf(course, prospect)) return
      course.create(
        'openDeal',
        'deal',
        {
          id: course.newId(),
          companyId: company?.id ?? null,
          prospectId: prospect.id,
          ownerId: prospect.ownerId ?? course.happening.actorId,
          name: company?.name ?? fullName(prospect),
          state: 'open',
          likelihood: consequence.likelihood,
          openedAt: course.now,
          value: null,
          stageId: null,
          expectedClose: null,
          closedAt: null,
          closeReason: null,
        },
        because,
      )
      return
    }
    case 'addReferral':
      return addReferral(course, prospect, details, because)
  }
}

/** Whether a company's status keeps everyone there from being contacted, and how their cadences end then. */
export function exitOfStanding(standing: CompanyStanding): ExitReason | null {
  if (standing === 'not_a_fit') return 'not_a_fit'
  return standing === 'do_not_contact' ? 'stopped' : null
}

/** Whether a colleague passes a gate on what was said at their company: that conversation counts for them, too. */
function passes(
  course: Course,
  person: Prospect,
  to: Id,
  given: { reason: string | null; note: string | null },
): boolean {
  const stage = course.playbook.stages[to]
  return (
    !stage ||
    !gateLacks(stage, { ...gateFacts(course, person, given), reached: true }, course.playbook.ownFields).length
  )
}

/**
 * Takes everyone else at the company out of their cadences; a booked meeting leaves those alone whose cadence says that
 * only who booked leaves.
 */
function endForColleagues(course: Course, prospect: Prospect, as: ExitReason, because: Because): void {
  for (const colleague of colleaguesOf(course.situation, prospect)) {
    for (const enrollment of openEnrollments(course.situation, colleague.id)) {
      const stays = as === 'meeting_booked' && cadenceOf(course, enrollment)?.exits.booked === 'person'
      // They did not book: a cadence counts its own meetings alone.
      if (!stays) endEnrollment(course, enrollment, as === 'meeting_booked' ? 'colleague_booked' : as, because)
    }
  }
}

/** Sets or lifts a stop, and takes back what it forbids: queued mail, open calls. */
export function setStop(
  course: Course,
  prospect: Prospect,
  channel: 'call' | 'email' | 'all',
  on: boolean,
  because: Because,
): void {
  const patch = { ...(channel !== 'email' && { stopCall: on }), ...(channel !== 'call' && { stopEmail: on }) }
  course.change('setStop', 'prospect', prospect.id, patch, because)
  if (!on) return
  const { stopCall, stopEmail } = course.situation.prospect[prospect.id]!
  if (stopCall && stopEmail) {
    endAll(course, prospect, [], 'stopped', because)
    return withdrawAll(course, course.situation.prospect[prospect.id]!, because)
  }
  if (stopEmail) withdrawEmail(course, prospect, because)
  if (stopCall) withdrawCalls(course, prospect, because)
}

const nameOf = ({ firstName, lastName }: NonNullable<OutcomeDetails['referral']>) => `${firstName}${lastName}`.trim()

function addReferral(course: Course, prospect: Prospect, details: OutcomeDetails, because: Because): void {
  const { referral } = details
  if (!referral || !nameOf(referral)) return
  const known = referral.knownId ? course.situation.prospect[referral.knownId] : null
  const first = Object.values(course.playbook.stages)
    .filter((stage) => stage.kind === 'open' && !stage.archived)
    .sort((a, b) => a.position - b.position)[0]!
  const person =
    known ??
    course.create(
      'addPerson',
      'prospect',
      {
        id: course.newId(),
        companyId: prospect.companyId,
        ownerId: prospect.ownerId ?? course.happening.actorId,
        stageId: first.id,
        firstName: referral.firstName.trim(),
        lastName: referral.lastName.trim(),
        title: referral.title?.trim() || null,
        zone: prospect.zone,
        zoneFrom: prospect.zoneFrom,
        country: prospect.country,
        region: prospect.region,
        stopCall: false,
        stopEmail: false,
        working: 'in_work',
      },
      because,
    )
  if (!known && referral.email) {
    course.create(
      'addContact',
      'email',
      { id: course.newId(), prospectId: person.id, address: referral.email, standing: 'ok', position: 0 },
      because,
    )
  }
  if (!known && referral.phone) {
    course.create(
      'addContact',
      'phone',
      {
        id: course.newId(),
        prospectId: person.id,
        number: referral.phone,
        kind: 'work',
        standing: 'unverified',
        position: 0,
      },
      because,
    )
  }
  if (
    ofProspect(course.situation, 'task', person.id).some((task) => task.state === 'open') ||
    openEnrollments(course.situation, person.id).length
  ) {
    return
  }
  makeTask(
    course,
    person,
    { kind: 'follow_up', lane: 1, title: `Referred by ${fullName(prospect)}`, dueAt: course.now },
    because,
  )
}
