import type { Id } from '#core/instant'
import type { ChangeTopic } from '#shared/api/session'
import { onNotice } from './listen'
import { db, whenCommitted, type Db } from './pool'
import { sql } from './sql'

/**
 * What is said on it: a topic, and the user whom it concerns; without a user, everyone (also migration 0046). Of the
 * topic "prospect", which prospect.
 */
const CHANNEL = 'user_changed'
/** Changes of this long are said together, in milliseconds. */
const GATHER_MS = 100

const waiting = new Set<string>()

/**
 * Says that something of these users has changed, of everyone where none is named, once the transaction of `client` is
 * done. It is said apart from it, and for several transactions at once: a NOTIFY inside a transaction makes all
 * others wait for its commit. What gets lost is found by those who listen when they read again by themselves.
 */
export function sayUserChanged(
  client: Db,
  topic: Exclude<ChangeTopic, 'prospect'>,
  userIds: Iterable<Id> | null,
): void {
  say(client, topic, userIds)
}

/** As `sayUserChanged`, to those who look at one of these prospects. */
export function sayProspectsChanged(client: Db, prospectIds: Iterable<Id>): void {
  say(client, 'prospect', prospectIds)
}

function say(client: Db, topic: ChangeTopic, ids: Iterable<Id> | null): void {
  whenCommitted(client, () => {
    const isFirst = waiting.size === 0
    if (ids === null) waiting.add(topic)
    else for (const id of ids) waiting.add(`${topic} ${id}`)
    if (!isFirst || !waiting.size) return
    const on = db()
    setTimeout(() => {
      const said = [...waiting]
      waiting.clear()
      on.query(sql`select pg_notify('${CHANNEL}', said) from unnest($1::text[]) as said`, [said]).catch(() => {})
    }, GATHER_MS)
  })
}

/**
 * Runs something whenever something of a user, or a prospect (then with its id), has changed; without a topic where
 * anything may have been missed. Gives what ends it.
 */
export function onUserChange(userId: Id, run: (topic?: ChangeTopic, prospectId?: Id) => void): () => void {
  return onNotice(CHANNEL, (said) => {
    if (said === null) return run()
    const [topic, whose] = said.split(' ') as [ChangeTopic, Id | undefined]
    if (topic === 'prospect') run(topic, whose)
    else if (whose === undefined || whose === userId) run(topic)
  })
}
