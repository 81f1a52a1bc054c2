/** How a file of rows is written. */
export interface Dialect {
  encoding: 'utf8' | 'utf16le' | 'utf16be' | 'windows1252'
  /** Bytes of the byte order mark at the start, to be left out. */
  bom: number
  delimiter: ',' | ';' | '\t' | '|'
  /** Whether the first row names the columns. */
  headed: boolean
}

/** Why a file cannot be read as rows, for the person who gave it. */
export class UnreadableFile extends Error {}

/**
 * Finds out the encoding from the first bytes of a file (all of it when it is short). Byte order marks decide; without
 * one, zero bytes at every other place mean UTF-16, text that is not valid UTF-8 is taken as Windows-1252. Throws
 * UnreadableFile for an empty file and for one that is no text.
 */
export function detectEncoding(head: Uint8Array): Pick<Dialect, 'encoding' | 'bom'> {
  if (head.length === 0) throw new UnreadableFile('The file is empty')
  if (head[0] === 0xef && head[1] === 0xbb && head[2] === 0xbf) return { encoding: 'utf8', bom: 3 }
  if (head[0] === 0xff && head[1] === 0xfe) return { encoding: 'utf16le', bom: 2 }
  if (head[0] === 0xfe && head[1] === 0xff) return { encoding: 'utf16be', bom: 2 }
  let even = 0
  let odd = 0
  let control = 0
  head.forEach((byte, index) => {
    if (byte === 0 && index % 2) odd++
    else if (byte === 0) even++
    else if (byte < 9 || (byte > 13 && byte < 32)) control++
  })
  const half = head.length / 2
  if (odd > half * 0.4 && even < half * 0.05) return { encoding: 'utf16le', bom: 0 }
  if (even > half * 0.4 && odd < half * 0.05) return { encoding: 'utf16be', bom: 0 }
  if (even + odd > 0 || control > head.length * 0.02) {
    throw new UnreadableFile('This is not a text file. Save the sheet as CSV and bring that')
  }
  return { encoding: isUtf8(head) ? 'utf8' : 'windows1252', bom: 0 }
}

/** How many bytes the character has that begins with a byte in UTF-8 (RFC 3629); 0 where none does. */
function lengthFrom(byte: number): number {
  if (byte < 0x80) return 1
  if (byte >= 0xc2 && byte < 0xe0) return 2
  if (byte >= 0xe0 && byte < 0xf0) return 3
  return byte >= 0xf0 && byte < 0xf5 ? 4 : 0
}

/** Whether the bytes are well-formed UTF-8 (RFC 3629); a character cut off at the end is let pass. */
function isUtf8(bytes: Uint8Array): boolean {
  for (let at = 0; at < bytes.length;) {
    const byte = bytes[at]!
    const length = lengthFrom(byte)
    if (length === 0) return false
    for (let next = at + 1; next < at + length && next < bytes.length; next++) {
      if ((bytes[next]! & 0xc0) !== 0x80) return false
    }
    at += length
  }
  return true
}

/**
 * The delimiter that splits the first lines most evenly, quoted text left aside. A comma when nothing speaks for
 * another.
 */
export function detectDelimiter(text: string): Dialect['delimiter'] {
  const lines = text
    .replace(/"(?:[^"]|"")*"/g, '')
    .split(/\r\n|\n|\r/)
    .filter(Boolean)
    .slice(0, 10)
  const score = (delimiter: string) => {
    const counts = lines.map((line) => line.split(delimiter).length - 1)
    const least = Math.min(...counts)
    return least > 0 ? least + counts.filter((count) => count === counts[0]).length / 100 : (counts[0] ?? 0) / 100
  }
  return ([',', ';', '\t', '|'] as const)
    .map((delimiter) => ({ delimiter, score: score(delimiter) }))
    .sort((a, b) => b.score - a.score)[0]!.delimiter
}

/** Whether the first row looks like names of columns: no address and no number among its cells. */
export function looksHeaded(first: readonly string[]): boolean {
  return !first.some(
    (cell) => /^[^\s@]+@[^\s@]+\.[^\s@]+$/.test(cell.trim()) || /^\+?[\d\s().-]{7,}$/.test(cell.trim()),
  )
}
