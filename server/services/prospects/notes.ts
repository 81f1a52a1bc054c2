import { manages } from '#core/roles'
import type { Id, Instant } from '#core/instant'
import { newId } from '#shared/newId'
import { transaction, db, type Db } from '../../db/pool'
import { firstRow, sql } from '../../db/sql'
import { logEvent } from '../../engine/eventLog'
import { mustSee } from '../access/access'
import { notFound, Refusal } from '../access/errors'
import type { Viewer } from '../access/viewer'

/** A note on a person; the pinned one stands at the top of the page. */
export interface Note {
  id: Id
  at: Instant
  by: string | null
  body: string
  pinned: boolean
  /** Whether the viewer wrote it, or manages. */
  mayEdit: boolean
}

/** Logs what is done to a note: that it was, never what it says. */
const logNote = (
  client: Db,
  viewer: Viewer,
  prospectId: Id,
  noteId: Id,
  kind: 'noteAdded' | 'noteEdited' | 'noteDeleted',
  id: Id = newId(),
) => logEvent(client, { id, kind, prospectId, actorId: viewer.id, payload: { noteId } })

/** Adds a note, with the world's time and its author; the same one twice is there once. */
export async function addNote(viewer: Viewer, prospectId: Id, noteId: Id, body: string): Promise<void> {
  await transaction(async (client) => {
    await mustSee(viewer, prospectId, client)
    const eventId = newId()
    const { rowCount } = await client.query(
      sql`
        insert into notes (id, prospect_id, user_id, event_id, at, body)
        values ($1, $2, $3, $4, world_now(), $5)
        on conflict (id) do nothing
      `,
      [noteId, prospectId, viewer.id, eventId, body],
    )
    if (rowCount) await logNote(client, viewer, prospectId, noteId, 'noteAdded', eventId)
  })
}

/** A person's latest notes as a viewer sees them, the pinned one first. */
export async function notesOf(viewer: Viewer, prospectId: Id): Promise<Note[]> {
  const { rows } = await db().query<Note>(
    sql`
      select
        n.id, ms(n.at) as at, u.name as by, n.body, n.pinned, $3 or n.user_id is not distinct from $2 as "mayEdit"
      from notes n
        left join users u on u.id = n.user_id
      where n.prospect_id = $1
      order by n.pinned desc, n.at desc
      limit 50
    `,
    [prospectId, viewer.id, manages(viewer)],
  )
  return rows
}

/** Locks a note that its author, or a manager, is to change. */
async function mustEditNote(client: Db, viewer: Viewer, prospectId: Id, noteId: Id): Promise<{ body: string }> {
  await mustSee(viewer, prospectId, client)
  const note = await firstRow(
    client.query<{ body: string; by: Id | null }>(
      sql`
        select body, user_id as by
        from notes
        where id = $1 and prospect_id = $2
        for update
      `,
      [noteId, prospectId],
    ),
  )
  if (!note) throw notFound('note')
  if (note.by !== viewer.id && !manages(viewer)) {
    throw new Refusal('not_allowed', 'Only the user who wrote this note, or a manager, can change it')
  }
  return note
}

/** Changes what a note says. Throws a conflict where it is not any more what it `was`. */
export async function editNote(
  viewer: Viewer,
  prospectId: Id,
  noteId: Id,
  { body, was }: { body: string; was: string },
): Promise<void> {
  await transaction(async (client) => {
    const note = await mustEditNote(client, viewer, prospectId, noteId)
    if (note.body === body) return
    if (note.body !== was) {
      throw new Refusal('conflict', 'Changed by someone else; showing the latest version', [], { body: note.body })
    }
    await client.query(sql`update notes set body = $2 where id = $1`, [noteId, body])
    await logNote(client, viewer, prospectId, noteId, 'noteEdited')
  })
}

/** Deletes a note; what it said is nowhere any more. */
export async function deleteNote(viewer: Viewer, prospectId: Id, noteId: Id): Promise<void> {
  await transaction(async (client) => {
    await mustEditNote(client, viewer, prospectId, noteId)
    await client.query(sql`delete from notes where id = $1`, [noteId])
    await logNote(client, viewer, prospectId, noteId, 'noteDeleted')
  })
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
