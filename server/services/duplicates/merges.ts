import { logEvent } from '../../engine/eventLog'
import type { Id, Instant } from '#core/instant'
import { newId } from '#shared/newId'
import { db, transaction, type Db } from '../../db/pool'
import { limitedTo, mustSee, visible } from '../access/access'
import { byHand } from '../cadences/enrollments'
import { notFound, Refusal } from '../access/errors'
import { log, loggable } from '../../log'
import type { Viewer } from '../access/viewer'
import { sql } from '../../db/sql'

/** Rows that go along with a person as they are. */
export const ROWS = [
  'touches',
  'tasks',
  'email_messages',
  'replies',
  'meetings',
  'deals',
  'notes',
  'email_addresses',
  'calls',
  'form_submissions',
  'text_messages',
  'enrollments',
  'delayed_actions',
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

export interface Moved {
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
export async function lockBoth(client: Db, primaryId: Id, duplicateId: Id): Promise<{ primary: Row; duplicate: Row }> {
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
    const event = newId()
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
    // What someone said by hand counts for more than a score, and than nothing.
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
    await logEvent(client, {
      kind: 'merged',
      prospectId: primaryId,
      actorId: viewer.id,
      payload: { mergeId: id, duplicateId },
    })
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
