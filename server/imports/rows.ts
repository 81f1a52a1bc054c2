import { parse, type CsvError, type Options } from 'csv-parse'
import iconv from 'iconv-lite'
import { Readable, type TransformOptions } from 'node:stream'
import { UnreadableFile, type Dialect } from '#core/imports/dialect'

/** The largest row that is read at all, in bytes. */
const LARGEST_ROW = 16_000_000

/** How many records are read before they are handed on. */
const BATCH = 1_000
/** How much is decoded at a time, in bytes. */
const PIECE = 1 << 16

/**
 * Reads a file of rows as it streams by: batches of records, in order, every record as its cells (RFC 4180; lone
 * carriage returns and line feeds end records too). Throws UnreadableFile with the row where a quote is never closed,
 * or the line where a row is beyond reading.
 */
export async function* readRows(bytes: AsyncIterable<Uint8Array>, dialect: Dialect): AsyncGenerator<string[][]> {
  const options: Options & TransformOptions = {
    delimiter: dialect.delimiter,
    relax_column_count: true,
    skip_empty_lines: true,
    max_record_size: LARGEST_ROW,
    record_delimiter: ['\r\n', '\n', '\r'],
    relax_quotes: true,
    readableHighWaterMark: BATCH,
  }
  const parser = parse(options)
  let wake = () => {}
  let failure: Error | null = null
  parser
    .on('readable', () => wake())
    .on('end', () => wake())
    .on('error', (error) => {
      failure = error
      wake()
    })
  const text = Readable.from(decoded(bytes, dialect), { objectMode: true })
  text.on('error', (error) => parser.destroy(error))
  text.pipe(parser)
  try {
    for (let more = true; more;) {
      const batch: string[][] = []
      for (let record: unknown; batch.length < BATCH && (record = parser.read()) !== null;) {
        batch.push(record as string[])
      }
      if (batch.length) yield batch
      else if (parser.readableEnded) more = false
      else {
        await new Promise<void>((resolve) => {
          wake = resolve
        })
      }
      if (failure) throw failure
    }
  } catch (error) {
    const { code, lines } = error as CsvError & { lines?: number }
    if (code === 'CSV_MAX_RECORD_SIZE') {
      throw new UnreadableFile(`A row near line ${lines ?? '?'} is larger than 16 MB. Is a quote left open there?`)
    }
    if (code === 'CSV_QUOTE_NOT_CLOSED') {
      throw new UnreadableFile(
        `A quote that opens a cell in row ${parser.info.records + 1} of the file is never closed`,
      )
    }
    if (code?.startsWith('CSV_')) {
      throw new UnreadableFile(`Line ${lines ?? '?'} cannot be read: ${(error as Error).message}`)
    }
    throw error
  } finally {
    text.destroy()
    parser.destroy()
  }
}

const NAMES: Record<Dialect['encoding'], string> = {
  utf8: 'utf8',
  utf16le: 'utf16-le',
  utf16be: 'utf16-be',
  windows1252: 'win1252',
}

async function* decoded(bytes: AsyncIterable<Uint8Array>, dialect: Dialect): AsyncGenerator<string> {
  const decoder = iconv.getDecoder(NAMES[dialect.encoding], { stripBOM: false })
  let skip = dialect.bom
  for await (const chunk of bytes) {
    const from = Math.min(skip, chunk.length)
    skip -= from
    for (let at = from; at < chunk.length; at += PIECE) {
      const text = decoder.write(Buffer.from(chunk.buffer, chunk.byteOffset + at, Math.min(PIECE, chunk.length - at)))
      if (text) yield text
    }
  }
  const rest = decoder.end()
  if (rest) yield rest
}
