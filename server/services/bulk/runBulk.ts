import { notifyOfBulk } from '../notifications/notifications'
import { logForEach } from '../../engine/eventLog'
import type { Id } from '#core/instant'
import type { StoredBulkAction } from '#shared/api/bulk'
import { db, isTransient, transaction, type Db } from '../../db/pool'
import { describeError } from '../../engine/dueWork'
import { change } from './bulkChanges'
import { isPlain } from './plainAction'
import { undoEvents, undoPlain, type Undone } from './bulkUndo'
import { differences, snapshot } from './bulkValues'
import { SET, tellMany } from './bulkProgress'
import { firstRow, sql } from '../../db/sql'

/** How many people are changed in one transaction. */
const BATCH = 5_000

/**
 * Runs a change of many to its end, a batch at a time. Killed at any moment and run again, it goes on where it stood.
 */
export async function runBulk(actionId: Id): Promise<void> {
  const bulk = await firstRow(
    db().query<{ action: StoredBulkAction }>(sql`select action from bulk_actions where id = $1`, [actionId]),
  )
  if (!bulk) return
  const plain = isPlain(bulk.action.type === 'undo' ? bulk.action.of : bulk.action)
  for (let more = true; more;) more = await runBatch(actionId, plain ? BATCH : SET, plain ? runPlain : runProgress)
}

interface Batch {
  action: StoredBulkAction
  userId: Id
  people: { prospect_id: Id; place: number }[]
  over: boolean
}

async function nextBatch(client: Db, actionId: Id, size: number): Promise<Batch | null> {
  const bulk = await firstRow(
    client.query<{ action: StoredBulkAction; user_id: Id }>(
      sql`
        update bulk_actions
        set status = 'running'
        where id = $1 and status <> 'done'
        returning action, user_id
      `,
      [actionId],
    ),
  )
  if (!bulk) return null
  const { rows: people } = await client.query<{ prospect_id: Id; place: number }>(
    sql`
      select prospect_id, place
      from bulk_people
      where action_id = $1 and reason is null and not done
      order by place
      limit $2
    `,
    [actionId, size],
  )
  return { action: bulk.action, userId: bulk.user_id, people, over: people.length < size }
}

async function writeDown(client: Db, actionId: Id, done: number, over: boolean): Promise<void> {
  await client.query(
    sql`
      update bulk_actions
      set
        done = done + $2, status = case when $3 then 'done' else status end,
        ended_at = case when $3 then world_now() end
      where id = $1
    `,
    [actionId, done, over],
  )
  if (over) await notifyOfBulk(client, actionId)
}

/**
 * Runs the next batch; gives whether there is more. One whom the change fails for never stops the others: the batch is
 * halved until only that one is left, who is then left out with the reason.
 */
async function runBatch(
  actionId: Id,
  size: number,
  run: (actionId: Id, size: number) => Promise<boolean>,
): Promise<boolean> {
  try {
    return await run(actionId, size)
  } catch (error) {
    if (isTransient(error)) throw error
    if (size > 1) return runBatch(actionId, Math.ceil(size / 8), run)
    await leaveOut(actionId, describeError(error))
    return true
  }
}

/** Leaves the next person out, for whom the change has failed. */
async function leaveOut(actionId: Id, error: string): Promise<void> {
  await transaction(async (client) => {
    const { rowCount } = await client.query(
      sql`
        update bulk_people
        set reason = $2
        where (action_id, prospect_id) = (
            select action_id, prospect_id
            from bulk_people
            where action_id = $1 and reason is null and not done
            order by place
            limit 1
          )
      `,
      [actionId, `Failed: ${error}`],
    )
    if (rowCount) await client.query(sql`update bulk_actions set touches = touches - 1 where id = $1`, [actionId])
  })
}

async function runPlain(actionId: Id, size: number): Promise<boolean> {
  return transaction(async (client) => {
    const batch = await nextBatch(client, actionId, size)
    if (!batch) return false
    const { people, over } = batch
    const done = people.length ? await changePlain(client, actionId, batch) : 0
    await writeDown(client, actionId, done, over)
    return !over
  })
}

/**
 * Changes what is known of a batch of people, or changes it back, and writes down what it was and is; gives for how
 * many.
 */
async function changePlain(client: Db, actionId: Id, { action, userId, people }: Batch): Promise<number> {
  const ids = people.map((person) => person.prospect_id)
  let became: Map<Id, Undone>
  if (action.type === 'undo') became = await undoPlain(client, action.actionId, action.of, ids)
  else {
    if (!isPlain(action)) throw new Error('Not a change of what is known')
    await client.query(sql`select from prospects where id = any($1::uuid[]) order by id for no key update`, [ids])
    const before = await snapshot(client, action, ids)
    await change(client, action, actionId, userId, people)
    const after = await snapshot(client, action, ids)
    became = new Map(
      ids.map((id) => [
        id,
        { reason: null, unchanged: null, changes: differences(before.get(id) ?? {}, after.get(id) ?? {}) },
      ]),
    )
  }
  const done = [...became].filter(([, { reason }]) => reason === null).map(([id]) => id)
  await logForEach(client, done, {
    kind: 'changedWithMany',
    actorId: userId,
    payload: { actionId, type: action.type },
  })
  await settlePeople(client, actionId, became)
  return done.length
}

/** Writes down what became of people; whom it was not done for no longer counts among those it is for. */
async function settlePeople(
  client: Db,
  actionId: Id,
  became: ReadonlyMap<Id, Undone & { events?: readonly Id[] }>,
): Promise<void> {
  // Should two workers have the same batch in hand, the second finds it done, and nothing of its own is kept.
  const { rowCount } = await client.query(
    sql`
      update bulk_people b
      set
        done = r.reason is null, reason = r.reason, unchanged = r.unchanged, changes = r.changes,
        events = array(select jsonb_array_elements_text(coalesce(r.events, '[]')))::uuid[]
      from jsonb_to_recordset($2) as r(id uuid, reason text, unchanged text, changes jsonb, events jsonb)
      where b.action_id = $1 and b.prospect_id = r.id and not b.done and b.reason is null
    `,
    [actionId, JSON.stringify([...became].map(([id, one]) => ({ id, ...one })))],
  )
  if (rowCount !== became.size) throw new Error('These people have been dealt with by another worker')
  const leftOut = [...became.values()].filter(({ reason }) => reason !== null).length
  await client.query(sql`update bulk_actions set touches = touches - $2 where id = $1`, [actionId, leftOut])
}

async function runProgress(actionId: Id, size: number): Promise<boolean> {
  const batch = await nextBatch(db(), actionId, size)
  if (!batch || isPlain(batch.action)) return false
  const { action, userId, people, over } = batch
  const ids = people.map((person) => person.prospect_id)
  const settle = async (client: Db, became: ReadonlyMap<Id, Undone & { events?: readonly Id[] }>) => {
    await settlePeople(client, actionId, became)
    await writeDown(client, actionId, [...became.values()].filter(({ reason }) => reason === null).length, over)
  }
  if (ids.length && action.type === 'undo') {
    const became = new Map<Id, Undone>()
    for (const id of ids) became.set(id, await undoEvents(actionId, action.actionId, id, userId))
    await transaction((client) => settle(client, became))
    return !over
  }
  if (!ids.length || action.type === 'undo') {
    await writeDown(db(), actionId, 0, true)
    return false
  }
  await tellMany(actionId, action, userId, ids, (client, became) =>
    settle(
      client,
      new Map(
        ids.map((id) => {
          const one = became.get(id)
          return [id, { reason: one?.reason ?? null, unchanged: null, changes: null, events: one?.events ?? [] }]
        }),
      ),
    ),
  )
  return !over
}
