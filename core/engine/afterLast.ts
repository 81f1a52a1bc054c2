import { perform } from '../actions/registry'
import type { Id } from '../instant'
import { eachAction } from './eachAction'
import { scheduleAction } from './moves/delayed'
import type { Cause } from './state/effects'
import type { DomainEvent } from './state/events'
import type { ReactionContext } from './state/reactionContext'
import type { ConfiguredAction } from './state/playbook'

/** Events that may send an enrollment on: with them all is read that ways and actions behind the last step ask. */
export const DECIDES: ReadonlySet<DomainEvent['kind']> = new Set([
  'callLogged',
  'stepDue',
  'stepSkipped',
  'taskDone',
  'emailSent',
  'emailSettled',
  'emailStopped',
  'textWritten',
])

/**
 * Does what a cadence says of those who are through, for everyone whom this event took past its last step. Who left
 * before that is not among them. An action that is refused (a gate) is left out and said. Where the event is one that
 * seldom sends anyone on, the actions are scheduled at once: what they ask is read when they are done.
 */
export function afterLastSteps(context: ReactionContext): void {
  const isRead = DECIDES.has(context.event.kind)
  const { afterLast } = context.playbook
  const through = context.effects.filter(
    (effect) => effect.kind === 'endEnrollment' && effect.after?.exit === 'finished',
  )
  for (const { id } of through) {
    const enrollment = context.state.enrollment[id]!
    const prospect = context.state.prospect[enrollment.prospectId]!
    const stageBefore = prospect.stageId
    const about = { phoneId: null, details: {}, outcome: null, enrollment }
    const cause: Cause = { source: 'cadence', id: enrollment.cadenceId }
    eachAction(context, afterLast[enrollment.cadenceId] ?? [], (action) => {
      if (isRead) perform({ context, prospect, stageBefore, ...about, cause }, [action])
      else scheduleAction(context, prospect, action, { outcomeId: null, phoneId: null, enrollment }, cause)
    })
  }
}

/**
 * A cadence that starts itself again behind its last step, by way of others: the cadences on the way round, the first
 * one last too. Null where there is none.
 */
export function circleOfCadences(afterLast: Readonly<Record<Id, readonly ConfiguredAction[]>>): Id[] | null {
  const starts = (id: Id) =>
    (afterLast[id] ?? []).flatMap((action) =>
      action.type === 'startCadence' ? [(action as ConfiguredAction & { cadenceId: Id }).cadenceId] : [],
    )
  const walk = (id: Id, way: readonly Id[]): Id[] | null => {
    if (way.includes(id)) return [...way.slice(way.indexOf(id)), id]
    for (const next of starts(id)) {
      const found = walk(next, [...way, id])
      if (found) return found
    }
    return null
  }
  for (const id of Object.keys(afterLast)) {
    const found = walk(id, [])
    if (found) return found
  }
  return null
}
