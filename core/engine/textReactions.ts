import { isCallable } from '../calendar/callingHours'
import type { Id } from '../instant'
import type { ReactionContext } from './state/reactionContext'
import type { Cause } from './state/effects'
import type { DomainEvent } from './state/events'
import { placeOf, type Prospect } from './state/engineState'
import { onAnswered } from './emailReactions'
import { planNextAction } from './moves/nextAction'
import { advance, cadenceOf } from './moves/progress'
import { withdrawTasks } from './moves/stopProspect'
import { takesTexts, whyNoText, whyStopped } from './moves/stops'
import { makeTask, replacePlans, touch } from './moves/work'

type Of<K extends DomainEvent['kind']> = Extract<DomainEvent, { kind: K }>

/** The step of a cadence that is done by sending a text from the Desk; null where the text is for no step. */
function stepInHand(context: ReactionContext, taskId: Id | null) {
  const task = taskId ? context.state.task[taskId] : null
  const enrollment =
    task?.kind === 'text' && task.status === 'open' ? context.state.enrollment[task.enrollmentId ?? ''] : null
  return enrollment?.status === 'active' && enrollment.stepId === task?.stepId ? enrollment : null
}

/**
 * A rep sends a text: to a number whose person agreed to texts, in the hours in which they may be called there, unless
 * it answers one of theirs. What it was sent for is done.
 */
export function onTextWritten(context: ReactionContext, event: Of<'textWritten'>): void {
  const { state, playbook } = context
  const prospect = state.prospect[event.prospectId]!
  const phone = state.phone[event.phoneId]
  const task = event.taskId ? state.task[event.taskId] : null
  const enrollment = stepInHand(context, event.taskId)
  const stopped = whyStopped(state, prospect, enrollment ? (cadenceOf(context, enrollment)?.cold ?? false) : false)
  if (stopped) return context.refuse('to', stopped)
  if (prospect.stopCall) return context.refuse('to', 'Asked not to be called or texted')
  const usable = phone?.status === 'correct' || phone?.status === 'unverified'
  if (phone?.prospectId !== prospect.id || !usable) return context.refuse('phoneId', 'This number cannot be texted')
  if (!takesTexts(phone)) return context.refuse('phoneId', 'They asked for no more texts to this number')
  if (phone.textConsent === 'unknown' && !event.agreed) {
    return context.refuse('agreed', 'Only people who agreed to texts may be sent any: confirm that they did')
  }
  const answers = task?.status === 'open' && task.kind === 'reply'
  if (!answers && !isCallable(context.now, playbook.callHours, placeOf(prospect), playbook.holidays)) {
    return context.refuse('to', 'It is outside calling hours there, and texts wait for them, too')
  }
  const cause: Cause = { source: 'person' }
  if (phone.textConsent === 'unknown') {
    context.change('setTextConsent', 'phone', phone.id, { textConsent: 'given' }, cause)
  }
  touch(
    context,
    prospect,
    {
      kind: 'text',
      countsAs: 'none',
      enrollmentId: enrollment?.id ?? null,
      stepId: enrollment?.stepId ?? null,
      userId: event.actorId,
      phoneId: phone.id,
    },
    cause,
  )
  if (task?.status === 'open') {
    context.change('finishTask', 'task', task.id, { status: 'done', doneAt: context.now }, cause)
  }
  if (enrollment) return advance(context, prospect, enrollment, { source: 'step', id: enrollment.stepId })
  replacePlans(context, prospect, ['first_contact'], {
    source: 'system_rule',
    rule: 'textFirstContact',
  })
  planNextAction(context, context.state.prospect[prospect.id]!)
}

/** They have answered by text. */
export function onTextReceived(context: ReactionContext, event: Of<'textReceived'>): void {
  const prospect = context.state.prospect[event.prospectId]!
  onAnswered(context, prospect, { message: null, phoneId: event.phoneId }, 'Replied by text')
}

/** The gateway could not deliver a text: the user who sent it is asked to see to it. */
export function onTextFailed(context: ReactionContext, event: Of<'textFailed'>): void {
  const prospect = context.state.prospect[event.prospectId]!
  makeTask(
    context,
    prospect,
    {
      kind: 'task',
      priority: 1,
      title: 'A text was not delivered: reach them another way',
      dueAt: context.now,
      ownerId: event.senderId,
    },
    { source: 'system_rule', rule: 'textNotDelivered' },
  )
}

/** Whether a number may be sent texts, by what its person said; a stop takes back the texts that wait for them. */
export function setTextConsent(context: ReactionContext, prospect: Prospect, event: Of<'textConsentSet'>): void {
  const phone = context.state.phone[event.phoneId]
  if (phone?.prospectId !== prospect.id) return context.refuse('phone', 'There is no such number')
  if (phone.textConsent === event.to) return
  if (event.actorId && phone.textConsent === 'stopped') {
    return context.refuse('textConsent', 'They said STOP: only START from this number allows texts again')
  }
  const cause: Cause = event.actorId ? { source: 'person' } : { source: 'system_rule', rule: 'textWishes' }
  context.change('setTextConsent', 'phone', phone.id, { textConsent: event.to }, cause)
  if (whyNoText(context.state, context.state.prospect[prospect.id]!)) withdrawTasks(context, prospect, ['text'], cause)
}
