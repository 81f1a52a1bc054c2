import { randomUUID } from 'node:crypto'
import type { Id } from '#core/instant'
import { tidy } from '#core/text/names'
import { transaction } from '../db/pool'
import { mustSee } from './access'
import { notFound } from './errors'
import type { Viewer } from './sessions'

/** Corrects what is known of a number: its type, how it stands, what the team says of it. */
export async function editPhone(viewer: Viewer, prospectId: Id, phoneId: Id, edit: { kind?: string, standing?: string, tags?: readonly string[] }): Promise<void> {
  await transaction(async (client) => {
    await mustSee(viewer, prospectId, client)
    await client.query('select from prospects where id = $1 for no key update', [prospectId])
    const tags = edit.tags && [...new Set(edit.tags.map(tidy).filter(Boolean))].sort((a, b) => a.localeCompare(b))
    const { rowCount } = await client.query('update phones set kind = coalesce($3, kind), standing = coalesce($4, standing), tags = coalesce($5, tags) where id = $2 and prospect_id = $1', [prospectId, phoneId, edit.kind ?? null, edit.standing ?? null, tags ?? null])
    if (!rowCount) throw notFound('number')
    await client.query('update prospects set version = version + 1 where id = $1', [prospectId])
    await client.query(`insert into happenings (id, at, kind, prospect_id, actor_id, data) values ($1, world_now(), 'prospectEdited', $2, $3, $4)`, [randomUUID(), prospectId, viewer.id, JSON.stringify({ fields: Object.keys(edit).map(field => `phone ${field}`), phoneId })])
  })
}
