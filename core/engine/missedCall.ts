import type { Id } from '../instant'
import { ABANDONED_CALL, MISSED_CALL } from '../queue/why'
import type { Cause } from './state/effects'
import { ofProspect, type Prospect } from './state/engineState'
import type { DomainEvent } from './state/events'
import type { ReactionContext } from './state/reactionContext'
import { notify } from './moves/notify'
import { whyNoCall } from './moves/stops'
import { makeTask, replacePlans } from './moves/work'

/** The person whose number it is; null, and refused, where it is not theirs. */
function personOf(context: ReactionContext, event: { prospectId: Id; phoneId: Id }): Prospect | null {
  if (context.state.phone[event.phoneId]?.prospectId === event.prospectId) {
    return context.state.prospect[event.prospectId]!
  }
  context.refuse('phoneId', 'There is no such number')
  return null
}

/** Whether a call back waits already. */
const callBackWaits = ({ state, now }: ReactionContext, prospectId: Id): boolean =>
  ofProspect(state, 'task', prospectId).some(
    (task) => task.status === 'open' && task.kind === 'call_back' && task.dueAt <= now,
  )

/**
 * They called and nobody answered: who it rang for, or the owner, is notified and calls back at once. Where a call back
 * waits already, it is the one; who is not to be called is answered another way.
 */
export function onCallMissed(context: ReactionContext, event: Extract<DomainEvent, { kind: 'callMissed' }>): void {
  const { state, now } = context
  const prospect = personOf(context, event)
  if (!prospect) return
  const cause: Cause = { source: 'system_rule', rule: 'missedCall' }
  const ownerId = event.rangFor ?? prospect.ownerId
  notify(context, prospect, ownerId, 'missed_call', cause)
  if (callBackWaits(context, prospect.id)) return
  const kind = whyNoCall(state, prospect) ? 'task' : 'call_back'
  replacePlans(context, prospect, ['first_contact', 'follow_up'], cause)
  const title = kind === 'task' ? 'They called, and are not to be called: answer another way' : MISSED_CALL
  makeTask(context, prospect, { kind, priority: 1, title, dueAt: now, ownerId }, cause)
}

/**
 * They answered a call of several lines and no caller was free: the caller for whom it was dialed calls back at once,
 * unless a call back waits already or they are not to be called any more.
 */
export function onCallAbandoned(
  context: ReactionContext,
  event: Extract<DomainEvent, { kind: 'callAbandoned' }>,
): void {
  const prospect = personOf(context, event)
  if (!prospect || callBackWaits(context, prospect.id) || whyNoCall(context.state, prospect)) return
  const cause: Cause = { source: 'system_rule', rule: 'abandonedCall' }
  replacePlans(context, prospect, ['first_contact', 'follow_up'], cause)
  const call = { kind: 'call_back' as const, title: ABANDONED_CALL, dueAt: context.now, ownerId: event.dialedFor }
  makeTask(context, prospect, { ...call, priority: 1 }, cause)
}
