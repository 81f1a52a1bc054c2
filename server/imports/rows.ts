import { parse, type CsvError } from 'csv-parse'
import iconv from 'iconv-lite'
import { Readable } from 'node:stream'
import { UnreadableFile, type Dialect } from '#core/text/dialect'

/** The largest row that is read at all, in bytes. */
const LARGEST_ROW = 16_000_000

/**
 * Reads a file of rows as it streams by: every record as its cells, in order (RFC 4180; lone carriage returns and line
 * feeds end records too). Throws UnreadableFile with the line where a quote is never closed or a row is beyond reading.
 */
export async function* readRows(bytes: AsyncIterable<Uint8Array>, dialect: Dialect): AsyncGenerator<string[]> {
  const parser = parse({
    delimiter: dialect.delimiter, relax_column_count: true, skip_empty_lines: true, max_record_size: LARGEST_ROW,
    record_delimiter: ['\r\n', '\n', '\r'], relax_quotes: true,
  })
  const text = Readable.from(decoded(bytes, dialect), { objectMode: true })
  text.on('error', error => parser.destroy(error))
  text.pipe(parser)
  try {
    for await (const record of parser) yield record as string[]
  }
  catch (error) {
    const { code, lines } = error as CsvError & { lines?: number }
    if (code === 'CSV_MAX_RECORD_SIZE') throw new UnreadableFile(`A row near line ${lines ?? '?'} is larger than 16 MB. Is a quote left open there?`)
    if (code === 'CSV_QUOTE_NOT_CLOSED') throw new UnreadableFile('A quote that opens a cell is never closed')
    if (code?.startsWith('CSV_')) throw new UnreadableFile(`Line ${lines ?? '?'} cannot be read: ${(error as Error).message}`)
    throw error
  }
}

const NAMES: Record<Dialect['encoding'], string> = { utf8: 'utf8', utf16le: 'utf16-le', utf16be: 'utf16-be', windows1252: 'win1252' }

async function* decoded(bytes: AsyncIterable<Uint8Array>, dialect: Dialect): AsyncGenerator<string> {
  const decoder = iconv.getDecoder(NAMES[dialect.encoding], { stripBOM: false })
  let skip = dialect.bom
  for await (const chunk of bytes) {
    const from = Math.min(skip, chunk.length)
    skip -= from
    const text = decoder.write(Buffer.from(chunk.buffer, chunk.byteOffset + from, chunk.length - from))
    if (text) yield text
  }
  const rest = decoder.end()
  if (rest) yield rest
}
