import { endBounced } from './exits'
import { setStop, withdrawTasks } from './moves/stopProspect'
import type { EmailAddressStatus } from '../enumerations'
import type { Id } from '../instant'
import type { ReactionContext } from './state/reactionContext'
import type { Stop } from './state/causes'
import type { Cause } from './state/effects'
import type { DomainEvent } from './state/events'
import { cancelDelayed, STARTS } from './moves/delayed'
import { advance, cadenceOf, endAll, endEnrollment, moveStage } from './moves/progress'
import { makeTask, replacePlans, touch } from './moves/work'
import { notify } from './moves/notify'
import { planNextAction } from './moves/nextAction'
import {
  colleaguesOf,
  ofProspect,
  openEnrollments,
  usableEmail,
  type EmailMessage,
  type Enrollment,
  type Prospect,
} from './state/engineState'
import { emailBarrier, stopOf, whyNoEmail, whyNoMailOfMany, whyStopped } from './moves/stops'

type Of<K extends DomainEvent['kind']> = Extract<DomainEvent, { kind: K }>

function messageOf(context: ReactionContext, id: string): EmailMessage | null {
  return context.state.emailMessage[id] ?? null
}

/** Mail has left for certain: a touch, and a cadence goes on. Telling twice changes nothing. */
function sent(context: ReactionContext, message: EmailMessage): void {
  const cause: Cause = message.stepId ? { source: 'step', id: message.stepId } : { source: 'person' }
  const prospect = context.state.prospect[message.prospectId]!
  context.change('settleEmail', 'emailMessage', message.id, { status: 'sent', sentAt: context.now }, cause)
  touch(
    context,
    prospect,
    {
      kind: 'email',
      countsAs: 'none',
      messageId: message.id,
      enrollmentId: message.enrollmentId,
      stepId: message.stepId,
      userId: message.senderId,
    },
    cause,
  )
  const enrollment = message.enrollmentId ? context.state.enrollment[message.enrollmentId] : null
  if (enrollment?.status === 'active' && enrollment.stepId === message.stepId) {
    advance(context, prospect, enrollment, cause)
  }
}

export function onEmailSent(context: ReactionContext, event: Of<'emailSent'>): void {
  const message = messageOf(context, event.messageId)
  if (message && (message.status === 'sending' || message.status === 'queued')) sent(context, message)
}

/** An email was looked at for the first time. */
export function onEmailOpened(context: ReactionContext, event: Of<'emailOpened'>): void {
  const message = messageOf(context, event.messageId)
  if (!message || message.openedAt !== null) return
  const cause: Cause = message.stepId ? { source: 'step', id: message.stepId } : { source: 'person' }
  context.change('openEmail', 'emailMessage', message.id, { openedAt: context.now }, cause)
}

/** A link of an email was clicked for the first time; so it was looked at, too. */
export function onEmailClicked(context: ReactionContext, event: Of<'emailClicked'>): void {
  const message = messageOf(context, event.messageId)
  if (!message || message.clickedAt !== null) return
  const cause: Cause = message.stepId ? { source: 'step', id: message.stepId } : { source: 'person' }
  const openedAt = message.openedAt ?? context.now
  context.change('clickEmail', 'emailMessage', message.id, { clickedAt: context.now, openedAt }, cause)
}

/** The server refused for good: the address is marked, and the cadences end as bounced. */
export function onEmailFailed(context: ReactionContext, event: Of<'emailFailed'> | Of<'emailBounced'>): void {
  const message = messageOf(context, event.messageId)
  if (!message) return
  const cause: Cause = { source: 'system_rule', rule: 'addressFailed' }
  const prospect = context.state.prospect[message.prospectId]!
  notify(context, prospect, message.senderId, 'email_failed', cause)
  if (event.kind === 'emailFailed') {
    context.change('settleEmail', 'emailMessage', message.id, { status: 'failed' }, cause)
  }
  if (event.kind === 'emailFailed' && !event.permanent) {
    makeTask(
      context,
      prospect,
      {
        kind: 'check_mail',
        priority: 1,
        title: 'An email could not be sent',
        dueAt: context.now,
        messageId: message.id,
        ownerId: message.senderId,
      },
      cause,
    )
    return
  }
  context.change('markEmail', 'emailAddress', message.emailAddressId, { status: 'bounced' }, cause)
  moveOffAddress(context, prospect, message.emailAddressId, cause)
  const enrollment = message.enrollmentId ? context.state.enrollment[message.enrollmentId] : null
  if (enrollment && enrollment.status !== 'ended') endBounced(context, prospect, enrollment)
}

/** Says by hand whether an address works; email that waits for one that does not goes to another, or is taken back. */
export function setAddressStatus(
  context: ReactionContext,
  prospect: Prospect,
  emailAddressId: Id,
  status: EmailAddressStatus,
): void {
  const cause: Cause = { source: 'person' }
  context.change('markEmail', 'emailAddress', emailAddressId, { status }, cause)
  if (status === 'bounced') moveOffAddress(context, prospect, emailAddressId, cause)
}

/**
 * Email that waits for an address that has bounced goes to another one of the person's, or is taken back where there is
 * none.
 */
function moveOffAddress(context: ReactionContext, prospect: Prospect, emailAddressId: Id, cause: Cause): void {
  const other = usableEmail(context.state, prospect.id)
  if (!other) withdrawTasks(context, prospect, ['email'], cause)
  for (const message of ofProspect(context.state, 'emailMessage', prospect.id)) {
    if (message.emailAddressId !== emailAddressId || (message.status !== 'queued' && message.status !== 'held')) {
      continue
    }
    if (other) {
      context.change('queueEmail', 'emailMessage', message.id, { emailAddressId: other.id }, cause)
      continue
    }
    context.change('cancelEmail', 'emailMessage', message.id, { status: 'cancelled' }, cause)
    const enrollment = message.enrollmentId ? context.state.enrollment[message.enrollmentId] : null
    if (enrollment?.status === 'active' && enrollment.stepId === message.stepId) {
      advance(context, prospect, enrollment, cause)
    }
  }
}

/** Something the template needs is missing: the mail is held and someone is asked. */
export function onEmailHeld(context: ReactionContext, event: Of<'emailHeld'> | Of<'emailUnconfirmed'>): void {
  const message = messageOf(context, event.messageId)
  if (!message || (message.status !== 'queued' && message.status !== 'sending')) return
  const held = event.kind === 'emailHeld'
  const cause: Cause = {
    source: 'system_rule',
    rule: held ? 'emailHeld' : 'emailUnconfirmed',
  }
  const prospect = context.state.prospect[message.prospectId]!
  context.change('settleEmail', 'emailMessage', message.id, { status: held ? 'held' : 'unconfirmed' }, cause)
  if (held) notify(context, prospect, message.senderId, 'email_failed', cause)
  makeTask(
    context,
    prospect,
    {
      kind: 'check_mail',
      priority: 1,
      title: held ? 'An email waits for a missing detail' : 'An email may have gone out',
      dueAt: context.now,
      messageId: message.id,
      ownerId: message.senderId,
    },
    cause,
  )
}

/** By which rule an email is canceled: a stop, what was found as it was to leave, or what keeps email away. */
function whyEmailStopped(
  context: ReactionContext,
  prospect: Prospect,
  stop: Stop | null,
  why: string | undefined,
): Pick<Cause, 'rule' | 'values' | 'said'> {
  if (stop) return { rule: 'stopped', values: { stop } }
  if (why) return { rule: 'emailNotSent', said: why }
  const barrier = emailBarrier(context.state, prospect)
  return barrier ? { rule: 'emailNotSent', values: { barrier } } : { rule: 'cadenceWentOn' }
}

/**
 * Checked again at the moment of sending: mail that may not go any more is cancelled, and its cadence ends or goes on
 * without it.
 */
export function onEmailStopped(context: ReactionContext, event: Of<'emailStopped'>): void {
  const message = messageOf(context, event.messageId)
  if (message?.status !== 'queued') return
  const prospect = context.state.prospect[message.prospectId]!
  const enrollment = message.enrollmentId ? context.state.enrollment[message.enrollmentId] : null
  const stop = stopOf(context.state, prospect, enrollment ? (cadenceOf(context, enrollment)?.cold ?? false) : false)
  const cause: Cause = { source: 'system_rule', ...whyEmailStopped(context, prospect, stop, event.why) }
  context.change('cancelEmail', 'emailMessage', message.id, { status: 'cancelled' }, cause)
  if (enrollment?.status !== 'active' || enrollment.stepId !== message.stepId) return
  if (stop) endEnrollment(context, enrollment, 'stopped', cause)
  else advance(context, prospect, enrollment, cause)
}

/** Someone has found out what became of held or unconfirmed mail: it went out, or it is to be sent now. */
export function onEmailSettled(context: ReactionContext, event: Of<'emailSettled'>): void {
  const message = messageOf(context, event.messageId)
  if (!message || (message.status !== 'unconfirmed' && message.status !== 'held' && message.status !== 'failed')) {
    return context.refuse('message', 'This email has already been settled')
  }
  const cause: Cause = { source: 'person' }
  for (const task of Object.values(context.state.task)) {
    if (task.messageId === message.id && task.status === 'open') {
      context.change('finishTask', 'task', task.id, { status: 'done', doneAt: context.now }, cause)
    }
  }
  const prospect = context.state.prospect[message.prospectId]!
  const why = event.wentOut ? null : (whyStopped(context.state, prospect, false) ?? whyNoEmail(context.state, prospect))
  if (why) return context.refuse('message', `Not sent: ${why}`)
  if (event.wentOut) sent(context, message)
  else {
    context.change(
      'queueEmail',
      'emailMessage',
      message.id,
      { status: 'queued', sendAt: context.now, emailAddressId: usableAddress(context, message) },
      cause,
    )
  }
}

/** The address a message is for, or another one of the person's where that has bounced. */
function usableAddress(context: ReactionContext, message: EmailMessage): Id {
  return context.state.emailAddress[message.emailAddressId]?.status === 'ok'
    ? message.emailAddressId
    : usableEmail(context.state, message.prospectId)!.id
}

export function onEmailReplied(context: ReactionContext, event: Of<'emailReplied'>): void {
  const message = event.messageId ? messageOf(context, event.messageId) : null
  onAnswered(context, context.state.prospect[event.prospectId]!, { message, phoneId: null }, 'Replied by email')
}

/**
 * The person has answered, to an email of ours or otherwise: cadences end, but for those that go on after a reply, and
 * someone answers first thing.
 */
export function onAnswered(
  context: ReactionContext,
  prospect: Prospect,
  { message, phoneId }: { message: EmailMessage | null; phoneId: Id | null },
  title: string,
): void {
  const open = openEnrollments(context.state, prospect.id)
  const endsByReply = (enrollment: Enrollment) => cadenceOf(context, enrollment)?.exits.replied !== null
  const companyWide = open.some((enrollment) => cadenceOf(context, enrollment)?.exits.replied === 'company')
  const cause: Cause = {
    source: 'cadence',
    ...(open[0] && { id: open[0].cadenceId }),
    rule: open.some(endsByReply) ? 'replyEndsCadence' : 'replied',
  }
  touch(
    context,
    prospect,
    {
      kind: 'reply',
      countsAs: 'conversation',
      messageId: message?.id ?? null,
      enrollmentId: message?.enrollmentId ?? null,
      userId: null,
      phoneId,
    },
    cause,
  )
  notify(context, prospect, prospect.ownerId, 'reply', cause)
  cancelDelayed(context, prospect, STARTS, cause)
  for (const enrollment of open.filter(endsByReply)) endEnrollment(context, enrollment, 'replied', cause)
  if (companyWide) {
    for (const colleague of colleaguesOf(context.state, prospect)) {
      endAll(context, colleague, [], 'colleague_replied', cause)
    }
  }
  const now = context.state.prospect[prospect.id]!
  const kind = context.playbook.stages[now.stageId]?.kind
  const answered = context.playbook.answered ? context.playbook.stages[context.playbook.answered] : null
  const here = context.playbook.stages[now.stageId]
  const further = here && answered && (kind === 'paused' || here.position < answered.position)
  if (further && (kind === 'open' || kind === 'paused')) {
    moveStage(context, now, answered.id, { reason: null, note: null, override: 'an answer' }, cause)
  }
  replacePlans(context, prospect, ['first_contact', 'follow_up'], {
    source: 'system_rule',
    rule: 'replied',
  })
  makeTask(
    context,
    prospect,
    {
      kind: 'reply',
      priority: 0,
      title,
      dueAt: context.now,
      ownerId: prospect.ownerId ?? message?.senderId ?? open[0]?.byId ?? null,
    },
    cause,
  )
}

/** The person chose to get no more mail. Honored at once (the law gives ten business days: 15 USC 7704(a)(4)). */
export function onUnsubscribed(context: ReactionContext): void {
  setStop(context, context.state.prospect[context.event.prospectId]!, 'email', true, {
    source: 'system_rule',
    rule: 'optOut',
  })
}

/** The step of a cadence that is done by sending an email from the Desk; null where the email is for no step. */
function stepInHand(context: ReactionContext, event: Of<'emailWritten'>): Enrollment | null {
  const task = event.taskId ? context.state.task[event.taskId] : null
  const enrollment =
    task?.kind === 'email' && task.status === 'open' ? context.state.enrollment[task.enrollmentId ?? ''] : null
  return enrollment?.status === 'active' && enrollment.stepId === task?.stepId ? enrollment : null
}

/** A rep has written a mail by hand, or sends that of a step: it goes now, and what it answers is done. */
export function onEmailWritten(context: ReactionContext, event: Of<'emailWritten'>): void {
  const prospect = context.state.prospect[event.prospectId]!
  const email = usableEmail(context.state, prospect.id)
  const enrollment = stepInHand(context, event)
  const cold = enrollment ? (cadenceOf(context, enrollment)?.cold ?? false) : false
  const stopped = event.many ? whyNoMailOfMany(context.state, prospect) : whyStopped(context.state, prospect, cold)
  if (stopped) return context.refuse('to', stopped)
  if (prospect.stopEmail) return context.refuse('to', 'Asked for no email')
  if (!email) return context.refuse('to', 'There is no email address that works')
  const cause: Cause = { source: 'person' }
  const byHand = event.many ? 'bulk' : 'personal'
  const kind = enrollment ? 'step' : byHand
  context.create(
    'queueEmail',
    'emailMessage',
    {
      id: event.messageId,
      prospectId: prospect.id,
      kind,
      enrollmentId: enrollment?.id ?? null,
      stepId: enrollment?.stepId ?? null,
      meetingId: null,
      emailAddressId: email.id,
      senderId: event.actorId,
      status: 'queued',
      sendAt: Math.max(context.now, event.many?.sendAt ?? 0),
      sentAt: null,
      openedAt: null,
      clickedAt: null,
    },
    cause,
  )
  const task = event.taskId ? context.state.task[event.taskId] : null
  if (task?.status === 'open') {
    context.change('finishTask', 'task', task.id, { status: 'done', doneAt: context.now }, cause)
  }
  if (event.many || enrollment) return
  replacePlans(context, prospect, ['first_contact'], {
    source: 'system_rule',
    rule: 'emailFirstContact',
  })
  // What comes after the email is planned, and said, when it is written.
  planNextAction(context, context.state.prospect[prospect.id]!)
}
