import { afterWait } from '../../cadence/wait'
import type { Id } from '../../instant'
import type { ReactionContext } from '../state/reactionContext'
import type { Cause } from '../state/effects'
import type { ConfiguredAction } from '../state/playbook'
import { placeOf, waitingActions, type Enrollment, type Prospect } from '../state/engineState'

/** Actions that begin something with a prospect: what is known since may make them wrong. */
export const STARTS: ReadonlySet<string> = new Set(['startCadence'])

/**
 * Schedules an action for later, as its delay says, counted where the prospect is; without a delay for now. The same
 * one that waits already gives way: it is done once.
 */
export function scheduleAction(
  context: ReactionContext,
  prospect: Prospect,
  action: ConfiguredAction,
  about: { outcomeId: Id | null; phoneId: Id | null; enrollment: Enrollment | null },
  cause: Cause,
): void {
  // The filter stays with it: it is asked when the action is done.
  const {
    after,
    fromAttempt: _from,
    beforeAttempt: _before,
    inStages: _stages,
    inCadences: _in,
    noCadence: _no,
    ...plain
  } = action
  const same = JSON.stringify(plain)
  for (const row of waitingActions(context.state, prospect.id)) {
    if (JSON.stringify(row.action) !== same) continue
    context.change('cancelAction', 'delayedAction', row.id, { status: 'cancelled', doneAt: context.now }, cause)
  }
  context.create(
    'scheduleAction',
    'delayedAction',
    {
      id: context.newId(),
      prospectId: prospect.id,
      action: plain,
      runAt: after ? afterWait(context.now, after, placeOf(prospect), context.playbook.holidays) : context.now,
      status: 'waiting',
      doneAt: null,
      outcomeId: about.outcomeId,
      phoneId: about.phoneId,
      enrollmentId: about.enrollment?.id ?? null,
    },
    cause,
  )
}

/**
 * Cancels actions of the given types that wait for a prospect, all of them without; those that this very event has
 * scheduled stay.
 */
export function cancelDelayed(
  context: ReactionContext,
  prospect: Prospect,
  types: ReadonlySet<string> | null,
  cause: Cause,
): void {
  for (const row of waitingActions(context.state, prospect.id)) {
    const isNew = context.effects.some((effect) => effect.id === row.id && effect.before === null)
    if (isNew || (types && !types.has(row.action.type))) continue
    context.change('cancelAction', 'delayedAction', row.id, { status: 'cancelled', doneAt: context.now }, cause)
  }
}
