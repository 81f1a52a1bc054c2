import { UnreadableFile, detectDelimiter, detectEncoding } from '#core/imports/dialect'
import { contentOf, resultColumns, type ResultContent } from '#core/dialing/resultRow'
import type { Id } from '#core/instant'
import { resultContent, type CallResult } from '#shared/api/blocks/otherDialers'
import { newId } from '#shared/newId'
import { db, transaction } from '../../db/pool'
import { firstRow, sql } from '../../db/sql'
import { readRows } from '../../imports/rows'
import { collectBytes } from '../access/collectBytes'
import { notFound, Refusal } from '../access/errors'
import type { Viewer } from '../access/viewer'
import { blockOfExport } from './exports'
import { logResult } from './logResults'

/** The largest file of results, in bytes, and how many it may have. */
const LARGEST_FILE = 5_000_000
const MOST_ROWS = 20_000
/** How many that cannot be read are shown. */
const SHOWN = 100

/** Takes results as they came; a job logs them, each like a call here. */
export async function addResults(
  viewer: Viewer,
  exportId: Id,
  results: readonly ResultContent[],
  fileName: string | null,
): Promise<{ rows: number }> {
  await blockOfExport(viewer, exportId, true)
  await transaction(async (client) => {
    await client.query(
      sql`
        insert into call_results (id, export_id, file_name, row_number, content, received_by, received_at)
        select u.id, $1, $2, u.place, u.content, $3, world_now()
        from unnest($4::uuid[], $5::jsonb[]) with ordinality as u(id, content, place)
      `,
      [exportId, fileName, viewer.id, results.map(() => newId()), results.map((content) => JSON.stringify(content))],
    )
    await logLater(exportId, client)
  })
  return { rows: results.length }
}

/** Has what waits of an export logged by a job; one at a time. */
async function logLater(exportId: Id, client: { query: (text: string, values: unknown[]) => Promise<unknown> } = db()) {
  await client.query(
    sql`
      select graphile_worker.add_job(
        'logCallResults', json_build_object('id', $1::uuid), queue_name => 'call results ' || $1::uuid
      )
    `,
    [exportId],
  )
}

const unreadable = (message: string) => new Refusal('invalid', message, [{ field: 'file', message }])

/** Reads a file of results: JSON, as the API takes it, or rows with a head. Throws what keeps it from being read. */
async function readFile(bytes: Buffer): Promise<ResultContent[]> {
  const { encoding, bom } = detectEncoding(bytes.subarray(0, 65_536))
  const text = bytes.toString(encoding === 'utf16le' ? 'utf16le' : 'utf8', bom).trimStart()
  if (/^[[{]/.test(text)) return readJson(text)
  const delimiter = detectDelimiter(text.slice(0, 65_536))
  const results: ResultContent[] = []
  let columns: ReturnType<typeof resultColumns> | null = null
  const all = (async function* () {
    yield bytes
  })()
  for await (const rows of readRows(all, { encoding, bom, delimiter, headed: true })) {
    for (const cells of rows) {
      if (columns) results.push(contentOf(cells, columns))
      else {
        columns = resultColumns(cells)
        if (columns.outcome === undefined || (columns.id === undefined && columns.number === undefined)) {
          throw new UnreadableFile('The first row must name the columns: id or number, and outcome')
        }
      }
      if (results.length > MOST_ROWS) throw new UnreadableFile('A file may have 20,000 results at most')
    }
  }
  return results
}

function readJson(text: string): ResultContent[] {
  let given: unknown
  try {
    given = JSON.parse(text)
  } catch {
    throw new UnreadableFile('This is not JSON')
  }
  const list = Array.isArray(given) ? given : (given as { results?: unknown }).results
  const read = resultContent.array().max(MOST_ROWS).safeParse(list)
  if (read.success) return read.data
  const { path, message } = read.error.issues[0]!
  throw new UnreadableFile(`This is no list of results: ${path.join('.') || 'results'}: ${message}`)
}

/** Takes a file of results, CSV or JSON. Throws too_large, and invalid at `file` where it cannot be read at all. */
export async function addResultFile(
  viewer: Viewer,
  exportId: Id,
  name: string,
  bytes: AsyncIterable<Uint8Array>,
): Promise<{ rows: number }> {
  await blockOfExport(viewer, exportId, true)
  const content = await collectBytes(bytes, LARGEST_FILE, () => {
    throw new Refusal('too_large', 'A file of results may be 5 MB at most')
  })
  let results: ResultContent[]
  try {
    results = await readFile(content)
  } catch (error) {
    if (error instanceof UnreadableFile) throw unreadable(error.message)
    throw error
  }
  if (!results.length) throw unreadable('There are no results in this file')
  return addResults(viewer, exportId, results, name)
}

const COLUMNS = sql`
  id, file_name as "fileName", row_number as "rowNumber", content, ms(received_at) as "receivedAt", status,
  error_field as field, error
`

/** Results that could not be logged, as they came, with what is wrong. */
export async function listUnreadable(viewer: Viewer, exportId: Id) {
  await blockOfExport(viewer, exportId, true)
  const { rows } = await db().query<CallResult & { total: number }>(
    sql`
      select ${COLUMNS}, count(*) over ()::int as total
      from call_results
      where export_id = $1 and status = 'unreadable'
      order by received_at, row_number
      limit ${SHOWN}
    `,
    [exportId],
  )
  return { results: rows.map(({ total: _, ...row }) => row), total: rows[0]?.total ?? 0 }
}

/** Throws where there is no such result for the viewer, or it is logged already. */
async function mustMend(viewer: Viewer, id: Id): Promise<Id> {
  const row = await firstRow(
    db().query<{ exportId: Id; status: string }>(
      sql`select export_id as "exportId", status from call_results where id = $1`,
      [id],
    ),
  )
  if (!row) throw notFound('result')
  await blockOfExport(viewer, row.exportId, true)
  if (row.status !== 'unreadable') throw new Refusal('conflict', 'This result has already been handled')
  return row.exportId
}

/** Corrects a result that could not be logged and tries it again; gives it as it is then. */
export async function editResult(viewer: Viewer, id: Id, content: ResultContent): Promise<CallResult> {
  await mustMend(viewer, id)
  await db().query(
    sql`
      update call_results
      set content = $2, status = 'waiting', error = null, error_field = null
      where id = $1
    `,
    [id, JSON.stringify(content)],
  )
  await logResult(id)
  return (await firstRow(db().query<CallResult>(sql`select ${COLUMNS} from call_results where id = $1`, [id])))!
}

/** Discards a result that could not be logged. */
export async function removeResult(viewer: Viewer, id: Id): Promise<void> {
  await mustMend(viewer, id)
  await db().query(sql`delete from call_results where id = $1 and status = 'unreadable'`, [id])
}

/** Says which outcome a dialer means by a word; results that could not be logged for it are tried again. */
export async function nameOutcome(
  viewer: Viewer,
  exportId: Id,
  { word, outcomeId }: { word: string; outcomeId: Id },
): Promise<void> {
  await blockOfExport(viewer, exportId, true)
  const outcome = await firstRow(
    db().query(sql`select from outcomes where id = $1 and archived_at is null`, [outcomeId]),
  )
  const message = 'This outcome has been archived. Choose another'
  if (!outcome) throw new Refusal('invalid', message, [{ field: 'outcomeId', message }])
  await transaction(async (client) => {
    await client.query(
      sql`
        insert into dialer_outcomes (dialer, word, outcome_id)
        select lower(x.dialer), lower($2), $3
        from call_exports x
        where x.id = $1
        on conflict (dialer, word) do update
        set outcome_id = excluded.outcome_id
      `,
      [exportId, word.trim(), outcomeId],
    )
    await client.query(
      sql`
        update call_results
        set status = 'waiting', error = null, error_field = null
        where export_id = $1 and status = 'unreadable' and lower(btrim(content ->> 'outcome')) = lower($2)
      `,
      [exportId, word.trim()],
    )
    await logLater(exportId, client)
  })
}
