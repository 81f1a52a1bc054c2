import { randomUUID } from 'node:crypto'
import type { CompanyStatus } from '#core/engine/engineState'
import type { Id, Instant } from '#core/instant'
import { db, transaction, type Db } from '../db/pool'
import { undo as takeBack, UndoRefused } from '../engine/undo'
import { companyVisible, limitedTo } from './access'
import { mustSeeCompany, setCompanyStatus } from './companies'
import { notFound, Refusal } from './errors'
import type { Viewer } from './sessions'
import { firstRow, sql } from '../db/sql'

/** Rows that go along with a company as they are. */
const ROWS = ['prospects', 'deals', 'company_notes', 'company_links', 'company_aliases'] as const
/** What the company that stays takes over where nothing is known of it. */
const FILLED = ['domain', 'country', 'region', 'city', 'industry', 'size'] as const
/** The stricter status of two holds for both. */
const BY_STRICTNESS: readonly CompanyStatus[] = ['open', 'in_deal', 'customer', 'not_a_fit', 'do_not_contact']

type Row = Record<string, unknown> & {
  id: Id
  name: string
  name_key: string
  domain: string | null
  status: CompanyStatus
  custom: Record<string, unknown>
}

interface Moved {
  /** Ids by table; of aliases, their kind and value. */
  rows: Partial<Record<(typeof ROWS)[number], string[]>>
  fields: Record<string, unknown>
  custom: Record<string, unknown>
  /** The events that gave one of the two the status of the other. */
  statusEvents: Id[]
}

const KEY = {
  prospects: 'id::text',
  deals: 'id::text',
  company_notes: 'id::text',
  company_links: 'id::text',
  company_aliases: `kind || ' ' || value`,
} as const

async function lockBoth(client: Db, keptId: Id, goneId: Id): Promise<{ kept: Row; gone: Row }> {
  const { rows } = await client.query<Row>(sql`select * from companies where id in ($1, $2) order by id for update`, [
    keptId,
    goneId,
  ])
  const [kept, gone] = [keptId, goneId].map((id) => rows.find((row) => row.id === id))
  if (!kept || !gone) throw notFound('company')
  return { kept, gone }
}

/** Gives both companies the stricter of their two statuses, through the engine; returns the events. */
async function alignStatus(viewer: Viewer, ids: readonly [Id, Id]): Promise<Id[]> {
  const { rows } = await db().query<{ id: Id; status: CompanyStatus }>(
    sql`select id, status from companies where id in ($1, $2)`,
    [...ids],
  )
  const strictest = rows
    .map((row) => row.status)
    .sort((a, b) => BY_STRICTNESS.indexOf(b) - BY_STRICTNESS.indexOf(a))[0]!
  const events: Id[] = []
  for (const { id } of rows.filter((row) => row.status !== strictest)) {
    const event = randomUUID()
    await setCompanyStatus(viewer, id, { id: event, to: strictest })
    events.push(event)
  }
  return events
}

/** Writes "Company: A → B" into the history of everyone who moved. */
async function noteMove(
  client: Db,
  viewer: Viewer,
  prospectIds: readonly string[],
  from: string,
  to: string,
  mergeId: Id,
): Promise<void> {
  await client.query(
    sql`
      with moved as (
        insert into events (id, at, kind, prospect_id, actor_id, payload)
        select
          gen_random_uuid(), world_now(), 'prospectEdited', p, $2,
          jsonb_build_object('companyMergeId', $3::uuid, 'fields', jsonb_build_array('company'))
        from unnest($1::uuid[]) p
        returning id, prospect_id
      )
      insert into event_texts (event_id, prospect_id, texts)
      select
        id, prospect_id,
        jsonb_build_object('changes', jsonb_build_object('company', jsonb_build_array($4::text, $5::text)))
      from moved
    `,
    [prospectIds, viewer.id, mergeId, from, to],
  )
}

/**
 * Makes one company of two: everyone there, deals, notes and links move to the one that stays, which keeps what is
 * known of it and takes over the rest; the stricter of the two statuses holds for all. The name and domain of the other
 * are remembered, so that a file that uses them means the one that stays. `id` is the merge's own.
 */
export async function mergeCompanies(viewer: Viewer, id: Id, keptId: Id, goneId: Id): Promise<{ summary: string }> {
  if (keptId === goneId) {
    throw new Refusal('invalid', 'Choose another company', [{ field: 'goneId', message: 'Choose another company' }])
  }
  // Sent again under the same id, it is done already.
  const done = await firstRow(
    db().query<{ kept: string }>(
      sql`
        select c.name as kept
        from company_merges m
          join companies c on c.id = m.kept_id
        where m.id = $1
      `,
      [id],
    ),
  )
  if (done) return { summary: `Merged into ${done.kept}.` }
  for (const one of [keptId, goneId]) await mustSeeCompany(viewer, one)
  const statusEvents = await alignStatus(viewer, [keptId, goneId])
  return transaction(async (client) => {
    const { kept, gone } = await lockBoth(client, keptId, goneId)
    const rows: Moved['rows'] = {}
    for (const table of ROWS) {
      const { rows: moved } = await client.query<{ key: string }>(
        sql`
          update ${table}
          set company_id = $1
          where company_id = $2
          returning ${KEY[table]} as key
        `,
        [keptId, goneId],
      )
      rows[table] = moved.map((row) => row.key)
    }
    const fields = Object.fromEntries(
      FILLED.filter((column) => kept[column] === null && gone[column] !== null).map((column) => [column, gone[column]]),
    )
    const custom = Object.fromEntries(Object.entries(gone.custom).filter(([key]) => !(key in kept.custom)))
    await client.query(sql`delete from companies where id = $1`, [goneId])
    const names = Object.keys(fields)
    await client.query(
      sql`
        update companies
        set ${[...names.map((name, index) => `${name} = $${index + 3}`), 'custom = $2::jsonb || custom', 'version = version + 1'].join(', ')}
        where id = $1
      `,
      [keptId, JSON.stringify(custom), ...Object.values(fields)],
    )
    await client.query(
      sql`
        insert into company_aliases (kind, value, company_id)
        select kind, value, $1
        from (values ('domain', $2::text), ('name', $3::text)) a (kind, value)
        where value <> '' and value is distinct from case kind when 'domain' then $4 else $5 end
        on conflict do nothing
      `,
      [keptId, gone.domain, gone.name_key, fields.domain ?? kept.domain, kept.name_key],
    )
    const moved: Moved = { rows, fields, custom, statusEvents }
    await client.query(
      sql`
        insert into company_merges (id, kept_id, gone_id, gone, moved, by_id, at)
        values ($1, $2, $3, $4, $5, $6, world_now())
      `,
      [id, keptId, goneId, JSON.stringify(gone), JSON.stringify(moved), viewer.id],
    )
    await noteMove(client, viewer, rows.prospects!, gone.name, kept.name, id)
    const [people, deals] = [rows.prospects!.length, rows.deals!.length]
    return {
      summary: `Merged into ${kept.name}: ${people} ${people === 1 ? 'person' : 'people'} and ${deals} ${deals === 1 ? 'deal' : 'deals'} moved.`,
    }
  })
}

interface CompanyMergeRow {
  kept_id: Id
  gone_id: Id
  gone: Row
  moved: Moved
  undone: boolean
}

/**
 * Makes two companies of one again: what moved goes back, unless it has been moved elsewhere or changed since, which is
 * said.
 */
export async function undoCompanyMerge(
  viewer: Viewer,
  mergeId: Id,
): Promise<{ keptId: Id; goneId: Id; kept: string[] }> {
  const { goneId, keptId, notes, statusEvents } = await transaction(async (client) => {
    const merge = await firstRow(
      client.query<CompanyMergeRow>(
        sql`
          select kept_id, gone_id, gone, moved, undone_at is not null as undone
          from company_merges
          where id = $1
          for update
        `,
        [mergeId],
      ),
    )
    if (!merge) throw notFound('merge')
    if (merge.undone) throw new Refusal('conflict', 'This merge has been undone already')
    const { kept_id: keptId, gone_id: goneId, gone, moved } = merge
    const kept = await firstRow(client.query<Row>(sql`select * from companies where id = $1 for update`, [keptId]))
    if (!kept) {
      throw new Refusal('refused', 'The company it was merged into was merged into another one since; undo that first')
    }
    const notes: string[] = []
    const back = Object.entries(moved.fields).filter(([name, value]) => {
      if (kept[name] === value) return true
      notes.push(`The ${name} has been changed since and stays.`)
      return false
    })
    const custom = Object.keys(moved.custom).filter(
      (key) => JSON.stringify(kept.custom[key]) === JSON.stringify(moved.custom[key]),
    )
    await client.query(
      sql`
        update companies
        set ${[...back.map(([name]) => `${name} = null`), 'custom = custom - $2::text[]', 'version = version + 1'].join(', ')}
        where id = $1
      `,
      [keptId, custom],
    )
    await client.query(
      sql`
        delete from company_aliases
        where company_id = $1 and (kind, value) in (($2, $3), ($4, $5))
      `,
      [keptId, 'domain', gone.domain, 'name', gone.name_key],
    )
    const taken =
      gone.domain !== null && (await client.query(sql`select from companies where domain = $1`, [gone.domain])).rowCount
    if (taken) notes.push(`The domain ${gone.domain} belongs to another company now.`)
    await client.query(sql`insert into companies select (jsonb_populate_record(null::companies, $1)).*`, [
      JSON.stringify({ ...gone, domain: taken ? null : gone.domain }),
    ])
    let movedBack: string[] = []
    for (const table of ROWS) {
      const keys = moved.rows[table] ?? []
      const { rows } = await client.query<{ key: string }>(
        sql`
          update ${table}
          set company_id = $2
          where company_id = $1 and ${KEY[table]} = any($3::text[])
          returning ${KEY[table]} as key
        `,
        [keptId, goneId, keys],
      )
      if (table === 'prospects') movedBack = rows.map((row) => row.key)
      if (rows.length < keys.length) {
        notes.push(
          `${keys.length - rows.length} of its ${table.replace('company_', '')} moved or went since and stay there.`,
        )
      }
    }
    await client.query(sql`update company_merges set undone_at = world_now() where id = $1`, [mergeId])
    await noteMove(client, viewer, movedBack, kept.name, gone.name, mergeId)
    return { keptId, goneId, notes, statusEvents: moved.statusEvents }
  })
  for (const event of statusEvents) {
    await takeBack(randomUUID(), event, viewer.id).catch((error: unknown) => {
      if (!(error instanceof UndoRefused)) throw error
      notes.push('The company status stays as it is.')
    })
  }
  return { keptId, goneId, kept: notes }
}

interface CompanyMergeEntry {
  id: Id
  keptId: Id
  kept: string
  gone: string
  by: string | null
  at: Instant
}

/** The latest company merges that stand. */
export async function listCompanyMerges(): Promise<CompanyMergeEntry[]> {
  const { rows } = await db().query<CompanyMergeEntry>(
    sql`
      select m.id, c.id as "keptId", c.name as kept, m.gone ->> 'name' as gone, u.name as by, ms(m.at) as at
      from company_merges m
        join companies c on c.id = m.kept_id
        left join users u on u.id = m.by_id
      where m.undone_at is null
      order by m.at desc
      limit 100
    `,
  )
  return rows
}

/** Most pairs of companies that are offered for merging at once. */
const PAIRS_SHOWN = 100

export interface CompanyLike {
  id: Id
  name: string
  domain: string | null
  people: number
  status: CompanyStatus
  city: string | null
}

/**
 * Pairs of companies with the same name, of which at most one has a domain: one of them was probably added without an
 * email.
 */
export async function findDuplicateCompanies(viewer: Viewer): Promise<{ one: CompanyLike; other: CompanyLike }[]> {
  const like = (c: string) => sql`
    json_build_object(
      'id', ${c}.id, 'name', ${c}.name, 'domain', ${c}.domain, 'status', ${c}.status, 'city', ${c}.city, 'people',
      (select count(*) from prospects p where p.company_id = ${c}.id)
    )
  `
  const { rows } = await db().query<{ one: CompanyLike; other: CompanyLike }>(
    sql`
      select ${like('a')} as one, ${like('b')} as other
      from companies a
        join companies b on b.name_key = a.name_key and b.id <> a.id
      where (b.domain is null and (a.domain is not null or a.id < b.id))
        and ${companyVisible('a', '$1')}
        and ${companyVisible('b', '$1')}
      order by a.name_key, a.id, b.id
      limit ${PAIRS_SHOWN}
    `,
    [limitedTo(viewer)],
  )
  return rows
}
