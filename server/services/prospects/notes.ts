import type { Id, Instant } from '#core/instant'
import { db, transaction } from '../../db/pool'
import { mustSee } from '../access/access'
import { notFound } from '../access/errors'
import type { Viewer } from '../access/viewer'
import { sql } from '../../db/sql'

/** A note on a person; the pinned one stands at the top of the page. */
export interface Note {
  id: Id
  at: Instant
  by: string | null
  body: string
  pinned: boolean
}

/** Keeps a note, with the world's time and its author. */
export async function addNote(viewer: Viewer, prospectId: Id, noteId: Id, body: string): Promise<void> {
  await mustSee(viewer, prospectId)
  await db().query(
    sql`
      insert into notes (id, prospect_id, user_id, at, body)
      values ($1, $2, $3, world_now(), $4)
      on conflict (id) do nothing
    `,
    [noteId, prospectId, viewer.id, body],
  )
}

/** A person's latest notes, the pinned one first. */
export async function notesOf(prospectId: Id): Promise<Note[]> {
  const { rows } = await db().query<Note>(
    sql`
      select n.id, ms(n.at) as at, u.name as by, n.body, n.pinned
      from notes n
        left join users u on u.id = n.user_id
      where n.prospect_id = $1
      order by n.pinned desc, n.at desc
      limit 50
    `,
    [prospectId],
  )
  return rows
}

/** Pins a note to the top, in place of the one that was there; or lets it down. */
export async function pinNote(viewer: Viewer, prospectId: Id, noteId: Id, pinned: boolean): Promise<void> {
  await transaction(async (client) => {
    await mustSee(viewer, prospectId, client)
    // Two who pin at once: the later one holds.
    await client.query(sql`select from prospects where id = $1 for no key update`, [prospectId])
    await client.query(sql`update notes set pinned = false where prospect_id = $1 and pinned`, [prospectId])
    const { rowCount } = await client.query(sql`update notes set pinned = $3 where id = $2 and prospect_id = $1`, [
      prospectId,
      noteId,
      pinned,
    ])
    if (!rowCount) throw notFound('note')
  })
}
