import type { ChangeTopic } from '#shared/api/session'
import type { Id } from '#core/instant'
import { onNotice } from '../../db/listen'

const CHANNEL = 'user_changed'

/**
 * Runs something whenever notifications of a user, or calls that come in, have changed (migration 0046); without a
 * topic where anything may have been missed. Gives what ends it.
 */
export function onUserChange(userId: Id, run: (topic?: ChangeTopic) => void): () => void {
  return onNotice(CHANNEL, (said) => {
    if (said === null) return run()
    const [topic, whose] = said.split(' ') as [ChangeTopic, Id | undefined]
    if (whose === undefined || whose === userId) run(topic)
  })
}
