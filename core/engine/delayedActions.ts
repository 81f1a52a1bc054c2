import { perform } from '../actions/registry'
import type { Id } from '../instant'
import type { Cause } from './state/effects'
import { fitsNow } from './state/facts'
import type { ReactionContext } from './state/reactionContext'

/**
 * An action whose time has come is done as the outcome would have done it; what stands against it now (a stop, a gate,
 * a cadence that is archived) skips it and is said. One that was done or canceled before changes nothing.
 */
export function onActionDue(context: ReactionContext, id: Id): void {
  const row = context.state.delayedAction[id]
  if (row?.status !== 'waiting' || row.runAt > context.now) return
  const outcome = context.playbook.outcomes[row.outcomeId ?? ''] ?? null
  const prospect = context.state.prospect[row.prospectId]!
  const enrollment = context.state.enrollment[row.enrollmentId ?? ''] ?? null
  // Without an outcome it follows the last step of a cadence, which may have been left out of the state since it ended.
  const cause: Cause = row.outcomeId
    ? { source: 'outcome', id: row.outcomeId }
    : { source: 'cadence', ...(enrollment && { id: enrollment.cadenceId }) }
  const stageBefore = prospect.stageId
  const { phoneId } = row
  const fits = !row.action.where || fitsNow(context.state, context.playbook, prospect.id, row.action.where)
  if (!fits) context.skip('The prospect does not fit the condition of this action')
  else perform({ context, prospect, stageBefore, enrollment, phoneId, details: {}, outcome, cause }, [row.action])
  const [problem] = context.problems
  if (problem) {
    context.takeBack()
    context.problems.length = 0
  }
  const why = problem?.message ?? context.skipped[0]
  context.change(
    why ? 'skipAction' : 'finishAction',
    'delayedAction',
    id,
    { status: why ? 'skipped' : 'done', doneAt: context.now },
    why ? { source: 'system_rule', rule: 'actionSkipped', said: why } : cause,
  )
}

/** An action that waits is canceled by hand. */
export function onActionCancelled(context: ReactionContext, id: Id): void {
  const row = context.state.delayedAction[id]
  if (row?.status !== 'waiting') return context.refuse('action', 'It has been done or canceled already')
  const patch = { status: 'cancelled', doneAt: context.now } as const
  context.change('cancelAction', 'delayedAction', id, patch, { source: 'person' })
}
