import { manages } from '#core/roles'
import { stringify } from 'csv-stringify'
import type { DateOrder } from '#core/enumerations'
import { orderOf } from '#core/text/dates'
import { UnreadableFile } from '#core/imports/dialect'
import type { Id } from '#core/instant'
import type { Import } from '#shared/api/imports'
import { db, transaction, type Db } from '../../db/pool'
import { sketchFile, storeChunks } from '../../imports/upload'
import { cardsAsCsv, looksLikeCards } from '../../imports/vcard'
import { mustBeOnTeam } from '../access/access'
import { mustTakeNew } from '../team/overdue'
import { listFields } from '../fields/customFields'
import { CSV, harmless } from '#core/imports/columns'
import { newId } from '#shared/newId'
import { notFound, Refusal } from '../access/errors'
import type { Viewer } from '../access/viewer'
import { firstRow, sql } from '../../db/sql'

/** The largest file that is taken, in bytes: room for a million rows. */
const LARGEST = 400_000_000

const COLUMNS = sql`
  id, file_name as "fileName", status, coalesce(headings, '{}') as headings, coalesce(samples, '[]') as samples,
  coalesce(mapping, '{}') as mapping, known_action as "knownAction", own_contacts as "ownContacts",
  owner_id as "ownerId", owner_ids as "ownerIds", date_order as "dateOrder", whole, counts, progress, problem,
  ms(created_at) as "createdAt", version,
  case
    when dialect is not null then concat_ws(
      ', ',
      case dialect ->> 'encoding' when 'utf8' then 'UTF-8' when 'windows1252' then 'Windows-1252' else 'UTF-16' end,
      case dialect ->> 'delimiter'
        when ',' then 'commas'
        when ';' then 'semicolons'
        when '|' then 'bars'
        else 'tabs'
      end
    )
  end as dialect
`
/** Reps see the files they brought, managers all. */
const OWN = '($1::uuid is null or user_id = $1::uuid)'
const whose = (viewer: Viewer) => (!manages(viewer) ? viewer.id : null)

/** Imports, newest first. */
export async function listImports(viewer: Viewer): Promise<{ imports: Import[] }> {
  const { rows } = await db().query<Import>(
    sql`select ${COLUMNS} from imports where ${OWN} order by created_at desc limit 50`,
    [whose(viewer)],
  )
  return { imports: rows }
}

/** How one stands. */
export async function getImport(viewer: Viewer, id: Id, client: Db = db()): Promise<Import> {
  const row = await firstRow(
    client.query<Import>(sql`select ${COLUMNS} from imports where id = $2 and ${OWN}`, [whose(viewer), id]),
  )
  if (!row) throw notFound('import')
  return row
}

/**
 * Takes a file in and looks at its beginning. Throws at the file where it cannot be read as rows; then nothing is kept.
 */
export async function uploadImport(
  viewer: Viewer,
  fileName: string,
  bytes: AsyncIterable<Uint8Array>,
): Promise<Import> {
  const id = newId()
  await db().query(
    sql`
      insert into imports (id, user_id, owner_id, file_name, status, created_at)
      values ($1, $2, $3, $4, 'uploading', world_now())
    `,
    [id, viewer.id, !manages(viewer) ? viewer.id : null, fileName],
  )
  try {
    const size = await storeChunks(db(), id, await asRows(bytes), LARGEST)
    const { fields } = await listFields()
    const sketch = await sketchFile(
      db(),
      id,
      fields.filter((field) => field.of !== 'deal'),
    )
    const team = await firstRow(db().query<{ country: string }>(sql`select country from team`))
    const order = orderOf(sketch.samples.flat()) ?? (team!.country === 'US' ? 'month' : 'day')
    await db().query(sql`update imports set date_order = $2 where id = $1`, [id, order])
    await db().query(
      sql`
        update imports
        set status = 'uploaded', bytes = $2, dialect = $3, headings = $4, samples = $5, mapping = $6
        where id = $1
      `,
      [
        id,
        size,
        JSON.stringify(sketch.dialect),
        sketch.headings,
        JSON.stringify(sketch.samples),
        JSON.stringify(sketch.mapping),
      ],
    )
  } catch (error) {
    await db()
      .query(sql`delete from imports where id = $1`, [id])
      .catch(() => {})
    if (error instanceof UnreadableFile) {
      throw new Refusal('invalid', error.message, [{ field: 'file', message: error.message }])
    }
    throw error
  }
  return getImport(viewer, id)
}

/** The file as rows: cards become the CSV they would be, everything else is left as it is. */
async function asRows(bytes: AsyncIterable<Uint8Array>): Promise<AsyncIterable<Uint8Array>> {
  const parts = bytes[Symbol.asyncIterator]()
  const first = await parts.next()
  const all = (async function* () {
    for (let part = first; !part.done; part = await parts.next()) yield part.value
  })()
  if (first.done || !looksLikeCards(Buffer.from(first.value))) return all
  const csv = await cardsAsCsv(all)
  return (async function* () {
    yield csv
  })()
}

async function askWorker(client: Db, importId: Id): Promise<void> {
  await client.query(
    sql`
      select graphile_worker.add_job(
        'runImport', json_build_object('importId', $1::uuid), job_key => 'import ' || $1::text, max_attempts => 3
      )
    `,
    [importId],
  )
}

/** Says where the columns go, and has the file checked by the worker. Nothing is written to the prospects yet. */
export async function checkImport(
  viewer: Viewer,
  id: Id,
  given: {
    version: number
    mapping: Record<string, string>
    knownAction: Import['knownAction']
    ownerId?: Id | null
    ownerIds?: Id[]
    ownContacts?: boolean
    dateOrder?: DateOrder
    whole?: Import['whole']
  },
): Promise<Import> {
  return transaction(async (client) => {
    const before = await forChange(viewer, id, given.version, client, ['uploaded', 'checked', 'checking'])
    const columns = before.headings.length
    const beyond = Object.keys(given.mapping).find((column) => Number(column) >= columns)
    if (beyond) {
      throw new Refusal('invalid', `The file has no column ${Number(beyond) + 1}`, [
        { field: 'mapping', message: `The file has no column ${Number(beyond) + 1}` },
      ])
    }
    const ownerIds = !manages(viewer) ? [] : (given.ownerIds ?? [])
    for (const ownerId of [...ownerIds, ...(given.ownerId ? [given.ownerId] : [])]) {
      await mustBeOnTeam(ownerId, client)
      if (ownerId !== viewer.id) await mustTakeNew(ownerId, given.ownerIds?.length ? 'ownerIds' : 'ownerId', client)
    }
    await client.query(
      sql`
        update imports
        set date_order = coalesce($2, date_order), whole = coalesce($3, whole), owner_ids = $4
        where id = $1
      `,
      [id, given.dateOrder ?? null, given.whole ? JSON.stringify(given.whole) : null, ownerIds],
    )
    await client.query(
      sql`
        update imports
        set
          status = 'checking', mapping = $2, known_action = $3, own_contacts = $6,
          owner_id = case when $5 then $4::uuid else owner_id end, counts = '{}', progress = 0,
          version = version + 1
        where id = $1
      `,
      [
        id,
        JSON.stringify(given.mapping),
        given.knownAction,
        given.ownerId ?? null,
        given.ownerId !== undefined && manages(viewer),
        given.ownContacts ?? false,
      ],
    )
    await askWorker(client, id)
    return getImport(viewer, id, client)
  })
}

/** Has the checked rows imported by the worker. */
export async function runImport(
  viewer: Viewer,
  id: Id,
  given: { version: number; knownAction: Import['knownAction'] },
): Promise<Import> {
  return transaction(async (client) => {
    await forChange(viewer, id, given.version, client, ['checked'])
    await client.query(
      sql`
        update imports
        set status = 'writing', known_action = $2, version = version + 1
        where id = $1
      `,
      [id, given.knownAction],
    )
    await askWorker(client, id)
    return getImport(viewer, id, client)
  })
}

async function forChange(
  viewer: Viewer,
  id: Id,
  version: number,
  client: Db,
  states: readonly Import['status'][],
): Promise<Import> {
  await client.query(sql`select from imports where id = $1 for update`, [id])
  const row = await getImport(viewer, id, client)
  if (row.version !== version) {
    throw new Refusal('conflict', 'Changed by someone else; showing the latest version', [], row)
  }
  if (!states.includes(row.status)) throw new Refusal('conflict', 'This import is past that step', [], row)
  return row
}

interface InvalidRow {
  row_no: number
  cells: string[] | null
  error: string | null
  dropped: string | null
}

/**
 * The rows that cannot be taken, and those of which something was left out, as CSV, as they stood in the file, with the
 * line of the sheet and the reasons.
 */
export async function* invalidRows(viewer: Viewer, id: Id): AsyncGenerator<string> {
  const found = await getImport(viewer, id)
  const writer = stringify(CSV)
  writer.write([...found.headings, 'Line', 'Taken', 'Reason'].map(harmless))
  const sheet = await firstRow(
    db().query<{ headed: boolean }>(
      sql`
        select coalesce((dialect ->> 'headed')::boolean, true) as headed
        from imports
        where id = $1
      `,
      [id],
    ),
  )
  const firstLine = sheet!.headed ? 1 : 0
  for (let last = 0; ;) {
    const { rows } = await db().query<InvalidRow>(
      sql`
        select row_no, cells, error, dropped
        from import_rows
        where import_id = $1 and (error is not null or dropped is not null) and row_no > $2
        order by row_no
        limit 2000
      `,
      [id, last],
    )
    for (const row of rows) {
      writer.write([
        ...found.headings.map((_, index) => harmless(row.cells?.[index] ?? '')),
        String(row.row_no + firstLine),
        row.error ? 'no' : 'yes',
        row.error ?? row.dropped,
      ])
    }
    if (rows.length < 2000) break
    last = rows.at(-1)!.row_no
    yield (writer.read() as Buffer | null)?.toString('utf8') ?? ''
  }
  writer.end()
  for await (const part of writer) yield (part as Buffer).toString('utf8')
}
