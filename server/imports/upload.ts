import { guessColumns } from '#core/imports/columns'
import { detectDelimiter, detectEncoding, looksHeaded, UnreadableFile, type Dialect } from '#core/imports/dialect'
import type { Id } from '#core/instant'
import iconv from 'iconv-lite'
import { db, type Db } from '../db/pool'
import { readRows } from './rows'
import { firstRow, sql } from '../db/sql'

const CHUNK = 1 << 20
/** The most columns a file may have; PostgreSQL and the screen would take more, no prospect file does. */
const MOST_COLUMNS = 500
const SAMPLES = 5

/**
 * Stores a file as it comes in, in pieces of one mebibyte, so that neither its size nor this process matters. Gives its
 * length in bytes.
 */
export async function storeChunks(
  client: Db,
  importId: Id,
  bytes: AsyncIterable<Uint8Array>,
  most: number,
): Promise<number> {
  let buffered: Uint8Array[] = []
  let size = 0
  let seq = 0
  let total = 0
  const flush = async () => {
    if (!size) return
    await client.query({
      name: 'store-chunk',
      text: sql`insert into import_chunks (import_id, seq, bytes) values ($1, $2, $3)`,
      values: [importId, seq++, Buffer.concat(buffered)],
    })
    buffered = []
    size = 0
  }
  for await (const piece of bytes) {
    total += piece.length
    if (total > most) throw new UnreadableFile(`The file is larger than ${Math.round(most / 1_000_000)} MB`)
    for (let at = 0; at < piece.length;) {
      const part = piece.subarray(at, at + CHUNK - size)
      buffered.push(part)
      size += part.length
      at += part.length
      if (size === CHUNK) await flush()
    }
  }
  await flush()
  return total
}

/** After how many days a file that was never run is deleted. */
const KEPT_DAYS = 7

/** Deletes files that were uploaded and never run; the import says so. Gives how many. */
export async function deleteOldUploads(): Promise<number> {
  const { rowCount } = await db().query(
    sql`
      with old as (
        update imports
        set
          status = 'failed',
          problem = 'The file was deleted because it was not imported within a week. Upload it again',
          version = version + 1
        where status in ('uploading', 'uploaded', 'checked', 'failed')
          and created_at < world_now() - make_interval(days => $1)
          and exists (select from import_chunks c where c.import_id = imports.id)
        returning id
      ),
      rows as (
        delete from import_rows
        where import_id in (select id from old)
      )
      delete from import_chunks
      where import_id in (select id from old)
    `,
    [KEPT_DAYS],
  )
  return rowCount ?? 0
}

/** The stored file, piece by piece. */
export async function* storedChunks(client: Db, importId: Id): AsyncGenerator<Uint8Array> {
  for (let seq = 0; ; seq++) {
    const row = await firstRow(
      client.query<{ bytes: Buffer }>(sql`select bytes from import_chunks where import_id = $1 and seq = $2`, [
        importId,
        seq,
      ]),
    )
    if (!row) return
    yield row.bytes
  }
}

/** What can be said about a file from its beginning. */
export interface FileSketch {
  dialect: Dialect
  headings: string[]
  samples: string[][]
  mapping: Record<number, string>
}

/** Looks at the stored file's beginning: how it is written, its columns, some rows, and where the columns likely go. */
export async function sketchFile(
  client: Db,
  importId: Id,
  customFields: readonly { id: Id; name: string }[],
): Promise<FileSketch> {
  const first = await firstRow(
    client.query<{ bytes: Buffer }>(sql`select bytes from import_chunks where import_id = $1 and seq = 0`, [importId]),
  )
  const head = first?.bytes ?? Buffer.alloc(0)
  const looked = detectEncoding(head.subarray(0, 65_536))
  // A letter of Windows-1252 may come late in a long file: the whole of it has to be UTF-8.
  const encoding =
    looked.encoding === 'utf8' && !looked.bom && !(await isUtf8(storedChunks(client, importId)))
      ? 'windows1252'
      : looked.encoding
  const text = iconv.decode(
    head.subarray(looked.bom, 65_536),
    { utf8: 'utf8', utf16le: 'utf16-le', utf16be: 'utf16-be', windows1252: 'win1252' }[encoding],
  )
  // Spreadsheets say the delimiter in a line of its own before the headings: "sep=;".
  const said = /^"?sep=([,;\t|])"?(?:\r\n|\n|\r)/i.exec(text)
  const bom = looked.bom + (said ? said[0].length * (encoding.startsWith('utf16') ? 2 : 1) : 0)
  const beginning = said ? text.slice(said[0].length) : text
  const dialect: Dialect = {
    encoding,
    bom,
    delimiter: said ? (said[1] as Dialect['delimiter']) : detectDelimiter(beginning),
    headed: true,
  }
  const rows: string[][] = []
  for await (const batch of readRows(storedChunks(client, importId), dialect)) {
    rows.push(...batch.slice(0, SAMPLES + 1))
    if (rows.length > SAMPLES) break
  }
  const top = rows[0]
  if (!top) throw new UnreadableFile('The file is empty')
  if (top.length > MOST_COLUMNS) {
    throw new UnreadableFile(`The file has ${top.length} columns; ${MOST_COLUMNS} can be read`)
  }
  dialect.headed = looksHeaded(top)
  if (dialect.headed && rows.length === 1) throw new UnreadableFile('The file has headings but no rows below them')
  const headings = dialect.headed ? distinct(top) : top.map((_, index) => `Column ${index + 1}`)
  const samples = (dialect.headed ? rows.slice(1) : rows)
    .slice(0, SAMPLES)
    .map((row) => row.map((cell) => cell.slice(0, 200).replaceAll('\0', '')))
  return { dialect, headings, samples, mapping: guessColumns(headings, samples, customFields) }
}

/** Whether a whole file is well-formed UTF-8 (RFC 3629). */
async function isUtf8(bytes: AsyncIterable<Uint8Array>): Promise<boolean> {
  const decoder = new TextDecoder('utf-8', { fatal: true })
  try {
    for await (const chunk of bytes) decoder.decode(chunk, { stream: true })
    decoder.decode()
    return true
  } catch {
    return false
  }
}

/** Headings without duplicates: empty ones are numbered, a second "Email" becomes "Email (2)". */
function distinct(headings: readonly string[]): string[] {
  const seen = new Map<string, number>()
  return headings.map((heading, index) => {
    const name = heading.replaceAll('\0', '').trim().slice(0, 200) || `Column ${index + 1}`
    const count = (seen.get(name) ?? 0) + 1
    seen.set(name, count)
    return count > 1 ? `${name} (${count})` : name
  })
}
