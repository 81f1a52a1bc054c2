import { MINUTE, type Id, type Instant } from '../instant'
import { addBusinessDays, isZone } from '../calendar/local'
import type { Course } from './course'
import { openDealOf } from './deals'
import type { Because } from './effects'
import type { Happening, OutcomeDetails } from './happenings'
import { makeTask, PLAN_REPLACED, replacePlans, touch, workingMoment } from './progress'
import {
  companyOf,
  fullName,
  ofProspect,
  placeOf,
  usableEmail,
  type Appointment,
  type Prospect,
  type Task,
} from './situation'

/**
 * How likely a deal is once its first meeting was held and they qualified, in percent. Common practice, no published
 * source.
 */
const QUALIFIED = 40

type Of<K extends Happening['kind']> = Extract<Happening, { kind: K }>

/** Books a meeting: its invitation goes out where there is an address, and afterward somebody is asked how it went. */
export function bookMeeting(course: Course, prospect: Prospect, details: OutcomeDetails, because: Because): void {
  const { meeting } = details
  if (!meeting) return
  const endAt = meeting.startAt + meeting.minutes * MINUTE
  const appointment = course.create(
    'bookMeeting',
    'appointment',
    {
      id: course.newId(),
      prospectId: prospect.id,
      userId: course.happening.actorId ?? prospect.ownerId,
      title: meeting.title.trim() || 'Meeting',
      bookedAt: course.now,
      startAt: meeting.startAt,
      endAt,
      zone: meeting.zone,
      state: 'booked',
      sequence: 0,
      place: meeting.place?.trim() || null,
    },
    because,
  )
  const { email: given } = meeting
  const emails = ofProspect(course.situation, 'email', prospect.id)
  if (given && !emails.some((row) => row.address === given)) {
    course.create(
      'addContact',
      'email',
      { id: course.newId(), prospectId: prospect.id, address: given, standing: 'ok', position: emails.length },
      because,
    )
  }
  queueInvitation(course, prospect, appointment, because)
  replacePlans(course, prospect, ['first_contact', 'follow_up', 'call_back', 'call'], {
    by: 'law',
    says: PLAN_REPLACED,
  })
  makeTask(
    course,
    prospect,
    { kind: 'meeting_result', lane: 1, title: 'How did the meeting go?', dueAt: endAt, ownerId: appointment.userId },
    because,
  )
}

/** Queues the email about a meeting as it stands: invitation, update or cancellation (RFC 5546). */
function queueInvitation(course: Course, prospect: Prospect, appointment: Appointment, because: Because): void {
  const email = usableEmail(course.situation, prospect.id)
  if (!email || prospect.stopEmail) return
  course.create(
    'queueEmail',
    'message',
    {
      id: course.newId(),
      prospectId: prospect.id,
      kind: 'invitation',
      enrollmentId: null,
      stepId: null,
      appointmentId: appointment.id,
      emailId: email.id,
      senderId: appointment.userId,
      state: 'queued',
      sendAt: course.now,
      sentAt: null,
    },
    because,
  )
}

/** Whether the invitation has left: then each change of the meeting is sent, too. */
function wasInvited(course: Course, appointment: Appointment): boolean {
  return ofProspect(course.situation, 'message', appointment.prospectId).some(
    (row) => row.appointmentId === appointment.id && ['sending', 'sent', 'unconfirmed'].includes(row.state),
  )
}

/** Takes back invitations that have not left. */
function withdrawInvitations(course: Course, appointment: Appointment, because: Because): void {
  for (const message of ofProspect(course.situation, 'message', appointment.prospectId)) {
    const waits = message.appointmentId === appointment.id && (message.state === 'queued' || message.state === 'held')
    if (waits) course.change('cancelEmail', 'message', message.id, { state: 'cancelled' }, because)
  }
}

function resultTask(course: Course, appointment: Appointment): Task | null {
  return (
    ofProspect(course.situation, 'task', appointment.prospectId).find(
      (task) => task.kind === 'meeting_result' && task.state === 'open' && task.dueAt === appointment.endAt,
    ) ?? null
  )
}

function bookedMeeting(course: Course, id: Id): Appointment | null {
  const appointment = course.situation.appointment[id]
  if (appointment?.state === 'booked') return appointment
  course.refuse('meeting', 'This meeting is not booked any more')
  return null
}

/** Moves a meeting: the other side gets an update of the invitation, and the question how it went moves along. */
export function onMeetingMoved(course: Course, happening: Of<'meetingMoved'>): void {
  const appointment = bookedMeeting(course, happening.appointmentId)
  if (!appointment) return
  if (happening.startAt <= course.now) return course.refuse('startAt', 'That time has passed')
  if (!isZone(happening.zone)) return course.refuse('zone', 'Unknown time zone')
  const because: Because = { by: 'person' }
  const prospect = course.situation.prospect[appointment.prospectId]!
  const task = resultTask(course, appointment)
  const invited = wasInvited(course, appointment)
  const endAt = happening.startAt + happening.minutes * MINUTE
  withdrawInvitations(course, appointment, because)
  course.change(
    'moveMeeting',
    'appointment',
    appointment.id,
    { startAt: happening.startAt, endAt, zone: happening.zone, sequence: appointment.sequence + (invited ? 1 : 0) },
    because,
  )
  queueInvitation(course, prospect, course.situation.appointment[appointment.id]!, because)
  if (task) course.change('moveTask', 'task', task.id, { dueAt: endAt }, because)
  else {
    makeTask(
      course,
      prospect,
      { kind: 'meeting_result', lane: 1, title: 'How did the meeting go?', dueAt: endAt, ownerId: appointment.userId },
      because,
    )
  }
}

/** Cancels a meeting: the other side gets a cancellation where they had an invitation. */
export function cancelMeeting(course: Course, appointment: Appointment, because: Because): void {
  const prospect = course.situation.prospect[appointment.prospectId]!
  const task = resultTask(course, appointment)
  const invited = wasInvited(course, appointment)
  withdrawInvitations(course, appointment, because)
  course.change(
    'cancelMeeting',
    'appointment',
    appointment.id,
    { state: 'cancelled', sequence: appointment.sequence + (invited ? 1 : 0) },
    because,
  )
  if (task) course.change('cancelTask', 'task', task.id, { state: 'cancelled', doneAt: course.now }, because)
  if (invited) queueInvitation(course, prospect, course.situation.appointment[appointment.id]!, because)
}

/** Sends the invitation again where a change that was sent has been undone. */
export function announceAgain(course: Course, appointmentId: Id, sequence: number, because: Because): void {
  const appointment = course.situation.appointment[appointmentId]
  if (appointment?.state !== 'booked') return
  course.change('moveMeeting', 'appointment', appointmentId, { sequence: sequence + 1 }, because)
  queueInvitation(
    course,
    course.situation.prospect[appointment.prospectId]!,
    course.situation.appointment[appointmentId]!,
    because,
  )
}

export function onMeetingCancelled(course: Course, happening: Of<'meetingCancelled'>): void {
  const appointment = bookedMeeting(course, happening.appointmentId)
  if (appointment) cancelMeeting(course, appointment, { by: 'person' })
}

/** Says how a meeting went, and what follows: a deal that has become likely, or another try where they did not come. */
export function onMeetingResult(course: Course, happening: Of<'meetingResult'>): void {
  const appointment = bookedMeeting(course, happening.appointmentId)
  if (!appointment) return
  if (appointment.startAt > course.now) return course.refuse('meeting', 'This meeting has not taken place yet')
  const because: Because = { by: 'person' }
  const prospect = course.situation.prospect[appointment.prospectId]!
  const task = resultTask(course, appointment)
  const came = happening.result !== 'no_show'
  course.change('settleMeeting', 'appointment', appointment.id, { state: came ? 'held' : 'no_show' }, because)
  if (task) course.change('finishTask', 'task', task.id, { state: 'done', doneAt: course.now }, because)
  touch(course, prospect, { kind: 'meeting', countsAs: came ? 'conversation' : 'neither' }, because)
  if (happening.result === 'qualified') qualify(course, prospect, because)
  if (!came) {
    const dueAt = workingMoment(course, prospect, nextBusinessDay(course, prospect))
    makeTask(
      course,
      prospect,
      { kind: 'follow_up', lane: 1, title: 'They did not come: find another time', dueAt },
      because,
    )
  }
}

function nextBusinessDay(course: Course, prospect: Prospect): Instant {
  return addBusinessDays(course.now, 1, placeOf(prospect), course.playbook.holidays)
}

/** The company's open deal becomes likely; where there is none, one is opened. */
function qualify(course: Course, prospect: Prospect, because: Because): void {
  const company = companyOf(course.situation, prospect)
  const deal = openDealOf(course, prospect)
  if (deal) {
    if (deal.likelihood < QUALIFIED) course.change('changeDeal', 'deal', deal.id, { likelihood: QUALIFIED }, because)
    return
  }
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
      likelihood: QUALIFIED,
      openedAt: course.now,
      value: null,
      stageId: null,
      expectedClose: null,
      closedAt: null,
      closeReason: null,
    },
    because,
  )
}
