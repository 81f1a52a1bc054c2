import { MINUTE, type Id, type Instant } from '../instant'
import { addBusinessDays, isZone } from '../calendar/local'
import type { ReactionContext } from './reactionContext'
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
export function bookMeeting(
  context: ReactionContext,
  prospect: Prospect,
  details: OutcomeDetails,
  because: Because,
): void {
  const { meeting } = details
  if (!meeting) return
  const endAt = meeting.startAt + meeting.minutes * MINUTE
  const appointment = context.create(
    'bookMeeting',
    'appointment',
    {
      id: context.newId(),
      prospectId: prospect.id,
      userId: context.happening.actorId ?? prospect.ownerId,
      title: meeting.title.trim() || 'Meeting',
      bookedAt: context.now,
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
  const emails = ofProspect(context.situation, 'email', prospect.id)
  if (given && !emails.some((row) => row.address === given)) {
    context.create(
      'addContact',
      'email',
      { id: context.newId(), prospectId: prospect.id, address: given, standing: 'ok', position: emails.length },
      because,
    )
  }
  queueInvitation(context, prospect, appointment, because)
  replacePlans(context, prospect, ['first_contact', 'follow_up', 'call_back', 'call'], {
    by: 'law',
    says: PLAN_REPLACED,
  })
  makeTask(
    context,
    prospect,
    { kind: 'meeting_result', lane: 1, title: 'How did the meeting go?', dueAt: endAt, ownerId: appointment.userId },
    because,
  )
}

/** Queues the email about a meeting as it stands: invitation, update or cancellation (RFC 5546). */
function queueInvitation(
  context: ReactionContext,
  prospect: Prospect,
  appointment: Appointment,
  because: Because,
): void {
  const email = usableEmail(context.situation, prospect.id)
  if (!email || prospect.stopEmail) return
  context.create(
    'queueEmail',
    'message',
    {
      id: context.newId(),
      prospectId: prospect.id,
      kind: 'invitation',
      enrollmentId: null,
      stepId: null,
      appointmentId: appointment.id,
      emailId: email.id,
      senderId: appointment.userId,
      state: 'queued',
      sendAt: context.now,
      sentAt: null,
    },
    because,
  )
}

/** Whether the invitation has left: then each change of the meeting is sent, too. */
function wasInvited(context: ReactionContext, appointment: Appointment): boolean {
  return ofProspect(context.situation, 'message', appointment.prospectId).some(
    (row) => row.appointmentId === appointment.id && ['sending', 'sent', 'unconfirmed'].includes(row.state),
  )
}

/** Takes back invitations that have not left. */
function withdrawInvitations(context: ReactionContext, appointment: Appointment, because: Because): void {
  for (const message of ofProspect(context.situation, 'message', appointment.prospectId)) {
    const waits = message.appointmentId === appointment.id && (message.state === 'queued' || message.state === 'held')
    if (waits) context.change('cancelEmail', 'message', message.id, { state: 'cancelled' }, because)
  }
}

function resultTask(context: ReactionContext, appointment: Appointment): Task | null {
  return (
    ofProspect(context.situation, 'task', appointment.prospectId).find(
      (task) => task.kind === 'meeting_result' && task.state === 'open' && task.dueAt === appointment.endAt,
    ) ?? null
  )
}

function bookedMeeting(context: ReactionContext, id: Id): Appointment | null {
  const appointment = context.situation.appointment[id]
  if (appointment?.state === 'booked') return appointment
  context.refuse('meeting', 'This meeting is not booked any more')
  return null
}

/** Moves a meeting: the other side gets an update of the invitation, and the question how it went moves along. */
export function onMeetingMoved(context: ReactionContext, happening: Of<'meetingMoved'>): void {
  const appointment = bookedMeeting(context, happening.appointmentId)
  if (!appointment) return
  if (happening.startAt <= context.now) return context.refuse('startAt', 'That time has passed')
  if (!isZone(happening.zone)) return context.refuse('zone', 'Unknown time zone')
  const because: Because = { by: 'person' }
  const prospect = context.situation.prospect[appointment.prospectId]!
  const task = resultTask(context, appointment)
  const invited = wasInvited(context, appointment)
  const endAt = happening.startAt + happening.minutes * MINUTE
  withdrawInvitations(context, appointment, because)
  context.change(
    'moveMeeting',
    'appointment',
    appointment.id,
    { startAt: happening.startAt, endAt, zone: happening.zone, sequence: appointment.sequence + (invited ? 1 : 0) },
    because,
  )
  queueInvitation(context, prospect, context.situation.appointment[appointment.id]!, because)
  if (task) context.change('moveTask', 'task', task.id, { dueAt: endAt }, because)
  else {
    makeTask(
      context,
      prospect,
      { kind: 'meeting_result', lane: 1, title: 'How did the meeting go?', dueAt: endAt, ownerId: appointment.userId },
      because,
    )
  }
}

/** Cancels a meeting: the other side gets a cancellation where they had an invitation. */
export function cancelMeeting(context: ReactionContext, appointment: Appointment, because: Because): void {
  const prospect = context.situation.prospect[appointment.prospectId]!
  const task = resultTask(context, appointment)
  const invited = wasInvited(context, appointment)
  withdrawInvitations(context, appointment, because)
  context.change(
    'cancelMeeting',
    'appointment',
    appointment.id,
    { state: 'cancelled', sequence: appointment.sequence + (invited ? 1 : 0) },
    because,
  )
  if (task) context.change('cancelTask', 'task', task.id, { state: 'cancelled', doneAt: context.now }, because)
  if (invited) queueInvitation(context, prospect, context.situation.appointment[appointment.id]!, because)
}

/** Sends the invitation again where a change that was sent has been undone. */
export function announceAgain(context: ReactionContext, appointmentId: Id, sequence: number, because: Because): void {
  const appointment = context.situation.appointment[appointmentId]
  if (appointment?.state !== 'booked') return
  context.change('moveMeeting', 'appointment', appointmentId, { sequence: sequence + 1 }, because)
  queueInvitation(
    context,
    context.situation.prospect[appointment.prospectId]!,
    context.situation.appointment[appointmentId]!,
    because,
  )
}

export function onMeetingCancelled(context: ReactionContext, happening: Of<'meetingCancelled'>): void {
  const appointment = bookedMeeting(context, happening.appointmentId)
  if (appointment) cancelMeeting(context, appointment, { by: 'person' })
}

/** Says how a meeting went, and what follows: a deal that has become likely, or another try where they did not come. */
export function onMeetingResult(context: ReactionContext, happening: Of<'meetingResult'>): void {
  const appointment = bookedMeeting(context, happening.appointmentId)
  if (!appointment) return
  if (appointment.startAt > context.now) return context.refuse('meeting', 'This meeting has not taken place yet')
  const because: Because = { by: 'person' }
  const prospect = context.situation.prospect[appointment.prospectId]!
  const task = resultTask(context, appointment)
  const came = happening.result !== 'no_show'
  context.change('settleMeeting', 'appointment', appointment.id, { state: came ? 'held' : 'no_show' }, because)
  if (task) context.change('finishTask', 'task', task.id, { state: 'done', doneAt: context.now }, because)
  touch(context, prospect, { kind: 'meeting', countsAs: came ? 'conversation' : 'neither' }, because)
  if (happening.result === 'qualified') qualify(context, prospect, because)
  if (!came) {
    const dueAt = workingMoment(context, prospect, nextBusinessDay(context, prospect))
    makeTask(
      context,
      prospect,
      { kind: 'follow_up', lane: 1, title: 'They did not come: find another time', dueAt },
      because,
    )
  }
}

function nextBusinessDay(context: ReactionContext, prospect: Prospect): Instant {
  return addBusinessDays(context.now, 1, placeOf(prospect), context.playbook.holidays)
}

/** The company's open deal becomes likely; where there is none, one is opened. */
function qualify(context: ReactionContext, prospect: Prospect, because: Because): void {
  const company = companyOf(context.situation, prospect)
  const deal = openDealOf(context, prospect)
  if (deal) {
    if (deal.likelihood < QUALIFIED) context.change('changeDeal', 'deal', deal.id, { likelihood: QUALIFIED }, because)
    return
  }
  context.create(
    'openDeal',
    'deal',
    {
      id: context.newId(),
      companyId: company?.id ?? null,
      prospectId: prospect.id,
      ownerId: prospect.ownerId ?? context.happening.actorId,
      name: company?.name ?? fullName(prospect),
      state: 'open',
      likelihood: QUALIFIED,
      openedAt: context.now,
      value: null,
      stageId: null,
      expectedClose: null,
      closedAt: null,
      closeReason: null,
    },
    because,
  )
}
