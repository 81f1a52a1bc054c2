import { perform } from '../actions/registry'
import type { Cause } from './state/effects'
import type { Prospect } from './state/engineState'
import type { DomainEvent } from './state/events'
import type { ReactionContext } from './state/reactionContext'
import { eachAction } from './eachAction'
import { exitOnForm } from './exits'
import { dropUnchosenPlan } from './moves/nextAction'
import { notify } from './moves/notify'

/**
 * Someone sent a form. Cadences that end by it end first, so that the form's actions may start one again; then come the
 * actions. One that is refused (by a gate) is left out and said. What was planned for want of an answer is off.
 */
export function onFormSent(
  context: ReactionContext,
  event: Extract<DomainEvent, { kind: 'formSent' }>,
  prospect: Prospect,
): void {
  const form = context.playbook.forms[event.formId]
  if (!form) return context.refuse('form', 'There is no such form')
  const cause: Cause = { source: 'form', id: form.id }
  exitOnForm(context, prospect.id)
  dropUnchosenPlan(context, prospect)
  const about = { phoneId: null, details: {}, outcome: null, enrollment: null }
  const run = { context, prospect, stageBefore: prospect.stageId, ...about, cause }
  eachAction(context, form.actions, (action) => perform(run, [action]))
  const now = context.state.prospect[prospect.id]!
  notify(context, now, now.ownerId, 'form_sent', cause, form.id)
}
