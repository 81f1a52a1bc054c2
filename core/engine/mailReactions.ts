import type { Id } from '../instant'
import type { Course } from './course'
import type { Because } from './effects'
import type { Happening } from './happenings'
import {
  advance,
  cadenceOf,
  endAll,
  endEnrollment,
  makeTask,
  moveStage,
  planNextAction,
  replacePlans,
  touch,
} from './progress'
import { setStop } from './callOutcome'
import {
  colleaguesOf,
  ofProspect,
  openEnrollments,
  usableEmail,
  type EmailStanding,
  type Message,
  type Prospect,
} from './situation'
import { whyNoEmail, whyNoMailOfMany, whyStopped } from './stops'

type Of<K extends Happening['kind']> = Extract<Happening, { kind: K }>

function messageOf(course: Course, id: string): Message | null {
  return course.situation.message[id] ?? null
}

/** Mail has left for certain: a touch, and a cadence goes on. Telling twice changes nothing. */
function sent(course: Course, message: Message): void {
  const because: Because = message.stepId ? { by: 'step', id: message.stepId } : { by: 'person' }
  const prospect = course.situation.prospect[message.prospectId]!
  course.change('settleEmail', 'message', message.id, { state: 'sent', sentAt: course.now }, because)
  touch(
    course,
    prospect,
    {
      kind: 'email',
      countsAs: 'neither',
      messageId: message.id,
      enrollmentId: message.enrollmentId,
      stepId: message.stepId,
      userId: message.senderId,
    },
    because,
  )
  const enrollment = message.enrollmentId ? course.situation.enrollment[message.enrollmentId] : null
  if (enrollment?.state === 'active' && enrollment.stepId === message.stepId) {
    advance(course, prospect, enrollment, because)
  }
}

export function onEmailSent(course: Course, happening: Of<'emailSent'>): void {
  const message = messageOf(course, happening.messageId)
  if (message && (message.state === 'sending' || message.state === 'queued')) sent(course, message)
}

/** The server refused for good: the address is marked, and the cadences end as bounced. */
export function onEmailFailed(course: Course, happening: Of<'emailFailed'> | Of<'emailBounced'>): void {
  const message = messageOf(course, happening.messageId)
  if (!message) return
  const because: Because = { by: 'law', says: 'An address that does not work is not written to again' }
  const prospect = course.situation.prospect[message.prospectId]!
  if (happening.kind === 'emailFailed') {
    course.change('settleEmail', 'message', message.id, { state: 'failed' }, because)
  }
  if (happening.kind === 'emailFailed' && !happening.permanent) {
    makeTask(
      course,
      prospect,
      {
        kind: 'check_mail',
        lane: 1,
        title: 'An email could not be sent',
        dueAt: course.now,
        messageId: message.id,
        ownerId: message.senderId,
      },
      because,
    )
    return
  }
  course.change('markEmail', 'email', message.emailId, { standing: 'bounced' }, because)
  moveOffAddress(course, prospect, message.emailId, because)
  const enrollment = message.enrollmentId ? course.situation.enrollment[message.enrollmentId] : null
  if (enrollment) endEnrollment(course, enrollment, 'bounced', because)
}

/** Says by hand whether an address works; email that waits for one that does not goes to another, or is taken back. */
export function setAddressStatus(course: Course, prospect: Prospect, emailId: Id, standing: EmailStanding): void {
  const because: Because = { by: 'person' }
  course.change('markEmail', 'email', emailId, { standing }, because)
  if (standing === 'bounced') moveOffAddress(course, prospect, emailId, because)
}

/**
 * Email that waits for an address that has bounced goes to another one of the person's, or is taken back where there is
 * none.
 */
function moveOffAddress(course: Course, prospect: Prospect, emailId: Id, because: Because): void {
  const other = usableEmail(course.situation, prospect.id)
  for (const message of ofProspect(course.situation, 'message', prospect.id)) {
    if (message.emailId !== emailId || (message.state !== 'queued' && message.state !== 'held')) continue
    if (other) {
      course.change('queueEmail', 'message', message.id, { emailId: other.id }, because)
      continue
    }
    course.change('cancelEmail', 'message', message.id, { state: 'cancelled' }, because)
    const enrollment = message.enrollmentId ? course.situation.enrollment[message.enrollmentId] : null
    if (enrollment?.state === 'active' && enrollment.stepId === message.stepId) {
      advance(course, prospect, enrollment, because)
    }
  }
}

/** Something the template needs is missing: the mail is held and somebody is asked. */
export function onEmailHeld(course: Course, happening: Of<'emailHeld'> | Of<'emailUnconfirmed'>): void {
  const message = messageOf(course, happening.messageId)
  if (!message || (message.state !== 'queued' && message.state !== 'sending')) return
  const held = happening.kind === 'emailHeld'
  const because: Because = {
    by: 'law',
    says: held ? 'No mail goes out with a hole in it' : 'What may have gone out is never sent again on a guess',
  }
  const prospect = course.situation.prospect[message.prospectId]!
  course.change('settleEmail', 'message', message.id, { state: held ? 'held' : 'unconfirmed' }, because)
  makeTask(
    course,
    prospect,
    {
      kind: 'check_mail',
      lane: 1,
      title: held ? 'An email waits for a missing detail' : 'An email may have gone out',
      dueAt: course.now,
      messageId: message.id,
      ownerId: message.senderId,
    },
    because,
  )
}

/**
 * Checked again at the moment of sending: mail that may not go any more is cancelled, and its cadence ends or goes on
 * without it.
 */
export function onEmailStopped(course: Course, happening: Of<'emailStopped'>): void {
  const message = messageOf(course, happening.messageId)
  if (message?.state !== 'queued') return
  const prospect = course.situation.prospect[message.prospectId]!
  const enrollment = message.enrollmentId ? course.situation.enrollment[message.enrollmentId] : null
  const stopped = whyStopped(
    course.situation,
    prospect,
    enrollment ? (cadenceOf(course, enrollment)?.cold ?? false) : false,
  )
  const because: Because = {
    by: 'law',
    says: stopped ?? happening.why ?? whyNoEmail(course.situation, prospect) ?? 'The cadence has gone on',
  }
  course.change('cancelEmail', 'message', message.id, { state: 'cancelled' }, because)
  if (enrollment?.state !== 'active' || enrollment.stepId !== message.stepId) return
  if (stopped) endEnrollment(course, enrollment, 'stopped', because)
  else advance(course, prospect, enrollment, because)
}

/** Somebody has found out what became of held or unconfirmed mail: it went out, or it is to be sent now. */
export function onEmailSettled(course: Course, happening: Of<'emailSettled'>): void {
  const message = messageOf(course, happening.messageId)
  if (!message || (message.state !== 'unconfirmed' && message.state !== 'held' && message.state !== 'failed')) {
    return course.refuse('message', 'This email has been settled already')
  }
  const because: Because = { by: 'person' }
  for (const task of Object.values(course.situation.task)) {
    if (task.messageId === message.id && task.state === 'open') {
      course.change('finishTask', 'task', task.id, { state: 'done', doneAt: course.now }, because)
    }
  }
  const prospect = course.situation.prospect[message.prospectId]!
  const why = happening.wentOut
    ? null
    : (whyStopped(course.situation, prospect, false) ?? whyNoEmail(course.situation, prospect))
  if (why) return course.refuse('message', `Not sent: ${why}`)
  if (happening.wentOut) sent(course, message)
  else {
    course.change(
      'queueEmail',
      'message',
      message.id,
      { state: 'queued', sendAt: course.now, emailId: usableAddress(course, message) },
      because,
    )
  }
}

/** The address a message is for, or another one of the person's where that has bounced. */
function usableAddress(course: Course, message: Message): Id {
  return course.situation.email[message.emailId]?.standing === 'ok'
    ? message.emailId
    : usableEmail(course.situation, message.prospectId)!.id
}

/** The person has answered: what was under way ends, and somebody answers first thing. */
export function onEmailReplied(course: Course, happening: Of<'emailReplied'>): void {
  const prospect = course.situation.prospect[happening.prospectId]!
  const message = happening.messageId ? messageOf(course, happening.messageId) : null
  const open = openEnrollments(course.situation, prospect.id)
  const companyWide = open.some((enrollment) => cadenceOf(course, enrollment)?.exits.replied === 'company')
  const because: Because = {
    by: 'cadence',
    ...(open[0] && { id: open[0].cadenceId }),
    says: 'A reply ends the cadence',
  }
  touch(
    course,
    prospect,
    {
      kind: 'reply',
      countsAs: 'conversation',
      messageId: message?.id ?? null,
      enrollmentId: message?.enrollmentId ?? null,
      userId: null,
    },
    because,
  )
  endAll(course, prospect, [], 'replied', because)
  if (companyWide) {
    for (const colleague of colleaguesOf(course.situation, prospect)) {
      endAll(course, colleague, [], 'colleague_replied', because)
    }
  }
  const now = course.situation.prospect[prospect.id]!
  const kind = course.playbook.stages[now.stageId]?.kind
  const answered = course.playbook.answered ? course.playbook.stages[course.playbook.answered] : null
  const here = course.playbook.stages[now.stageId]
  const further = here && answered && (kind === 'parked' || here.position < answered.position)
  if (further && (kind === 'open' || kind === 'parked')) {
    moveStage(course, now, answered.id, { reason: null, note: null, override: 'an answer' }, because)
  }
  replacePlans(course, prospect, ['first_contact', 'follow_up'], { by: 'law', says: 'They have replied' })
  makeTask(
    course,
    prospect,
    {
      kind: 'reply',
      lane: 0,
      title: 'Replied by email',
      dueAt: course.now,
      ownerId: prospect.ownerId ?? message?.senderId ?? open[0]?.byId ?? null,
    },
    because,
  )
}

/** The person chose to get no more mail. Honored at once (the law gives ten business days: 15 USC 7704(a)(4)). */
export function onUnsubscribed(course: Course): void {
  setStop(course, course.situation.prospect[course.happening.prospectId]!, 'email', true, {
    by: 'law',
    says: 'An opt-out is honored at once',
  })
}

/** A rep has written a mail by hand: it goes now, and what it answers is done. */
export function onEmailWritten(course: Course, happening: Of<'emailWritten'>): void {
  const prospect = course.situation.prospect[happening.prospectId]!
  const email = usableEmail(course.situation, prospect.id)
  const stopped = happening.many
    ? whyNoMailOfMany(course.situation, prospect)
    : whyStopped(course.situation, prospect, false)
  if (stopped) return course.refuse('to', stopped)
  if (prospect.stopEmail) return course.refuse('to', 'Asked for no email')
  if (!email) return course.refuse('to', 'There is no email address that works')
  const because: Because = { by: 'person' }
  course.create(
    'queueEmail',
    'message',
    {
      id: happening.messageId,
      prospectId: prospect.id,
      kind: happening.many ? 'bulk' : 'personal',
      enrollmentId: null,
      stepId: null,
      appointmentId: null,
      emailId: email.id,
      senderId: happening.actorId,
      state: 'queued',
      sendAt: Math.max(course.now, happening.many?.sendAt ?? 0),
      sentAt: null,
    },
    because,
  )
  const task = happening.taskId ? course.situation.task[happening.taskId] : null
  if (task?.state === 'open') {
    course.change('finishTask', 'task', task.id, { state: 'done', doneAt: course.now }, because)
  }
  if (happening.many) return
  replacePlans(course, prospect, ['first_contact'], { by: 'law', says: 'The email is the first contact' })
  // What comes after the email is planned, and said, when it is written.
  planNextAction(course, course.situation.prospect[prospect.id]!)
}
