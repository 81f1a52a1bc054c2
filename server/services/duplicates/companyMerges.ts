import { logEvent, logFrom, logTexts, textsFrom } from '../../engine/eventLog'
import { COMPANY_STATUSES, valuesOf, type CompanyStatus } from '#core/enumerations'
import type { Id, Instant } from '#core/instant'
import { newId } from '#shared/newId'
import { db, transaction, type Db } from '../../db/pool'
import { undo as takeBack, UndoRefused } from '../../engine/undo'
import { companyVisible, limitedTo } from '../access/access'
import { mustSeeCompany, setCompanyStatus } from '../companies/companies'
import { notFound, Refusal } from '../access/errors'
import type { Viewer } from '../access/viewer'
import { firstRow, sql } from '../../db/sql'

/** Rows that go along with a company as they are. */
const ROWS = ['prospects', 'deals', 'company_notes', 'company_links', 'company_aliases'] as const
/** What the company that stays takes over where nothing is known of it. */
const FILLED = ['domain', 'country', 'region', 'city', 'industry', 'size'] as const
/** The stricter status of two holds for both. */
const BY_STRICTNESS: readonly CompanyStatus[] = valuesOf(COMPANY_STATUSES)

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

async function lockBoth(client: Db, primaryId: Id, duplicateId: Id): Promise<{ primary: Row; duplicate: Row }> {
  const { rows } = await client.query<Row>(sql`select * from companies where id in ($1, $2) order by id for update`, [
    primaryId,
    duplicateId,
  ])
  const [primary, duplicate] = [primaryId, duplicateId].map((id) => rows.find((row) => row.id === id))
  if (!primary || !duplicate) throw notFound('company')
  return { primary, duplicate }
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
    const event = newId()
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
  const moved = logFrom('prospectEdited', {
    prospect: 'p',
    actor: '$2::uuid',
    payload: `jsonb_build_object('companyMergeId', $3::uuid, 'fields', jsonb_build_array('company'))`,
    from: 'unnest($1::uuid[]) p',
  })
  await client.query(
    sql`
      with moved as (${moved})
      ${textsFrom({
        event: 'id',
        prospect: 'prospect_id',
        texts: `jsonb_build_object('changes', jsonb_build_object('company', jsonb_build_array($4::text, $5::text)))`,
        from: 'moved',
      })}
    `,
    [prospectIds, viewer.id, mergeId, from, to],
  )
}

/**
 * Makes one company of two: everyone there, deals, notes and links move to the one that stays, which keeps what is
 * known of it and takes over the rest; the stricter of the two statuses holds for all. The name and domain of the other
 * are remembered, so that a file that uses them means the one that stays. `id` is the merge's own.
 */
export async function mergeCompanies(
  viewer: Viewer,
  id: Id,
  primaryId: Id,
  duplicateId: Id,
): Promise<{ summary: string }> {
  if (primaryId === duplicateId) {
    throw new Refusal('invalid', 'Choose another company', [
      { field: 'duplicateId', message: 'Choose another company' },
    ])
  }
  // Sent again under the same id, it is done already.
  const done = await firstRow(
    db().query<{ primary: string }>(
      sql`
        select c.name as primary
        from company_merges m
          join companies c on c.id = m.primary_id
        where m.id = $1
      `,
      [id],
    ),
  )
  if (done) return { summary: `Merged into ${done.primary}.` }
  for (const one of [primaryId, duplicateId]) await mustSeeCompany(viewer, one)
  const statusEvents = await alignStatus(viewer, [primaryId, duplicateId])
  return transaction(async (client) => {
    const { primary, duplicate } = await lockBoth(client, primaryId, duplicateId)
    const rows: Moved['rows'] = {}
    for (const table of ROWS) {
      const { rows: moved } = await client.query<{ key: string }>(
        sql`
          update ${table}
          set company_id = $1
          where company_id = $2
          returning ${KEY[table]} as key
        `,
        [primaryId, duplicateId],
      )
      rows[table] = moved.map((row) => row.key)
    }
    const fields = Object.fromEntries(
      FILLED.filter((column) => primary[column] === null && duplicate[column] !== null).map((column) => [
        column,
        duplicate[column],
      ]),
    )
    const custom = Object.fromEntries(Object.entries(duplicate.custom).filter(([key]) => !(key in primary.custom)))
    await client.query(sql`delete from companies where id = $1`, [duplicateId])
    const names = Object.keys(fields)
    await client.query(
      sql`
        update companies
        set ${[...names.map((name, index) => `${name} = $${index + 3}`), 'custom = $2::jsonb || custom', 'version = version + 1'].join(', ')}
        where id = $1
      `,
      [primaryId, JSON.stringify(custom), ...Object.values(fields)],
    )
    await client.query(
      sql`
        insert into company_aliases (kind, value, company_id)
        select kind, value, $1
        from (values ('domain', $2::text), ('name', $3::text)) a (kind, value)
        where value <> '' and value is distinct from case kind when 'domain' then $4 else $5 end
        on conflict do nothing
      `,
      [primaryId, duplicate.domain, duplicate.name_key, fields.domain ?? primary.domain, primary.name_key],
    )
    const moved: Moved = { rows, fields, custom, statusEvents }
    await client.query(
      sql`
        insert into company_merges (id, primary_id, duplicate_id, duplicate, moved, by_id, at)
        values ($1, $2, $3, $4, $5, $6, world_now())
      `,
      [id, primaryId, duplicateId, JSON.stringify(duplicate), JSON.stringify(moved), viewer.id],
    )
    await noteMove(client, viewer, rows.prospects!, duplicate.name, primary.name, id)
    const event = { prospectId: null, companyId: primaryId, actorId: viewer.id, payload: { mergeId: id, duplicateId } }
    await logTexts(client, await logEvent(client, { kind: 'companyMerged', ...event }), null, {
      changes: { merged_company: [duplicate.name, primary.name] },
    })
    const [people, deals] = [rows.prospects!.length, rows.deals!.length]
    return {
      summary: `Merged into ${primary.name}: ${people} ${people === 1 ? 'person' : 'people'} and ${deals} ${deals === 1 ? 'deal' : 'deals'} moved.`,
    }
  })
}

interface CompanyMergeRow {
  primary_id: Id
  duplicate_id: Id
  duplicate: Row
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
): Promise<{ primaryId: Id; duplicateId: Id; unchanged: string[] }> {
  const { duplicateId, primaryId, notes, statusEvents } = await transaction(async (client) => {
    const merge = await firstRow(
      client.query<CompanyMergeRow>(
        sql`
          select primary_id, duplicate_id, duplicate, moved, undone_at is not null as undone
          from company_merges
          where id = $1
          for update
        `,
        [mergeId],
      ),
    )
    if (!merge) throw notFound('merge')
    if (merge.undone) throw new Refusal('conflict', 'This merge has already been undone')
    const { primary_id: primaryId, duplicate_id: duplicateId, duplicate, moved } = merge
    const primary = await firstRow(
      client.query<Row>(sql`select * from companies where id = $1 for update`, [primaryId]),
    )
    if (!primary) {
      throw new Refusal('refused', 'The company it was merged into was merged into another one since; undo that first')
    }
    const notes: string[] = []
    const back = Object.entries(moved.fields).filter(([name, value]) => {
      if (primary[name] === value) return true
      notes.push(`The ${name} has been changed since and stays.`)
      return false
    })
    const custom = Object.keys(moved.custom).filter(
      (key) => JSON.stringify(primary.custom[key]) === JSON.stringify(moved.custom[key]),
    )
    await client.query(
      sql`
        update companies
        set ${[...back.map(([name]) => `${name} = null`), 'custom = custom - $2::text[]', 'version = version + 1'].join(', ')}
        where id = $1
      `,
      [primaryId, custom],
    )
    await client.query(
      sql`
        delete from company_aliases
        where company_id = $1 and (kind, value) in (($2, $3), ($4, $5))
      `,
      [primaryId, 'domain', duplicate.domain, 'name', duplicate.name_key],
    )
    const taken =
      duplicate.domain !== null &&
      (await client.query(sql`select from companies where domain = $1`, [duplicate.domain])).rowCount
    if (taken) notes.push(`The domain ${duplicate.domain} belongs to another company now.`)
    await client.query(sql`insert into companies select (jsonb_populate_record(null::companies, $1)).*`, [
      JSON.stringify({ ...duplicate, domain: taken ? null : duplicate.domain }),
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
        [primaryId, duplicateId, keys],
      )
      if (table === 'prospects') movedBack = rows.map((row) => row.key)
      if (rows.length < keys.length) {
        notes.push(
          `${keys.length - rows.length} of its ${table.replace('company_', '')} moved or went since and stay there.`,
        )
      }
    }
    await client.query(sql`update company_merges set undone_at = world_now() where id = $1`, [mergeId])
    await noteMove(client, viewer, movedBack, primary.name, duplicate.name, mergeId)
    const event = { prospectId: null, companyId: primaryId, actorId: viewer.id, payload: { mergeId, duplicateId } }
    await logEvent(client, { kind: 'companyMergeUndone', ...event })
    return { primaryId, duplicateId, notes, statusEvents: moved.statusEvents }
  })
  for (const event of statusEvents) {
    await takeBack(newId(), event, viewer.id).catch((error: unknown) => {
      if (!(error instanceof UndoRefused)) throw error
      notes.push('The company status stays as it is.')
    })
  }
  return { primaryId, duplicateId, unchanged: notes }
}

interface CompanyMergeEntry {
  id: Id
  primaryId: Id
  primary: string
  duplicate: string
  by: string | null
  at: Instant
}

/** The latest company merges that stand. */
export async function listCompanyMerges(): Promise<CompanyMergeEntry[]> {
  const { rows } = await db().query<CompanyMergeEntry>(
    sql`
      select
        m.id, c.id as "primaryId", c.name as primary, m.duplicate ->> 'name' as duplicate, u.name as by,
        ms(m.at) as at
      from company_merges m
        join companies c on c.id = m.primary_id
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
