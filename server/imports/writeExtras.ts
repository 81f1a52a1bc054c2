import { logFrom } from '../engine/eventLog'
import type { PoolClient } from 'pg'
import type { ExistingAction } from '#core/enumerations'
import type { Id } from '#core/instant'
import { firstRow, sql } from '../db/sql'

/**
 * Gives sources the names they are known by, and keeps those nobody knows, as far as someone is written down with
 * them.
 */
export async function nameSources(client: PoolClient, action: ExistingAction): Promise<void> {
  await client.query(
    sql`
      update bring b
      set source = s.name
      from sources s
      where b.source <> ''
        and b.source <> s.name
        and (lower(b.source) = lower(s.name) or lower(b.source) = any(select lower(a) from unnest(s.aliases) a))
    `,
  )
  await client.query(
    sql`
      insert into sources (name)
      select distinct on (lower(source)) source
      from bring
      where source <> '' and (${action !== 'skip'} or is_new)
      order by lower(source), source
      on conflict (lower(name)) do nothing
    `,
  )
}

/**
 * Puts people on the fixed lists that their rows name. A list that the importer may not fill, or that is live,
 * is left alone: then one of its name and "(from a file)" is made, and found again by the next file.
 */
async function putOnLists(client: PoolClient, userId: Id): Promise<void> {
  await client.query(sql`select pg_advisory_xact_lock(hashtext('list order'))`)
  await client.query(
    sql`
      create temp table into_lists on commit drop as select n.name, u.role not in ('manager', 'admin') as own,
      gen_random_uuid() as new_id, found.id as list_id,
      exists (select from lists l where lower(l.name) = lower(n.name) and l.visibility = 'everyone') as taken from (
        select distinct on (lower(extra ->> 'list')) extra ->> 'list' as name
        from brings
        where extra ? 'list'
        order by lower(extra ->> 'list'), row_no
      ) n join users u on u.id = $1 left join lateral (
        select l.id
        from lists l
        where l.kind = 'fixed'
          and lower(l.name) in (lower(n.name), lower(n.name || ' (from a file)'))
          and (l.owner_id = $1 or (u.role in ('manager', 'admin') and l.visibility = 'everyone'))
        order by lower(l.name) = lower(n.name) desc, l.owner_id = $1 desc nulls last, l.position
        limit 1
      ) found on true
    `,
    [userId],
  )
  await client.query(
    sql`
      insert into lists (id, name, kind, position, owner_id, visibility, created_at)
      select
        new_id, case when taken and not own then name || ' (from a file)' else name end, 'fixed',
        (select coalesce(max(position), -1) from lists) + row_number() over (order by lower(name)), $1,
        case when own then 'me' else 'everyone' end, (select world_now())
      from into_lists
      where list_id is null
    `,
    [userId],
  )
  await client.query(
    sql`
      with put as (
        insert into list_batches (id, list_id, at, by_id, count)
        select
          gen_random_uuid(), coalesce(i.list_id, i.new_id), (select world_now()), $1,
          (select count(distinct b.prospect_id) from brings b where lower(b.extra ->> 'list') = lower(i.name))
        from into_lists i
        returning id, list_id
      ),
      joined as (
        insert into list_members (list_id, prospect_id, batch_id)
        select distinct on (put.list_id, b.prospect_id) put.list_id, b.prospect_id, put.id
        from put
          join into_lists i on coalesce(i.list_id, i.new_id) = put.list_id
          join brings b on lower(b.extra ->> 'list') = lower(i.name)
        on conflict do nothing
        returning list_id, prospect_id
      )
      ${logFrom('listJoined', {
        prospect: 'prospect_id',
        actor: '$1::uuid',
        payload: `jsonb_build_object('listId', list_id)`,
        from: 'joined',
      })}
    `,
    [userId],
  )
}

/** Tags, lists and past touches that the rows bring. Known people get them only where the file may add to them. */
export async function addExtras(client: PoolClient, importId: Id, userId: Id, action: ExistingAction): Promise<void> {
  const some = await firstRow(client.query(sql`select from bring where extra is not null limit 1`))
  if (!some) return
  const whose = action === 'skip' ? 'is_new' : 'true'
  await client.query(
    sql`
      create temp table brings on commit drop as select prospect_id, row_no,
      extra from bring where extra is not null and ${whose}
    `,
  )
  await client.query(
    sql`
      insert into tags (id, name, created_at)
      select gen_random_uuid(), name, (select world_now())
      from (
        select distinct on (lower(name)) name
        from brings
          cross join lateral jsonb_array_elements_text(extra -> 'tags') as t(name)
        order by lower(name), name
      ) t
      on conflict (lower(name)) do nothing
    `,
  )
  await client.query(
    sql`
      insert into prospect_tags (prospect_id, tag_id)
      select distinct b.prospect_id, g.id
      from brings b
        cross join lateral jsonb_array_elements_text(b.extra -> 'tags') as t(name)
        join tags g on lower(g.name) = lower(t.name)
      on conflict do nothing
    `,
  )
  await putOnLists(client, userId)
  // A past day's touch was at noon, by the team's clock; the same one again is no second touch.
  await client.query(
    sql`
      insert into touches (id, prospect_id, kind, at, user_id, counts_as)
      select gen_random_uuid(), t.prospect_id, t.kind, t.at, $1, 'none'
      from (
        select
          distinct b.prospect_id, b.extra #>> '{touch,kind}' as kind,
          least(
            ((b.extra #>> '{touch,day}')::date + time '12:00') at time zone (select time_zone from team),
            (select world_now())
          )::timestamptz(3) as at
        from brings b
        where b.extra ? 'touch'
      ) t
      where not exists (
          select from touches x where x.prospect_id = t.prospect_id and x.kind = t.kind and x.at = t.at
        )
    `,
    [userId],
  )
  await client.query(
    logFrom('pastTouches', {
      prospect: 'prospect_id',
      actor: '$2::uuid',
      payload: `jsonb_build_object('importId', $1::uuid, 'count', count(*))`,
      from: `brings where extra ? 'touch' group by prospect_id`,
    }),
    [importId, userId],
  )
}

export async function addNotes(client: PoolClient, userId: Id): Promise<void> {
  // The same note again, from the same file imported once more, is not added twice.
  await client.query(
    sql`
      insert into notes (id, prospect_id, user_id, at, body)
      select gen_random_uuid(), b.prospect_id, $1, (select world_now()), b.note
      from (select distinct prospect_id, note from bring where note <> '') b
      where not exists (select from notes n where n.prospect_id = b.prospect_id and n.body = b.note)
    `,
    [userId],
  )
}
