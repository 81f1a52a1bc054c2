import type { Filter } from '#core/filter/filter'
import type { Id, Instant } from '#core/instant'
import { newId } from '#shared/newId'
import { db, transaction, type Db } from '../../db/pool'
import { logFrom } from '../../engine/eventLog'
import { limitedTo, visible } from '../access/access'
import { notFound, Refusal } from '../access/errors'
import { filterWorld, inWords } from './filters'
import { readList } from './listAccess'
import { idsOf } from './people'
import type { Viewer } from '../access/viewer'
import { firstRow, sql } from '../../db/sql'

interface BatchRow {
  id: Id
  filter: Filter | null
  at: Instant
  by: string | null
  count: number
  still: number
}

/** How a fixed list came about: its additions, oldest first, with how many of each are still on it. */
export async function listBatches(viewer: Viewer, id: Id) {
  await readList(viewer, id)
  const world = await filterWorld(viewer)
  const { rows } = await db().query<BatchRow>(
    sql`
      select
        a.id, a.filter, ms(a.at) as at, u.name as by, a.count,
        (select count(*) from list_members m where m.batch_id = a.id)::int as still
      from list_batches a
        left join users u on u.id = a.by_id
      where a.list_id = $1
      order by a.seq
    `,
    [id],
  )
  const { rows: others } = await db().query<{ count: number }>(
    sql`select count(*)::int as count from list_members where list_id = $1 and batch_id is null`,
    [id],
  )
  return {
    byOutcomes: others[0]!.count,
    batches: rows.map(({ filter, ...batch }) => ({ ...batch, sentence: filter && inWords(filter, world) })),
  }
}

async function mustBeFixed(viewer: Viewer, id: Id, client: Db): Promise<void> {
  const list = await readList(viewer, id, { edit: true, client })
  if (list.kind !== 'fixed') throw new Refusal('refused', 'A live list follows its filter: change the filter instead')
}

/**
 * Carries out a change of who is on a list, a statement that gives `list_id` and `prospect_id` of each, and logs it for
 * each; gives how many.
 */
async function moveMembers(
  client: Db,
  viewer: Viewer,
  kind: 'listJoined' | 'listLeft',
  change: string,
  values: readonly unknown[],
): Promise<number> {
  const logged = logFrom(kind, {
    prospect: 'prospect_id',
    actor: `$${values.length + 1}::uuid`,
    payload: `jsonb_build_object('listId', list_id)`,
    from: 'moved',
  })
  const { rowCount } = await client.query(sql`with moved as (${change}) ${logged}`, [...values, viewer.id])
  return rowCount ?? 0
}

/**
 * Adds people to a fixed list, those a filter finds or those named, as one batch. Who is on it already stays as they
 * are.
 */
export async function addToList(
  viewer: Viewer,
  id: Id,
  given: { filter?: Filter | string; prospectIds?: readonly Id[] },
): Promise<{ added: number; already: number }> {
  const found = given.filter !== undefined ? await idsOf(viewer, given.filter) : null
  const ids = found?.ids ?? [...new Set(given.prospectIds ?? [])]
  return transaction(async (client) => {
    await mustBeFixed(viewer, id, client)
    const batchId = newId()
    await client.query(
      sql`
        insert into list_batches (id, list_id, filter, at, by_id, count)
        values ($1, $2, $3, world_now(), $4, 0)
      `,
      [batchId, id, found && JSON.stringify(found.filter), viewer.id],
    )
    const added = await moveMembers(
      client,
      viewer,
      'listJoined',
      sql`
        insert into list_members (list_id, prospect_id, batch_id)
        select $1, p.id, $2
        from prospects p
        where p.id = any($3::uuid[]) and ${visible('p', '$4')}
        order by p.id
        on conflict do nothing
        returning list_id, prospect_id
      `,
      [id, batchId, ids, limitedTo(viewer)],
    )
    await client.query(sql`update list_batches set count = $2 where id = $1`, [batchId, added])
    return { added, already: ids.length - added }
  })
}

/** Takes people off a fixed list. */
export async function removeFromList(viewer: Viewer, id: Id, prospectIds: readonly Id[]): Promise<{ removed: number }> {
  return transaction(async (client) => {
    await mustBeFixed(viewer, id, client)
    const removed = await moveMembers(
      client,
      viewer,
      'listLeft',
      sql`
        delete from list_members
        where list_id = $1 and prospect_id = any($2::uuid[])
        returning list_id, prospect_id
      `,
      [id, prospectIds],
    )
    return { removed }
  })
}

interface Changes {
  come: Id[]
  go: Id[]
}

/**
 * Who would come and who would go if a batch were added with its filter now. People that other batches brought
 * stay.
 */
async function changesOf(viewer: Viewer, listId: Id, batchId: Id, client: Db): Promise<Changes> {
  await readList(viewer, listId, { client })
  const batch = await firstRow(
    client.query<{ filter: Filter | null }>(sql`select filter from list_batches where id = $1 and list_id = $2`, [
      batchId,
      listId,
    ]),
  )
  if (!batch) throw notFound('batch')
  if (!batch.filter) {
    throw new Refusal('refused', 'People were added to this list by hand: it has no filter to run again')
  }
  const { ids } = await idsOf(viewer, batch.filter)
  const { rows: come } = await client.query<{ id: Id }>(
    sql`
      select w.id
      from unnest($2::uuid[]) w(id)
      where not exists (select from list_members m where m.list_id = $1 and m.prospect_id = w.id)
    `,
    [listId, ids],
  )
  const { rows: go } = await client.query<{ id: Id }>(
    sql`
      select p.id
      from list_members m
        join prospects p on p.id = m.prospect_id
      where m.batch_id = $1 and not (p.id = any($2::uuid[])) and ${visible('p', '$3')}
    `,
    [batchId, ids, limitedTo(viewer)],
  )
  return { come: come.map((row) => row.id), go: go.map((row) => row.id) }
}

const SHOWN = 50

/** As `changesOf`, with names: the first fifty each way. */
export async function previewRefresh(viewer: Viewer, listId: Id, batchId: Id) {
  const { come, go } = await changesOf(viewer, listId, batchId, db())
  const named = async (ids: Id[]) =>
    (
      await db().query<{ id: Id; name: string; company: string | null }>(
        sql`
          select p.id, btrim(p.first_name || ' ' || p.last_name) as name, c.name as company
          from prospects p
            left join companies c on c.id = p.company_id
          where p.id = any($1::uuid[])
          order by p.name_key, p.id
          limit ${SHOWN}
        `,
        [ids],
      )
    ).rows
  return { come: await named(come), go: await named(go), comes: come.length, goes: go.length }
}

/** Adds a batch again: who fits now comes, who no longer fits goes. */
export async function refreshBatch(viewer: Viewer, listId: Id, batchId: Id): Promise<{ came: number; went: number }> {
  return transaction(async (client) => {
    await mustBeFixed(viewer, listId, client)
    const { come, go } = await changesOf(viewer, listId, batchId, client)
    const came = await moveMembers(
      client,
      viewer,
      'listJoined',
      sql`
        insert into list_members (list_id, prospect_id, batch_id)
        select $1, w.id, $2
        from unnest($3::uuid[]) w(id)
        on conflict do nothing
        returning list_id, prospect_id
      `,
      [listId, batchId, come],
    )
    const went = await moveMembers(
      client,
      viewer,
      'listLeft',
      sql`
        delete from list_members
        where batch_id = $1 and prospect_id = any($2::uuid[])
        returning list_id, prospect_id
      `,
      [batchId, go],
    )
    await client.query(
      sql`
        update list_batches
        set at = world_now(), by_id = $2, count = (select count(*) from list_members where batch_id = $1)
        where id = $1
      `,
      [batchId, viewer.id],
    )
    return { came, went }
  })
}
