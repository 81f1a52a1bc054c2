import { manages, onlyCalls } from '#core/roles'
import type { ListKind, ListView, TouchUnit } from '#core/enumerations'
import type { Id } from '#core/instant'
import { db, type Db } from '../../db/pool'
import { notFound, Refusal } from '../access/errors'
import type { Viewer } from '../access/viewer'
import { firstRow, sql } from '../../db/sql'

/**
 * The condition under which someone sees a list: everyone's, their own, or one they are named for; a team's list is
 * seen by anyone who is on that team; managers see all that is not someone's alone.
 */
export function mayReadList(alias: string, user: string, manages: string): string {
  return sql`
    (
      ${alias}.visibility = 'everyone'
        or ${alias}.owner_id = ${user}
        or (
          ${alias}.visibility = 'team'
            and (${manages} or ${alias}.team = (select u.team from users u where u.id = ${user}))
        )
        or (
          ${alias}.visibility = 'named'
            and (
              ${manages}
                or exists (select from list_shares v where v.list_id = ${alias}.id and v.user_id = ${user})
            )
        )
    )
  `
}

/** A list as it is kept. */
export interface KeptList {
  id: Id
  name: string
  kind: ListKind
  filter: unknown
  version: number
  owner_id: Id | null
  touch_kinds: string[]
  touch_every: number | null
  touch_unit: TouchUnit
  default_view: ListView
}

/** Whether someone may change a list: their own, and anyone who manages every one they see. */
export function mayEditList(viewer: Viewer, list: { owner_id: Id | null }): boolean {
  return manages(viewer) || list.owner_id === viewer.id
}

/** Reads a list that the viewer may see; to anyone else there is no such list. */
export async function readList(
  viewer: Viewer,
  id: Id,
  { edit = false, client = db() }: { edit?: boolean; client?: Db } = {},
): Promise<KeptList> {
  if (onlyCalls(viewer)) throw notFound('list')
  const list = await firstRow(
    client.query<KeptList>(
      sql`
        select
          l.id, l.name, l.kind, l.filter, l.version, l.owner_id, l.touch_kinds, l.touch_every, l.touch_unit,
          l.default_view
        from lists l
        where l.id = $1 and ${mayReadList('l', '$2', '$3')}${edit ? ' for update' : ''}
      `,
      [id, viewer.id, manages(viewer)],
    ),
  )
  if (!list) throw notFound('list')
  if (edit && !mayEditList(viewer, list)) {
    throw new Refusal('not_allowed', 'Only the owner of this list, or a manager, can change it')
  }
  return list
}
