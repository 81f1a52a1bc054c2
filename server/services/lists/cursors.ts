import type { Id } from '#core/instant'
import { Refusal } from '../access/errors'

/** Where a page of a table ended: the value it is put in order by, and the row. */
export interface Cursor {
  value: string | number | null
  id: Id
}

/** A place to go on from, as callers hold it. */
export function cursorText(cursor: Cursor): string {
  return Buffer.from(JSON.stringify(cursor)).toString('base64url')
}

/** Reads one again. Throws at `after` where it is none of ours. */
export function readCursor(text: string): Cursor {
  try {
    const { value, id } = JSON.parse(Buffer.from(text, 'base64url').toString()) as Cursor
    if (/^[0-9a-f-]{36}$/.test(id) && (value === null || ['string', 'number', 'boolean'].includes(typeof value))) {
      return { value, id }
    }
  } catch {
    // Refused below.
  }
  throw new Refusal('invalid', 'Unknown cursor', [{ field: 'after', message: 'Unknown cursor' }])
}
