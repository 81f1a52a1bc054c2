import { MINUTE, type Id, type Instant } from '../../instant'
import { addBusinessDays } from '../../calendar/local'
import { isZone } from '../../places/isZone'
import type { ReactionContext } from '../state/reactionContext'
import { openDealOf } from './deals'
import type { Cause } from '../state/effects'
import type { DomainEvent, OutcomeDetails } from '../state/events'
import { makeTask, replacePlans, touch } from './work'
import { workingMoment } from './nextAction'
import {
  companyOf,
  fullName,
  ofProspect,
  placeOf,
  usableEmail,
  type Meeting,
  type Prospect,
  type Task,
} from '../state/engineState'

/**
 * How likely a deal is once its first meeting was held and they qualified, in percent. Common practice, no published
 * source.
 */
const QUALIFIED = 40

type Of<K extends DomainEvent['kind']> = Extract<DomainEvent, { kind: K }>

/** Books a meeting: its invitation goes out where there is an address, and afterward someone is asked how it went. */
export function bookMeeting(context: ReactionContext, prospect: Prospect, details: OutcomeDetails, cause: Cause): void {
  const { meeting: asked } = details
  if (!asked) return
  const endAt = asked.startAt + asked.minutes * MINUTE
  const meeting = context.create(
    'bookMeeting',
    'meeting',
    {
      id: context.newId(),
      prospectId: prospect.id,
      userId: context.event.actorId ?? prospect.ownerId,
      title: asked.title.trim() || 'Meeting',
      bookedAt: context.now,
      startAt: asked.startAt,
      endAt,
      timeZone: asked.timeZone,
      status: 'booked',
      sequence: 0,
      place: asked.place?.trim() || null,
    },
    cause,
  )
  const { email: given } = asked
  const emails = ofProspect(context.state, 'emailAddress', prospect.id)
  if (given && !emails.some((row) => row.address === given)) {
    context.create(
      'addContact',
      'emailAddress',
      { id: context.newId(), prospectId: prospect.id, address: given, status: 'ok', position: emails.length },
      cause,
    )
  }
  queueInvitation(context, prospect, meeting, cause)
  replacePlans(context, prospect, ['first_contact', 'follow_up', 'call_back', 'call'], {
    source: 'system_rule',
    rule: 'planReplaced',
  })
  makeTask(
    context,
    prospect,
    { kind: 'meeting_result', priority: 1, title: 'How did the meeting go?', dueAt: endAt, ownerId: meeting.userId },
    cause,
  )
}

/** Queues the email about a meeting as it stands: invitation, update or cancellation (RFC 5546). */
function queueInvitation(context: ReactionContext, prospect: Prospect, meeting: Meeting, cause: Cause): void {
  const email = usableEmail(context.state, prospect.id)
  if (!email || prospect.stopEmail) return
  context.create(
    'queueEmail',
    'emailMessage',
    {
      id: context.newId(),
      prospectId: prospect.id,
      kind: 'invitation',
      enrollmentId: null,
      stepId: null,
      meetingId: meeting.id,
      emailAddressId: email.id,
      senderId: meeting.userId,
      status: 'queued',
      sendAt: context.now,
      sentAt: null,
      openedAt: null,
      clickedAt: null,
    },
    cause,
  )
}

/** Whether the invitation has left: then each change of the meeting is sent, too. */
function wasInvited(context: ReactionContext, meeting: Meeting): boolean {
  return ofProspect(context.state, 'emailMessage', meeting.prospectId).some(
    (row) => row.meetingId === meeting.id && ['sending', 'sent', 'unconfirmed'].includes(row.status),
  )
}

/** Takes back invitations that have not left. */
function withdrawInvitations(context: ReactionContext, meeting: Meeting, cause: Cause): void {
  for (const message of ofProspect(context.state, 'emailMessage', meeting.prospectId)) {
    const waits = message.meetingId === meeting.id && (message.status === 'queued' || message.status === 'held')
    if (waits) context.change('cancelEmail', 'emailMessage', message.id, { status: 'cancelled' }, cause)
  }
}

function resultTask(context: ReactionContext, meeting: Meeting): Task | null {
  return (
    ofProspect(context.state, 'task', meeting.prospectId).find(
      (task) => task.kind === 'meeting_result' && task.status === 'open' && task.dueAt === meeting.endAt,
    ) ?? null
  )
}

function bookedMeeting(context: ReactionContext, id: Id): Meeting | null {
  const meeting = context.state.meeting[id]
  if (meeting?.status === 'booked') return meeting
  context.refuse('meeting', 'This meeting is no longer booked')
  return null
}

/** Moves a meeting: the other side gets an update of the invitation, and the question how it went moves along. */
export function onMeetingMoved(context: ReactionContext, event: Of<'meetingMoved'>): void {
  const meeting = bookedMeeting(context, event.meetingId)
  if (!meeting) return
  if (event.startAt <= context.now) return context.refuse('startAt', 'Choose a time in the future')
  if (!isZone(event.timeZone)) return context.refuse('timeZone', 'Unknown time zone')
  const cause: Cause = { source: 'person' }
  const prospect = context.state.prospect[meeting.prospectId]!
  const task = resultTask(context, meeting)
  const invited = wasInvited(context, meeting)
  const endAt = event.startAt + event.minutes * MINUTE
  withdrawInvitations(context, meeting, cause)
  context.change(
    'moveMeeting',
    'meeting',
    meeting.id,
    { startAt: event.startAt, endAt, timeZone: event.timeZone, sequence: meeting.sequence + (invited ? 1 : 0) },
    cause,
  )
  queueInvitation(context, prospect, context.state.meeting[meeting.id]!, cause)
  if (task) context.change('moveTask', 'task', task.id, { dueAt: endAt }, cause)
  else {
    makeTask(
      context,
      prospect,
      { kind: 'meeting_result', priority: 1, title: 'How did the meeting go?', dueAt: endAt, ownerId: meeting.userId },
      cause,
    )
  }
}

/** Cancels a meeting: the other side gets a cancellation where they had an invitation. */
export function cancelMeeting(context: ReactionContext, meeting: Meeting, cause: Cause): void {
  const prospect = context.state.prospect[meeting.prospectId]!
  const task = resultTask(context, meeting)
  const invited = wasInvited(context, meeting)
  withdrawInvitations(context, meeting, cause)
  context.change(
    'cancelMeeting',
    'meeting',
    meeting.id,
    { status: 'cancelled', sequence: meeting.sequence + (invited ? 1 : 0) },
    cause,
  )
  if (task) context.change('cancelTask', 'task', task.id, { status: 'cancelled', doneAt: context.now }, cause)
  if (invited) queueInvitation(context, prospect, context.state.meeting[meeting.id]!, cause)
}

/** Sends the invitation again where a change that was sent has been undone. */
export function announceAgain(context: ReactionContext, meetingId: Id, sequence: number, cause: Cause): void {
  const meeting = context.state.meeting[meetingId]
  if (meeting?.status !== 'booked') return
  context.change('moveMeeting', 'meeting', meetingId, { sequence: sequence + 1 }, cause)
  queueInvitation(context, context.state.prospect[meeting.prospectId]!, context.state.meeting[meetingId]!, cause)
}

export function onMeetingCancelled(context: ReactionContext, event: Of<'meetingCancelled'>): void {
  const meeting = bookedMeeting(context, event.meetingId)
  if (meeting) cancelMeeting(context, meeting, { source: 'person' })
}

/** Says how a meeting went, and what follows: a deal that has become likely, or another try where they did not come. */
export function onMeetingResult(context: ReactionContext, event: Of<'meetingResult'>): void {
  const meeting = bookedMeeting(context, event.meetingId)
  if (!meeting) return
  if (meeting.startAt > context.now) return context.refuse('meeting', 'This meeting has not taken place yet')
  const cause: Cause = { source: 'person' }
  const prospect = context.state.prospect[meeting.prospectId]!
  const task = resultTask(context, meeting)
  const came = event.result !== 'no_show'
  context.change('settleMeeting', 'meeting', meeting.id, { status: came ? 'held' : 'no_show' }, cause)
  if (task) context.change('finishTask', 'task', task.id, { status: 'done', doneAt: context.now }, cause)
  touch(context, prospect, { kind: 'meeting', countsAs: came ? 'conversation' : 'none' }, cause)
  if (event.result === 'qualified') qualify(context, prospect, cause)
  if (!came) {
    const dueAt = workingMoment(context, prospect, nextBusinessDay(context, prospect))
    makeTask(
      context,
      prospect,
      { kind: 'follow_up', priority: 1, title: 'They did not come: find another time', dueAt },
      cause,
    )
  }
}

function nextBusinessDay(context: ReactionContext, prospect: Prospect): Instant {
  return addBusinessDays(context.now, 1, placeOf(prospect), context.playbook.holidays)
}

/** The company's open deal becomes likely; where there is none, one is opened. */
function qualify(context: ReactionContext, prospect: Prospect, cause: Cause): void {
  const company = companyOf(context.state, prospect)
  const deal = openDealOf(context, prospect)
  if (deal) {
    if (deal.likelihood < QUALIFIED) context.change('changeDeal', 'deal', deal.id, { likelihood: QUALIFIED }, cause)
    return
  }
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
      likelihood: QUALIFIED,
      openedAt: context.now,
      value: null,
      stageId: null,
      expectedClose: null,
      closedAt: null,
      closeReason: null,
    },
    cause,
  )
}
