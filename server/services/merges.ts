import { randomUUID } from 'node:crypto'
import { suspect, type Likeness, type Suspicion } from '#core/text/duplicates'
import type { Id, Instant } from '#core/instant'
import { db, transaction, type Db } from '../db/pool'
import { undo as takeBack, UndoRefused } from '../engine/undo'
import { limitedTo, mustSee, visible } from './access'
import { byHand } from './enrollments'
import { notFound, Refusal } from './errors'
import { log, loggable } from '../log'
import type { Viewer } from './sessions'
import { firstRow, sql } from '../db/sql'

/** Rows that go along with a person as they are. */
const ROWS = [
  'touches',
  'tasks',
  'email_messages',
  'replies',
  'meetings',
  'deals',
  'notes',
  'email_addresses',
  'calls',
  'enrollments',
  'phones',
] as const
/** What the person who is kept takes over where they have nothing themselves. */
const FILLED = [
  'title',
  'company_id',
  'owner_id',
  'country',
  'region',
  'city',
  'postal_code',
  'source',
  'relationship_owner_id',
] as const

interface Moved {
  rows: Partial<Record<(typeof ROWS)[number], Id[]>>
  tags: { had: Id[]; given: Id[] }
  members: { had: { list_id: Id; batch_id: Id }[]; given: Id[] }
  fields: Record<string, { before: unknown; after: unknown }>
  custom: Record<string, unknown>
  companyId: Id | null
  unpinned: Id[]
  /** Enrollments of the one that went that ended for it, as the events that ended them. */
  unenrolled: Id[]
  /** First contacts that were not needed any more. */
  contacted?: Id[]
}

type Row = Record<string, unknown> & {
  id: Id
  company_id: Id | null
  merged_into: Id | null
  stop_call: boolean
  stop_email: boolean
  custom: Record<string, unknown>
}

/** Locks both in the one order: companies by id, then prospects by id. Throws where one of them is merged already. */
async function lockBoth(client: Db, primaryId: Id, duplicateId: Id): Promise<{ primary: Row; duplicate: Row }> {
  await client.query(
    sql`
      select id
      from companies
      where id in (select company_id from prospects where id in ($1, $2))
      order by id
      for no key update
    `,
    [primaryId, duplicateId],
  )
  const { rows } = await client.query<Row>(sql`select * from prospects where id in ($1, $2) order by id for update`, [
    primaryId,
    duplicateId,
  ])
  const [primary, duplicate] = [primaryId, duplicateId].map((id) => rows.find((row) => row.id === id))
  if (!primary || !duplicate) throw notFound('person')
  return { primary, duplicate }
}

/**
 * Makes one person of two: everything the one has goes to the other, who keeps what they know themselves; a stop of
 * either holds. Where both are on their way through one cadence, the way of the one that goes ends first.
 */
export async function mergeProspects(
  viewer: Viewer,
  id: Id,
  primaryId: Id,
  duplicateId: Id,
): Promise<{ summary: string }> {
  if (primaryId === duplicateId) {
    throw new Refusal('invalid', 'Choose two different prospects', [
      { field: 'duplicateId', message: 'Choose two different prospects' },
    ])
  }
  for (const one of [primaryId, duplicateId]) await mustSee(viewer, one)
  const { rows: twice } = await db().query<{ id: Id }>(
    sql`
      select g.id
      from enrollments g
        join enrollments k on k.prospect_id = $1 and k.cadence_id = g.cadence_id and k.status <> 'ended'
      where g.prospect_id = $2 and g.status <> 'ended'
    `,
    [primaryId, duplicateId],
  )
  const unenrolled: Id[] = []
  for (const enrollment of twice) {
    const event = randomUUID()
    await byHand(viewer, {
      id: event,
      kind: 'unenrolled',
      prospectId: duplicateId,
      actorId: viewer.id,
      causedByEventId: null,
      enrollmentId: enrollment.id,
    })
    unenrolled.push(event)
  }
  return transaction(async (client) => {
    const { primary, duplicate } = await lockBoth(client, primaryId, duplicateId)
    if (primary.merged_into || duplicate.merged_into) {
      throw new Refusal('conflict', 'One of them has already been merged')
    }
    const rows: Moved['rows'] = {}
    const { rows: unpinned } = await client.query<{ id: Id }>(
      sql`
        update notes
        set pinned = false
        where prospect_id = $2 and pinned and exists (select from notes where prospect_id = $1 and pinned)
        returning id
      `,
      [primaryId, duplicateId],
    )
    for (const table of ROWS) {
      // A number that both have is one number.
      const unless = table === 'phones' ? ' and number not in (select number from phones where prospect_id = $1)' : ''
      const { rows: moved } = await client.query<{ id: Id }>(
        sql`
          update ${table}
          set prospect_id = $1
          where prospect_id = $2${unless}
          returning id
        `,
        [primaryId, duplicateId],
      )
      rows[table] = moved.map((row) => row.id)
    }
    await client.query(sql`select count_touches(array[$1, $2]::uuid[])`, [primaryId, duplicateId])
    // Who has been in touch with either of the two needs no first contact any more.
    const { rows: contacted } = await client.query<{ id: Id }>(
      sql`
        update tasks t
        set status = 'cancelled', done_at = world_now()
        where t.prospect_id = $1
          and t.kind = 'first_contact'
          and t.status = 'open'
          and (
            exists (select from touches x where x.prospect_id = $1)
              or exists (
                select
                from tasks o
                where o.prospect_id = $1
                  and o.status = 'open'
                  and o.id <> t.id
                  and (o.kind <> 'first_contact' or o.id < t.id)
              )
          )
        returning t.id
      `,
      [primaryId],
    )
    await client.query(sql`update scheduled_actions set prospect_id = $1 where prospect_id = $2`, [
      primaryId,
      duplicateId,
    ])
    const tags = await client.query<{ tag_id: Id }>(
      sql`delete from prospect_tags where prospect_id = $1 returning tag_id`,
      [duplicateId],
    )
    const given = await client.query<{ tag_id: Id }>(
      sql`
        insert into prospect_tags (prospect_id, tag_id)
        select $1, t
        from unnest($2::uuid[]) t
        on conflict do nothing
        returning tag_id
      `,
      [primaryId, tags.rows.map((row) => row.tag_id)],
    )
    const members = await client.query<{ list_id: Id; batch_id: Id }>(
      sql`delete from list_members where prospect_id = $1 returning list_id, batch_id`,
      [duplicateId],
    )
    const joined = await client.query<{ list_id: Id }>(
      sql`
        insert into list_members (list_id, prospect_id, batch_id)
        select m.list_id, $1, m.batch_id
        from jsonb_to_recordset($2) as m(list_id uuid, batch_id uuid)
        on conflict do nothing
        returning list_id
      `,
      [primaryId, JSON.stringify(members.rows)],
    )
    const fields: Moved['fields'] = {}
    for (const column of FILLED) {
      if (primary[column] === null && duplicate[column] !== null) {
        fields[column] = { before: null, after: duplicate[column] }
      }
    }
    // What somebody said by hand counts for more than a score, and than nothing.
    if (duplicate.rating !== null && !duplicate.rated_by_score && (primary.rated_by_score || primary.rating === null)) {
      fields.rating = { before: primary.rating, after: duplicate.rating }
      if (primary.rated_by_score) fields.rated_by_score = { before: true, after: false }
    }
    for (const stop of ['stop_call', 'stop_email'] as const) {
      if (duplicate[stop] && !primary[stop]) fields[stop] = { before: false, after: true }
    }
    const custom = Object.fromEntries(Object.entries(duplicate.custom).filter(([key]) => !(key in primary.custom)))
    const names = Object.keys(fields)
    await client.query(
      sql`
        update prospects
        set ${[...names.map((name, index) => `${name} = $${index + 3}`), 'custom = $2 || custom', 'version = version + 1'].join(', ')}
        where id = $1
      `,
      [primaryId, JSON.stringify(custom), ...names.map((name) => fields[name]!.after)],
    )
    await client.query(
      sql`
        update prospects
        set merged_into = $1, company_id = null, version = version + 1
        where id = $2
      `,
      [primaryId, duplicateId],
    )
    const moved: Moved = {
      contacted: contacted.map((row) => row.id),
      rows,
      tags: { had: tags.rows.map((row) => row.tag_id), given: given.rows.map((row) => row.tag_id) },
      members: { had: members.rows, given: joined.rows.map((row) => row.list_id) },
      fields,
      custom,
      companyId: duplicate.company_id,
      unpinned: unpinned.map((row) => row.id),
      unenrolled,
    }
    await client.query(
      sql`
        insert into merges (id, primary_id, duplicate_id, by_id, at, moved)
        values ($1, $2, $3, $4, world_now(), $5)
      `,
      [id, primaryId, duplicateId, viewer.id, JSON.stringify(moved)],
    )
    await client.query(
      sql`
        insert into events (id, at, kind, prospect_id, actor_id, payload)
        values ($1, world_now(), 'merged', $2, $3, $4)
      `,
      [randomUUID(), primaryId, viewer.id, JSON.stringify({ mergeId: id, duplicateId })],
    )
    const count = Object.values(rows).reduce((sum, ids) => sum + ids.length, 0)
    return { summary: `They are one person now; ${count} ${count === 1 ? 'entry' : 'entries'} moved.` }
  })
}

/** Merges many pairs, one after the other; a pair that cannot be merged stops no other. */
export async function mergePairs(
  viewer: Viewer,
  pairs: readonly { id: Id; primaryId: Id; duplicateId: Id }[],
): Promise<{ merged: number; failed: { id: Id; message: string }[] }> {
  const failed: { id: Id; message: string }[] = []
  for (const { id, primaryId, duplicateId } of pairs) {
    await mergeProspects(viewer, id, primaryId, duplicateId).catch((error: unknown) => {
      if (!(error instanceof Refusal)) log.error({ error: loggable(error), mergeId: id }, 'a pair could not be merged')
      failed.push({ id, message: error instanceof Refusal ? error.message : 'This pair could not be merged' })
    })
  }
  return { merged: pairs.length - failed.length, failed }
}

interface MergeRow {
  primary_id: Id
  duplicate_id: Id
  moved: Moved
  undone: boolean
}

/** Makes two people of one again: what came goes back, unless it has been changed since, which is said. */
export async function undoMerge(
  viewer: Viewer,
  mergeId: Id,
): Promise<{ primaryId: Id; duplicateId: Id; kept: string[] }> {
  const done = await transaction(async (client) => {
    const merge = await firstRow(
      client.query<MergeRow>(
        sql`
          select primary_id, duplicate_id, moved, undone_at is not null as undone
          from merges
          where id = $1
          for update
        `,
        [mergeId],
      ),
    )
    if (!merge) throw notFound('merge')
    const { primary_id: primaryId, duplicate_id: duplicateId, moved } = merge
    await mustSee(viewer, primaryId, client).catch(() => {
      throw new Refusal('refused', 'The prospect they were merged into has been merged since; undo that merge first')
    })
    if (merge.undone) throw new Refusal('conflict', 'This merge has already been undone')
    const { primary } = await lockBoth(client, primaryId, duplicateId)
    const summary: string[] = []
    for (const table of ROWS) {
      const { rowCount } = await client.query(
        sql`
          update ${table}
          set prospect_id = $2
          where prospect_id = $1 and id = any($3::uuid[])
        `,
        [primaryId, duplicateId, moved.rows[table] ?? []],
      )
      if ((rowCount ?? 0) < (moved.rows[table]?.length ?? 0)) summary.push(`Some ${table} are no longer there`)
    }
    await client.query(sql`select count_touches(array[$1, $2]::uuid[])`, [primaryId, duplicateId])
    await client.query(
      sql`
        update tasks
        set status = 'open', done_at = null
        where id = any($1::uuid[]) and status = 'cancelled'
      `,
      [moved.contacted ?? []],
    )
    await client.query(sql`update notes set pinned = true where id = any($1::uuid[])`, [moved.unpinned])
    await client.query(sql`update scheduled_actions a set prospect_id = $1 where ref_id = any($2::uuid[])`, [
      duplicateId,
      [...(moved.rows.enrollments ?? []), ...(moved.rows.email_messages ?? [])],
    ])
    await client.query(sql`delete from prospect_tags where prospect_id = $1 and tag_id = any($2::uuid[])`, [
      primaryId,
      moved.tags.given,
    ])
    await client.query(
      sql`
        insert into prospect_tags (prospect_id, tag_id)
        select $1, id
        from tags
        where id = any($2::uuid[])
        on conflict do nothing
      `,
      [duplicateId, moved.tags.had],
    )
    await client.query(sql`delete from list_members where prospect_id = $1 and list_id = any($2::uuid[])`, [
      primaryId,
      moved.members.given,
    ])
    await client.query(
      sql`
        insert into list_members (list_id, prospect_id, batch_id)
        select a.list_id, $1, a.id
        from jsonb_to_recordset($2) as m(list_id uuid, batch_id uuid)
          join list_batches a on a.id = m.batch_id
        on conflict do nothing
      `,
      [duplicateId, JSON.stringify(moved.members.had)],
    )
    const back = Object.entries(moved.fields).filter(([name, { after }]) => {
      const same = primary[name] === after
      if (!same) summary.push(`${name.replaceAll('_', ' ').replace(' id', '')} has been changed since and stays`)
      return same
    })
    const custom = Object.entries(moved.custom)
      .filter(([key, value]) => JSON.stringify(primary.custom[key]) === JSON.stringify(value))
      .map(([key]) => key)
    await client.query(
      sql`
        update prospects
        set ${[...back.map(([name], index) => `${name} = $${index + 3}`), 'custom = custom - $2::text[]', 'version = version + 1'].join(', ')}
        where id = $1
      `,
      [primaryId, custom, ...back.map(([, { before }]) => before)],
    )
    await client.query(
      sql`
        update prospects
        set merged_into = null, company_id = $2, version = version + 1
        where id = $1
      `,
      [duplicateId, moved.companyId],
    )
    await client.query(sql`update merges set undone_at = world_now() where id = $1`, [mergeId])
    await client.query(
      sql`
        insert into events (id, at, kind, prospect_id, actor_id, payload)
        select gen_random_uuid(), world_now(), 'mergeUndone', who, $2, $3
        from unnest($1::uuid[]) who
      `,
      [[primaryId, duplicateId], viewer.id, JSON.stringify({ mergeId })],
    )
    return { primaryId, duplicateId, kept: summary, unenrolled: moved.unenrolled }
  })
  for (const event of done.unenrolled) {
    await takeBack(randomUUID(), event, viewer.id).catch((error: unknown) => {
      if (!(error instanceof UndoRefused)) throw error
      done.kept.push('They stay out of a cadence that both were in')
    })
  }
  return { primaryId: done.primaryId, duplicateId: done.duplicateId, kept: done.kept }
}

/** Keeps that two people only look alike. */
export async function tellApart(viewer: Viewer, ids: readonly [Id, Id]): Promise<void> {
  for (const id of ids) await mustSee(viewer, id)
  const [one, other] = [...ids].sort()
  if (one === other) {
    throw new Refusal('invalid', 'Choose two prospects', [{ field: 'ids', message: 'Choose two prospects' }])
  }
  await db().query(
    sql`
      insert into not_duplicates (one_id, other_id, by_id, at)
      values ($1, $2, $3, world_now())
      on conflict do nothing
    `,
    [one, other, viewer.id],
  )
}

interface Shown extends Likeness {
  id: Id
  name: string
  title: string | null
  company: string | null
  stage: string
  owner: string | null
  touches: number
  createdAt: Instant
}

/** More people than this on one number share a switchboard, not a name. */
const SWITCHBOARD = 5
/** How many pairs are looked at. */
const LOOKED_AT = 2_000

/**
 * Pairs of people who may be one, the surest first; of one person, where `about` is given. Pairs told apart are left
 * out.
 */
export async function findDuplicates(
  viewer: Viewer,
  about: Id | null,
  limit: number,
): Promise<{ pairs: { one: Shown; other: Shown; sureness: number; reasons: string[] }[] }> {
  if (about) await mustSee(viewer, about)
  // Of one person it is asked along the indexes, from them to everybody else; of all, each pair once.
  const both = `${about ? 'a.id = $2::uuid and b.id <> a.id' : '$2::uuid is null and b.id > a.id'} and ${visible('a', '$1')} and ${visible('b', '$1')}`
  const alike = about
    ? `union select a.id, b.id from prospects a join prospects b on b.name_key = a.name_key where ${both}`
    : ''
  const { rows } = await db().query<{ one: Id; other: Id }>(
    sql`
      with pairs as (
        select a.id as one, b.id as other
        from prospects a
          join phones x on x.prospect_id = a.id
          join phones y on y.number = x.number
          join prospects b on b.id = y.prospect_id
        where (select count(*) from (select from phones z where z.number = x.number limit ${SWITCHBOARD + 1}) c) <=
            ${SWITCHBOARD}
          and ${both}
        union
        select a.id, b.id
        from prospects a
          join prospects b on b.company_id = a.company_id
            and split_part(b.name_key, ' ', -1) = split_part(a.name_key, ' ', -1)
        where ${both} ${alike}
      )
      select one, other
      from pairs
      where not exists (
          select from not_duplicates t where t.one_id = least(one, other) and t.other_id = greatest(one, other)
        )
      limit ${LOOKED_AT}
    `,
    [limitedTo(viewer), about],
  )
  const shown = await describeAll([...new Set(rows.flatMap((row) => [row.one, row.other]))])
  const judged = rows.flatMap(({ one, other }) => {
    const [a, b] = [shown.get(one)!, shown.get(other)!]
    const suspicion: Suspicion | null = suspect(a, b)
    return suspicion ? [{ one: a, other: b, ...suspicion }] : []
  })
  return {
    pairs: judged.sort((a, b) => b.sureness - a.sureness || a.one.name.localeCompare(b.one.name)).slice(0, limit),
  }
}

async function describeAll(ids: readonly Id[]): Promise<ReadonlyMap<Id, Shown>> {
  const { rows } = await db().query<Shown>(
    sql`
      select
        p.id, p.first_name as "firstName", p.last_name as "lastName",
        btrim(p.first_name || ' ' || p.last_name) as name, p.title, p.company_id as "companyId", c.name as company,
        s.name as stage, u.name as owner, ms(p.created_at) as "createdAt",
        array(select number from phones n where n.prospect_id = p.id order by position) as phones,
        array(select address from email_addresses e where e.prospect_id = p.id order by position) as emails,
        (select count(*) from touches t where t.prospect_id = p.id) as touches
      from prospects p
        left join companies c on c.id = p.company_id
        join stages s on s.id = p.stage_id
        left join users u on u.id = p.owner_id
      where p.id = any($1::uuid[])
    `,
    [ids],
  )
  return new Map(rows.map((row) => [row.id, row]))
}

interface MergeEntry {
  id: Id
  primaryId: Id
  primary: string
  duplicate: string
  by: string | null
  at: Instant
}

/** The latest merges that stand, among the people the viewer sees. */
export async function listMerges(viewer: Viewer) {
  const { rows } = await db().query<MergeEntry>(
    sql`
      select
        m.id, p.id as "primaryId", btrim(p.first_name || ' ' || p.last_name) as primary,
        btrim(g.first_name || ' ' || g.last_name) as duplicate, u.name as by, ms(m.at) as at
      from merges m
        join prospects p on p.id = m.primary_id
        join prospects g on g.id = m.duplicate_id
        left join users u on u.id = m.by_id
      where m.undone_at is null and ${visible('p', '$1')}
      order by m.at desc
      limit 50
    `,
    [limitedTo(viewer)],
  )
  return { merges: rows }
}
