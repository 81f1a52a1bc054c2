import type { NotificationKind } from '../../enumerations'
import type { Id } from '../../instant'
import type { ReactionContext } from '../state/reactionContext'
import type { Cause } from '../state/effects'
import type { Prospect } from '../state/engineState'

/** Lets a user know; nobody is notified of what they did themselves, or who is not active any more. */
export function notify(
  context: ReactionContext,
  prospect: Prospect,
  userId: Id | null,
  kind: NotificationKind,
  cause: Cause,
  refId: Id | null = null,
): void {
  const { actorId } = context.event
  if (!userId || userId === actorId || !context.playbook.names[userId]) return
  const about = { id: context.newId(), userId, kind, prospectId: prospect.id, refId, byId: actorId, at: context.now }
  context.create('notify', 'notification', about, cause)
}
