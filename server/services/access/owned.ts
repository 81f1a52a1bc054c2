import { manages } from '#core/roles'
import type { Id } from '#core/instant'
import { db, type Db } from '../../db/pool'
import { firstRow, sql } from '../../db/sql'
import { notFound, Refusal } from './errors'
import type { Viewer } from './viewer'

interface Owned {
  ownerId: Id | null
  shared: boolean
}

/** Whether someone sees a cadence or a template: it is shared, it is theirs, or they manage. */
export const maySee = (viewer: Viewer, one: Owned): boolean =>
  one.shared || one.ownerId === viewer.id || manages(viewer)

/** Whether someone may change a cadence or a template: managers all, reps their own until it is shared. */
export const mayEdit = (viewer: Viewer, one: Owned): boolean =>
  manages(viewer) || (!one.shared && one.ownerId === viewer.id)

/** Throws where the cadence is not there for the viewer, or with `toEdit` is not theirs to change. */
export async function mustSeeCadence(viewer: Viewer, id: Id, toEdit = false, client: Db = db()): Promise<void> {
  const row = await firstRow(
    client.query<Owned>(sql`select owner_id as "ownerId", shared from cadences where id = $1`, [id]),
  )
  if (!row || !maySee(viewer, row)) throw notFound('cadence')
  if (toEdit && !mayEdit(viewer, row)) {
    throw new Refusal('not_allowed', 'Only a manager can change a cadence that is shared')
  }
}
