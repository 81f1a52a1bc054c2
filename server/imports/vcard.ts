import { stringify } from 'csv-stringify/sync'
import ICAL from 'ical.js'
import { IMPORT_FIELDS, type ImportField } from '#core/imports/columns'
import { UnreadableFile } from '#core/imports/dialect'
import { splitName } from '#core/text/names'
import { runInThread } from '../thread'

/** Reads cards into their parts (RFC 7095); in a thread, for it takes its time. */
const SCRIPT = `
const { parse } = await load('ical.js')
return parse(data)`

/** The largest file of cards that is taken, in bytes; it is read whole. */
const LARGEST = 20_000_000

const COLUMNS = [
  'fullName',
  'firstName',
  'lastName',
  'title',
  'company',
  'domain',
  'email',
  'phone',
  'mobile',
  'country',
  'region',
  'city',
  'postalCode',
  'timeZone',
  'tags',
  'note',
] as const satisfies readonly ImportField[]

/** Whether a file begins as cards do (RFC 6350). */
export function looksLikeCards(head: Buffer): boolean {
  return /^\uFEFF?\s*BEGIN:VCARD\r?\n/i.test(head.subarray(0, 200).toString('utf8'))
}

/**
 * Cards as the CSV that they would be, so that they go the way of every other file. Of several addresses and numbers
 * the preferred ones are taken. Throws UnreadableFile where they cannot be read.
 */
export async function cardsAsCsv(bytes: AsyncIterable<Uint8Array>): Promise<Buffer> {
  const parts: Uint8Array[] = []
  let size = 0
  for await (const part of bytes) {
    size += part.length
    if (size > LARGEST) throw new UnreadableFile(`A file of cards may be ${LARGEST / 1_000_000} MB at most`)
    parts.push(part)
  }
  let cards: ICAL.Component[]
  try {
    const read = await runInThread<unknown[]>(
      SCRIPT,
      Buffer.concat(parts)
        .toString('utf8')
        .replace(/^\uFEFF/, ''),
      ['ical.js'],
      { seconds: 30, megabytes: 768 },
    )
    cards = (typeof read[0] === 'string' ? [read] : (read as unknown[][])).map(
      (card) => new ICAL.Component(card as never),
    )
  } catch {
    throw new UnreadableFile('These cards cannot be read; they are broken, or no vCard 3 or 4')
  }
  return Buffer.from(
    stringify([
      COLUMNS.map((column) => IMPORT_FIELDS[column]),
      ...cards.map((card) => {
        const row = rowOf(card)
        return COLUMNS.map((column) => row[column] ?? '')
      }),
    ]),
  )
}

const flat = (value: unknown): string => {
  if (Array.isArray(value)) return value.map(flat).filter(Boolean).join(' ')
  return value === null || value === undefined ? '' : String(value)
}

function rowOf(card: ICAL.Component): Partial<Record<ImportField, string>> {
  const preference = (property: ICAL.Property) => Number(property.getFirstParameter('pref') || 101)
  const all = (name: string) =>
    [...card.getAllProperties(name)].sort((one, other) => preference(one) - preference(other))
  const first = (name: string) => flat(all(name)[0]?.getFirstValue())
  const types = (property: ICAL.Property) =>
    [property.getParameter('type') ?? []].flat().map((type) => type.toLowerCase())
  // The parts of the name are optional (RFC 6350, 6.2.2): without them the whole name is split.
  const whole = splitName(first('fn'))
  const [last, given] = all('n').length
    ? ([all('n')[0]!.getFirstValue() ?? []].flat() as unknown[])
    : [whole.lastName, whole.firstName]
  const numbers = all('tel').map((property) => ({
    mobile: types(property).includes('cell'),
    number: flat(property.getFirstValue()).replace(/^tel:/i, ''),
  }))
  const place = [all('adr')[0]?.getFirstValue() ?? []].flat() as unknown[]
  const country = flat(place[6]).trim()
  return {
    fullName: first('fn'),
    firstName: flat(given),
    lastName: flat(last),
    title: first('title') || first('role'),
    company: flat([first('org').split(';')[0]]),
    domain: first('url'),
    email: first('email').replace(/^mailto:/i, ''),
    phone: numbers.find((one) => !one.mobile)?.number,
    mobile: numbers.find((one) => one.mobile)?.number,
    city: flat(place[3]),
    region: flat(place[4]),
    postalCode: flat(place[5]),
    // A country is taken where it is a code; its name says nothing that can be relied on.
    country: /^[A-Za-z]{2}$/.test(country) ? country.toUpperCase() : '',
    timeZone: /^[A-Za-z]+\/[A-Za-z_]+/.exec(first('tz'))?.[0],
    tags: all('categories')
      .flatMap((property) => property.getValues().map(flat))
      .join('; '),
    note: first('note'),
  }
}
