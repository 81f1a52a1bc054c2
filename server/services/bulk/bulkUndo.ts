import { manages } from '#core/roles'
import { createHash } from 'node:crypto'
import type { Id } from '#core/instant'
import type { BulkAction, StoredBulkAction } from '#shared/api/bulk'
import { breaksUnique, db, transaction, type Db } from '../../db/pool'
import { undo, UndoRefused } from '../../engine/undo'
import { limitedTo, visible } from '../access/access'
import { isPlain } from './plainAction'
import type { Changes } from '../../engine/eventLog'
import { differences, restore, snapshot } from './bulkValues'
import { notFound, Refusal } from '../access/errors'
import type { Viewer } from '../access/viewer'
import { firstRow, sql } from '../../db/sql'

/**
 * Starts to undo a bulk action as a whole, which is a bulk action itself: for everyone whom it changed, with a result
 * of its own that names whom it could not be undone for. Only who did it, or a manager, can. Once.
 */
export async function undoBulk(viewer: Viewer, targetId: Id, { id }: { id: Id }): Promise<{ id: Id; touches: number }> {
  try {
    return await transaction(async (client) => {
      const target = await firstRow(
        client.query<{ action: StoredBulkAction; about: string; status: string }>(
          sql`
            select action, about, status
            from bulk_actions
            where id = $1 and (user_id = $2 or $3)
            for update
          `,
          [targetId, viewer.id, manages(viewer)],
        ),
      )
      if (!target) throw notFound('bulk action')
      if (target.action.type === 'undo') throw new Refusal('refused', 'An undo cannot be undone')
      if (target.status !== 'done') throw new Refusal('refused', 'This is still running. Undo it when it is done')
      const action: StoredBulkAction = { type: 'undo', actionId: targetId, of: target.action }
      await client.query(
        sql`
          insert into bulk_actions (id, user_id, action, about, status, at)
          values ($1, $2, $3, $4, 'waiting', world_now())
        `,
        [id, viewer.id, JSON.stringify(action), target.about],
      )
      // A rep who gave people away no longer sees them, and may take just that back.
      const gaveAway = target.action.type === 'assign' || target.action.type === 'assignToCompanyOwner'
      const made = await firstRow(
        client.query<{ touches: number }>(
          sql`
            with people as (
              insert into bulk_people (action_id, prospect_id, place, reason)
              select
                $1, b.prospect_id, b.place,
                case when not ($4 or ${visible('p', '$3')}) then 'is no longer yours to change' end
              from bulk_people b
                join prospects p on p.id = b.prospect_id
              where b.action_id = $2 and b.done
              returning reason
            )
            select count(*) filter (where reason is null)::int as touches
            from people
          `,
          [id, targetId, limitedTo(viewer), gaveAway],
        ),
      )
      const { touches } = made!
      await client.query(sql`update bulk_actions set touches = $2 where id = $1`, [id, touches])
      await client.query(
        sql`
          select graphile_worker.add_job(
            'runBulk', json_build_object('actionId', $1::uuid), job_key => 'bulk ' || $1::text, max_attempts => 3
          )
        `,
        [id],
      )
      return { id, touches }
    })
  } catch (error) {
    if (breaksUnique(error, 'bulk_actions_undone')) throw new Refusal('already_done', 'Already undone')
    if (breaksUnique(error, 'bulk_actions_pkey')) throw new Refusal('conflict', 'Already started')
    throw error
  }
}

/** What became of someone: why they stay as they are, or what was undone with something that is kept. */
export interface Undone {
  reason: string | null
  unchanged: string | null
  changes: Changes | null
}

/** Undoes a change of what is known of people, for some of them; who was changed since is left as they are. */
export async function undoPlain(
  client: Db,
  targetId: Id,
  action: BulkAction,
  ids: readonly Id[],
): Promise<Map<Id, Undone>> {
  if (!isPlain(action)) throw new Error('Not a change of what is known')
  await client.query(sql`select from prospects where id = any($1::uuid[]) order by id for no key update`, [ids])
  const { rows } = await client.query<{ prospect_id: Id; changes: Changes }>(
    sql`
      select prospect_id, coalesce(changes, '{}') as changes
      from bulk_people
      where action_id = $1 and prospect_id = any($2::uuid[])
    `,
    [targetId, ids],
  )
  const now = await snapshot(client, action, ids)
  const became = new Map<Id, Undone>()
  const back: { id: Id; changes: Changes }[] = []
  for (const { prospect_id: id, changes } of rows) {
    const current = now.get(id)
    const same =
      current &&
      Object.entries(changes).every(
        ([field, [, is]]) => field === 'tasks' || JSON.stringify(current[field] ?? null) === JSON.stringify(is),
      )
    if (same) back.push({ id, changes })
    else became.set(id, { reason: 'has been changed since and stays so', unchanged: null, changes: null })
  }
  await restore(client, targetId, back)
  const after = await snapshot(
    client,
    action,
    back.map((one) => one.id),
  )
  for (const { id } of back) {
    became.set(id, { reason: null, unchanged: null, changes: differences(now.get(id)!, after.get(id)!) })
  }
  return became
}

/** A UUID made of a text, the same each time: an undo that is done again after a crash is seen to be its own. */
function idOf(text: string): Id {
  const hex = createHash('sha256').update(text).digest('hex')
  return `${hex.slice(0, 8)}-${hex.slice(8, 12)}-8${hex.slice(13, 16)}-a${hex.slice(17, 20)}-${hex.slice(20, 32)}`
}

/** Undoes the events that a bulk action was done by for one person, the newest first, each as by hand. */
export async function undoEvents(undoId: Id, targetId: Id, prospectId: Id, actorId: Id): Promise<Undone> {
  const row = await firstRow(
    db().query<{ events: Id[] | null }>(sql`select events from bulk_people where action_id = $1 and prospect_id = $2`, [
      targetId,
      prospectId,
    ]),
  )
  const unchanged = new Set<string>()
  let undone = 0
  for (const event of [...(row?.events ?? [])].reverse()) {
    const id = idOf(`${undoId} ${event}`)
    try {
      const result = await undo(id, event, actorId)
      for (const sentence of result.skipped) unchanged.add(sentence)
      undone += result.effects.length
    } catch (error) {
      // Done before, by a run that ended before it could write it down.
      const own = breaksUnique(error, 'events_pkey')
      if (!own && !(error instanceof UndoRefused)) throw error
      if (own) undone++
      else unchanged.add('was undone already')
    }
  }
  const said = [...unchanged].join('. ') || null
  return undone
    ? { reason: null, unchanged: said, changes: null }
    : { reason: said ?? 'there is nothing to undo', unchanged: null, changes: null }
}
