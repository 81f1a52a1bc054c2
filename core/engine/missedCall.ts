import { MISSED_CALL } from '../queue/why'
import type { Cause } from './state/effects'
import { ofProspect } from './state/engineState'
import type { DomainEvent } from './state/events'
import type { ReactionContext } from './state/reactionContext'
import { notify } from './moves/notify'
import { whyNoCall } from './moves/stops'
import { makeTask, replacePlans } from './moves/work'

/**
 * They called and nobody answered: who it rang for, or the owner, is notified and calls back at once. Where a call back
 * waits already, it is the one; who is not to be called is answered another way.
 */
export function onCallMissed(context: ReactionContext, event: Extract<DomainEvent, { kind: 'callMissed' }>): void {
  const { state, now } = context
  const prospect = state.prospect[event.prospectId]!
  if (state.phone[event.phoneId]?.prospectId !== prospect.id) {
    return context.refuse('phoneId', 'There is no such number')
  }
  const cause: Cause = { source: 'system_rule', summary: 'A missed call is called back' }
  const ownerId = event.rangFor ?? prospect.ownerId
  notify(context, prospect, ownerId, 'missed_call', cause)
  const waits = ofProspect(state, 'task', prospect.id).some(
    (task) => task.status === 'open' && task.kind === 'call_back' && task.dueAt <= now,
  )
  if (waits) return
  const kind = whyNoCall(state, prospect) ? 'task' : 'call_back'
  replacePlans(context, prospect, ['first_contact', 'follow_up'], cause)
  const title = kind === 'task' ? 'They called, and are not to be called: answer another way' : MISSED_CALL
  makeTask(context, prospect, { kind, priority: 1, title, dueAt: now, ownerId }, cause)
}
