/* eslint-disable-next-line @typescript-eslint/triple-slash-reference --
   the package brings no types, and every project that reaches this file needs them */
/// <reference path="./email-providers.d.ts" />
import { randomBytes } from 'node:crypto'
import { once } from 'node:events'
import { from as copyFrom } from 'pg-copy-streams'
import providers from 'email-providers'
import { v7 as uuidv7 } from 'uuid'
import type { DateOrder } from '#core/enumerations'
import { placePerson } from '#core/places/place'
import type { ColumnMapping } from '#core/imports/columns'
import type { Dialect } from '#core/imports/dialect'
import { BETWEEN, readProspectRow, type CustomField, type ProspectRow } from '#core/imports/prospectRow'
import type { Id } from '#core/instant'
import { connectForCopy, db, type Db } from '../db/pool'
import { visible } from '../services/access/access'
import { readRows } from './rows'
import { storedChunks } from './upload'
import { firstRow, sql } from '../db/sql'

/** What is said of a row that only someone else may import. */
const WITHHELD = 'you may not import this person; a manager can'

const PUBLIC = new Set<string>(providers)

/** Whether mail addresses at the domain are handed out to anyone, so that it is nobody's company. */
export function isPublicMailDomain(domain: string): boolean {
  return PUBLIC.has(domain)
}

const FIELDS = [
  'firstName',
  'lastName',
  'nameKey',
  'title',
  'company',
  'companyKey',
  'domain',
  'email',
  'phone',
  'mobile',
  'country',
  'region',
  'city',
  'timeZone',
  'source',
  'note',
  'postalCode',
] as const satisfies readonly (keyof ProspectRow)[]
const COLUMNS =
  'first_name, last_name, name_key, title, company, company_key, domain, email, phone, mobile, country, region, city, time_zone, source, note, postal_code'

/** Text as COPY's text format wants it. */
function escaped(text: string): string {
  return /[\\\t\n\r]/.test(text)
    ? text.replace(/\\/g, '\\\\').replace(/\t/g, '\\t').replace(/\n/g, '\\n').replace(/\r/g, '\\r')
    : text
}

/**
 * Finds rows that are the same person as an earlier row of the file: same email, or same name with the same number or
 * at the same company domain. A number alone may be a switchboard's.
 */
class Sightings {
  // Addresses, numbers and names cannot be taken for one another: they have an @ inside, a plus in front, or the @ in
  // front.
  private readonly first = new Map<string, number>()

  seen(row: ProspectRow, rowNo: number): number | null {
    const named = (number: string) => number && row.nameKey && `${number} ${row.nameKey}`
    const keys = [
      row.email,
      named(row.phone),
      named(row.mobile),
      row.domain && `@${row.domain} ${row.nameKey}`,
      !row.nameKey && row.companyKey && `@ ${row.companyKey}`,
    ]
    let found: number | null = null
    for (const key of keys) if (key) found ??= this.first.get(key) ?? null
    for (const key of keys) if (key && !this.first.has(key)) this.first.set(key, found ?? rowNo)
    return found
  }
}

/** What the check needs to know about an import. */
export interface CheckTask {
  id: Id
  dialect: Dialect
  mapping: ColumnMapping
  homeCountry: string
  homeTimeZone: string
  customFields: ReadonlyMap<Id, CustomField>
  dateOrder: DateOrder
  whole: WholeFile
}

/** What holds for every row of a file that does not say otherwise. */
export interface WholeFile {
  source?: string
  tags?: readonly string[]
  list?: string
  /** Names are taken as they are written. */ keepNames?: boolean
}

/**
 * Reads the whole file, judges every row and puts the result beside the others, without touching anything else. Rows
 * are numbered as in the file, from 1 below the headings. Gives the number of rows.
 */
export async function stageRows(task: CheckTask, progress: (rows: number) => Promise<void>): Promise<number> {
  const client = await connectForCopy()
  try {
    await client.query(sql`delete from import_rows where import_id = $1`, [task.id])
    const copy = client.query(
      copyFrom(
        sql`
          copy import_rows (
            import_id, row_no, new_id, cells, error, dropped, merged_into, time_zone_from, extra, ${COLUMNS}
          ) from stdin
        `,
      ),
    )
    const failed = new Promise<never>((_, reject) => copy.once('error', reject))
    failed.catch(() => {})
    const sightings = new Sightings()
    const newIds = idsInOrder()
    let rowNo = 0
    let batch: string[] = []
    const flush = async () => {
      if (!copy.write(batch.join(''))) await Promise.race([once(copy, 'drain'), failed])
      batch = []
      await progress(rowNo)
    }
    let first = task.dialect.headed
    for await (const rows of readRows(storedChunks(db(), task.id), task.dialect)) {
      for (const cells of rows) {
        if (first) {
          first = false
          continue
        }
        rowNo++
        batch.push(line(task, rowNo, newIds(rowNo), cells, sightings))
      }
      if (batch.length >= 2_000) await flush()
    }
    await flush()
    copy.end()
    await Promise.race([once(copy, 'finish'), failed])
    await client.query('set default_statistics_target = 10; analyze import_rows')
    return rowNo
  } finally {
    await client.end()
  }
}

/**
 * Ids for the people of a file (UUID version 7, RFC 9562): of one moment, counted on from row to row, distinguished
 * from every other file's by chance.
 */
function idsInOrder(): (rowNo: number) => Id {
  const msecs = Date.now()
  const random = randomBytes(16)
  return (rowNo) => uuidv7({ msecs, seq: rowNo, random })
}

/** A row with what holds for the whole file: its source where it has none, its tags and list besides its own. */
function withWhole(row: ProspectRow, whole: WholeFile): ProspectRow {
  if (!whole.source && !whole.tags?.length && !whole.list) return row
  const tags = [...new Set([...(row.extra?.tags ?? []), ...(whole.tags ?? [])])]
  const extra = {
    ...row.extra,
    ...(tags.length && { tags }),
    ...((row.extra?.list ?? whole.list) && { list: row.extra?.list ?? whole.list }),
  }
  return { ...row, source: row.source || whole.source || '', extra: Object.keys(extra).length ? extra : null }
}

function line(task: CheckTask, rowNo: number, id: Id, cells: readonly string[], sightings: Sightings): string {
  const read = readProspectRow(cells, task.mapping, {
    homeCountry: task.homeCountry,
    isPublic: isPublicMailDomain,
    customFields: task.customFields,
    dateOrder: task.dateOrder,
    keepNames: task.whole.keepNames,
  })
  if ('error' in read) {
    const cellsText = JSON.stringify(cells.map((cell) => cell.slice(0, 32_000).replace(/\0|\p{Cs}/gu, '')))
    return `${task.id}\t${rowNo}\t${id}\t${escaped(cellsText)}\t${escaped(read.error)}\t\\N\t\\N\t\\N\t\\N${'\t\\N'.repeat(FIELDS.length)}\n`
  }
  const { timeZone, timeZoneFrom, country } = placePerson(
    { ...read.row, numbers: [read.row.phone, read.row.mobile].filter(Boolean) },
    { country: task.homeCountry, timeZone: task.homeTimeZone },
  )
  const row = withWhole({ ...read.row, timeZone, country: country ?? '' }, task.whole)
  const dropped = read.dropped.length ? escaped(read.dropped.join(BETWEEN)) : '\\N'
  const asWritten = read.dropped.length
    ? escaped(JSON.stringify(cells.map((cell) => cell.slice(0, 300).replace(/\0|\p{Cs}/gu, ''))))
    : '\\N'
  return `${task.id}\t${rowNo}\t${id}\t${asWritten}\t\\N\t${dropped}\t${sightings.seen(row, rowNo) ?? '\\N'}\t${timeZoneFrom}\t${row.extra ? escaped(JSON.stringify(row.extra)) : '\\N'}\t${FIELDS.map((field) => escaped(row[field])).join('\t')}\n`
}

/**
 * Who of the file's people is known already, as rows (row_no, prospect_id): the same email, else the same name with the
 * same number (alone it may be a switchboard's), else the same name at the same company domain. Only those whom $2, who
 * brings the file, may see; everyone where it is null. $1 is the import.
 */
export const KNOWN_SQL = sql`
  select distinct on (row_no) row_no, prospect_id
  from (
    select r.row_no, e.prospect_id, 1 as how
    from import_rows r
      join email_addresses e on e.address = r.email
    where r.import_id = $1 and r.error is null and r.email <> ''
    union all
    select r.row_no, n.prospect_id, 2
    from import_rows r
      join phones n on n.number = r.phone
      join prospects p on p.id = n.prospect_id and p.name_key = r.name_key
    where r.import_id = $1 and r.error is null and r.phone <> ''
    union all
    select r.row_no, n.prospect_id, 2
    from import_rows r
      join phones n on n.number = r.mobile
      join prospects p on p.id = n.prospect_id and p.name_key = r.name_key
    where r.import_id = $1 and r.error is null and r.mobile <> ''
    union all
    select r.row_no, p.id, 3
    from import_rows r
      join companies c on c.domain = r.domain
      join prospects p on p.company_id = c.id and p.name_key = r.name_key
    where r.import_id = $1 and r.error is null and r.domain <> ''
  ) found
  where $2::uuid is null
    or exists (select from prospects p where p.id = found.prospect_id and ${visible('p', '$2')})
  order by row_no, how, prospect_id
`

/**
 * Marks the rows whose email address belongs to someone whom the one who brings the file ($2) may not see: these are
 * neither changed nor added. Nothing else is said of them.
 */
export async function withholdRows(client: Db, importId: Id, limitedTo: Id | null): Promise<number> {
  if (!limitedTo) return 0
  const { rowCount } = await client.query(
    sql`
      update import_rows r
      set error = '${WITHHELD}',
       cells = coalesce(r.cells, jsonb_build_array(r.first_name, r.last_name, r.email))
     from email_addresses e
     join prospects p on p.id = e.prospect_id
     where r.import_id = $1
       and r.error is null
       and r.email <> ''
       and e.address = r.email
       and not ${visible('p', '$2')}
    `,
    [importId, limitedTo],
  )
  return rowCount ?? 0
}

/**
 * Which of the file's companies are known already, as rows (row_no, company_id): the same domain, else the same name.
 * $1 is the import.
 */
export const KNOWN_COMPANIES_SQL = sql`
  select distinct on (r.row_no) r.row_no, c.id as company_id
  from import_rows r
    join companies c on (r.domain <> '' and c.domain = r.domain)
      or (r.company_key <> '' and c.name_key = r.company_key and (r.domain = '' or c.domain is null))
  where r.import_id = $1 and r.error is null and ($2::uuid is null or true)
  order by r.row_no, (c.domain = r.domain) desc nulls last, c.created_at, c.id
`

/** Tags, sources or lists that a file names and the team does not have yet: how many, and the first few. */
export interface News {
  kind: 'tag' | 'source' | 'list'
  count: number
  names: string[]
}

/** Names shown of each kind. */
const NEWS_SHOWN = 6

/** What the import of a file of people would add besides people: a misspelled tag is seen before it is there. */
async function findNews(importId: Id): Promise<News[]> {
  const { rows } = await db().query<News>(
    sql`
      with named as (
        select 'tag' as kind, t.name
        from import_rows r
          cross join lateral jsonb_array_elements_text(r.extra -> 'tags') as t(name)
        where r.import_id = $1 and r.error is null and r.extra ? 'tags'
        union all
        select 'list', r.extra ->> 'list'
        from import_rows r
        where r.import_id = $1 and r.error is null and r.extra ? 'list'
        union all
        select 'source', r.source
        from import_rows r
        where r.import_id = $1 and r.error is null and r.source <> ''
      ),
      once as (
        select distinct on (kind, lower(name)) kind, name
        from named
        order by kind, lower(name), name
      ),
      viewer as (
        select u.id, u.role
        from imports i
          join users u on u.id = i.user_id
        where i.id = $1
      )
      select kind, count(*)::int as count, (array_agg(name order by lower(name)))[1:${NEWS_SHOWN}] as names
      from once
        cross join viewer
      where case kind
          when 'tag' then not exists (select from tags g where lower(g.name) = lower(once.name))
          when 'list' then not exists (
            select
            from lists l
            where lower(l.name) = lower(once.name)
              and l.kind = 'fixed'
              and (l.owner_id = viewer.id or (viewer.role in ('manager', 'admin') and l.visibility = 'everyone'))
          )
          else not exists (
            select
            from sources s
            where lower(s.name) = lower(once.name)
              or lower(once.name) = any(select lower(a) from unnest(s.aliases) a)
          )
        end
      group by kind
      order by kind desc
    `,
    [importId],
  )
  return rows
}

interface RowCounts {
  rows: number
  fresh: number
  known: number
  merged: number
  invalid: number
  dropped: number
  renamed: number
  renames: { was: string; is: string }[]
  news: News[]
  reasons: { reason: string; count: number }[]
  droppedReasons: { reason: string; count: number }[]
}

/** How many rows are new, known, merged into another row of the file, or invalid (with the commonest reasons). */
export async function countRows(
  importId: Id,
  kind: 'people' | 'companies',
  limitedTo: Id | null = null,
): Promise<RowCounts> {
  const counts = await firstRow(
    db().query(
      sql`
        with known as (${kind === 'people' ? KNOWN_SQL : KNOWN_COMPANIES_SQL})
        select
          count(*) as rows, count(*) filter (where r.error is not null) as invalid,
          count(*) filter (where r.error is null and r.dropped is not null) as dropped,
          count(*) filter (where r.error is null and r.extra ? 'nameWas') as renamed,
          count(*) filter (where r.error is null and r.merged_into is not null) as merged,
          count(*) filter (where r.error is null and r.merged_into is null and k.row_no is not null) as known,
          count(*) filter (where r.error is null and r.merged_into is null and k.row_no is null) as fresh
        from import_rows r
          left join known k on k.row_no = r.row_no
        where r.import_id = $1
      `,
      [importId, limitedTo],
    ),
  )
  const reasons = await db().query<{ reason: string; count: number }>(
    sql`
      select regexp_replace(split_part(error, '${BETWEEN}', 1), ' ?".*"', '') as reason, count(*) as count
      from import_rows
      where import_id = $1 and error is not null
      group by 1
      order by 2 desc, 1
      limit 10
    `,
    [importId],
  )
  const dropped = await db().query<{ reason: string; count: number }>(
    sql`
      select regexp_replace(part, ',? ?(not )?".*"', '') as reason, count(*) as count
      from import_rows r
        cross join lateral regexp_split_to_table(r.dropped, '${BETWEEN}') part
      where r.import_id = $1 and r.error is null and r.dropped is not null
      group by 1
      order by 2 desc, 1
      limit 10
    `,
    [importId],
  )
  const renames = await db().query<{ was: string; is: string }>(
    sql`
      select
        distinct on (extra ->> 'nameWas') extra ->> 'nameWas' as was, btrim(first_name || ' ' || last_name) as is
      from import_rows
      where import_id = $1 and error is null and extra ? 'nameWas'
      order by extra ->> 'nameWas'
      limit 6
    `,
    [importId],
  )
  const news = kind === 'people' ? await findNews(importId) : []
  return {
    news,
    ...(counts as {
      rows: number
      fresh: number
      known: number
      merged: number
      invalid: number
      dropped: number
      renamed: number
    }),
    renames: renames.rows,
    reasons: reasons.rows,
    droppedReasons: dropped.rows,
  }
}
