import { manages } from '#core/roles'
import type { Id } from '#core/instant'
import { db, type Db } from '../../db/pool'
import { firstRow, sql } from '../../db/sql'
import { notFound, Refusal } from '../access/errors'
import type { Viewer } from '../access/viewer'

/** What a viewer may do with a call block. */
export interface BlockAccess {
  mayEdit: boolean
  mayCall: boolean
  closed: boolean
}

/** Throws where there is no such block for the viewer: callers, its maker and managers see it. */
export async function mustSeeBlock(viewer: Viewer, blockId: Id, client: Db = db()): Promise<BlockAccess> {
  const row = await firstRow(
    client.query<{ made: boolean; calls: boolean; closed: boolean }>(
      sql`
        select
          b.created_by = $2 as made, b.closed_at is not null as closed,
          exists (select from call_block_callers c where c.block_id = b.id and c.user_id = $2) as calls
        from call_blocks b
        where b.id = $1
      `,
      [blockId, viewer.id],
    ),
  )
  const mayEdit = row !== undefined && (row.made || manages(viewer))
  if (!row || !(mayEdit || row.calls)) throw notFound('call block')
  return { mayEdit, mayCall: row.calls, closed: row.closed }
}

/** As `mustSeeBlock`, for who may change it. */
export async function mustEditBlock(viewer: Viewer, blockId: Id, client: Db = db()): Promise<BlockAccess> {
  const access = await mustSeeBlock(viewer, blockId, client)
  if (!access.mayEdit) {
    throw new Refusal('not_allowed', 'Only the user who made this call block, or a manager, can change it')
  }
  return access
}

/** As `mustSeeBlock`, for who calls in it. */
export async function mustCallIn(viewer: Viewer, blockId: Id, client: Db = db()): Promise<BlockAccess> {
  const access = await mustSeeBlock(viewer, blockId, client)
  if (!access.mayCall) throw new Refusal('not_allowed', 'You are not a caller of this call block')
  return access
}
