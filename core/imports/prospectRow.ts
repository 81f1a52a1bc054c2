import type { CustomFieldKind, DateOrder } from '../enumerations'
import { isZone } from '../places/isZone'
import { kindOfFile, type ColumnMapping, type ImportField, type ImportTarget } from './columns'
import { readCustomValue, type CustomValue } from '../text/customValue'
import { readDay } from '../text/dates'
import { bareDomain, emailDomain, normalizeEmail } from '../text/email'
import { companyKey, isStorable, nameKey, properName, splitName, tidy } from '../text/names'
import { readCountry, tidyRegion } from '../places/lookUp'
import { normalizePhone } from '../text/phone'

/** A row of a prospect file, read: every value normalized, empty text where nothing was given. */
export interface ProspectRow {
  firstName: string
  lastName: string
  nameKey: string
  title: string
  company: string
  companyKey: string
  /** The company's domain, from its website or a business address; empty for public mail domains. */
  domain: string
  email: string
  phone: string
  mobile: string
  country: string
  region: string
  city: string
  timeZone: string
  source: string
  note: string
  postalCode: string
  /** What else it brings; null for nothing. */
  extra: RowExtra | null
}

/** Values of the custom fields by id, tags and lists by name, and a touch there was, in the team's days. */
export interface RowExtra {
  custom?: Record<string, CustomValue>
  tags?: string[]
  list?: string
  touch?: { day: string; kind: 'call' | 'text' | 'email' | 'meeting' | 'visit' }
  /** What it says of the company beyond its name and address. */
  company?: { industry?: string; size?: number; custom?: Record<string, CustomValue> }
  /** The name as the file has it, where it was cleaned up. */
  nameWas?: string
}

/** One of the custom fields, as far as reading a value needs it. */
export interface CustomField {
  name: string
  kind: CustomFieldKind
  choices: readonly string[]
}

/** The longest value that is kept, by field, in characters. */
const LONGEST = 300
const LONGEST_NOTE = 10_000

const isOwn = (field: ImportTarget): field is `custom:${string}` | `company:custom:${string}` =>
  /^(company:)?custom:/.test(field)
/** More people than work anywhere. */
const LARGEST_COMPANY = 10_000_000

const KINDS: Record<string, NonNullable<RowExtra['touch']>['kind']> = {
  call: 'call',
  phone: 'call',
  text: 'text',
  sms: 'text',
  email: 'email',
  mail: 'email',
  meeting: 'meeting',
  visit: 'visit',
}

/** What is left out of a row, each with why, in words. */
type Dropped = string[]

/** Keeps what can be read of the rest of a row; what cannot is left out, and said. */
function readExtra(
  raw: Partial<Record<ImportField, string>>,
  custom: Record<string, CustomValue>,
  ofCompany: Record<string, CustomValue>,
  dropped: Dropped,
  order: DateOrder,
): RowExtra | null {
  const tags = (raw.tags?.split(/[;,]/).map(tidy).filter(Boolean) ?? []).filter((tag) => {
    if (tag.length > LONGEST_TAG) dropped.push(`tag: longer than ${LONGEST_TAG} characters`)
    return tag.length <= LONGEST_TAG
  })
  const size = raw.companySize ? Number(raw.companySize.replace(/[,\s]|\+$/g, '')) : null
  const fits = size !== null && Number.isInteger(size) && size >= 0 && size <= LARGEST_COMPANY
  if (size !== null && !fits) dropped.push(`company size: expected a whole number, not "${raw.companySize}"`)
  const company = {
    ...(raw.industry && { industry: raw.industry }),
    ...(fits && { size }),
    ...(Object.keys(ofCompany).length && { custom: ofCompany }),
  }
  const extra: RowExtra = {
    ...(Object.keys(company).length && { company }),
    ...(Object.keys(custom).length && { custom }),
    ...(tags.length && { tags }),
    ...(raw.list && { list: raw.list }),
  }
  if (raw.touchAt || raw.touchKind) {
    const day = readDay(raw.touchAt ?? '', order)
    const kind = KINDS[nameKey(raw.touchKind ?? 'call')]
    if (!day) dropped.push(`past touch: expected a day like 11/23/2026, not "${raw.touchAt ?? ''}"`)
    else if (!kind) {
      dropped.push(`past touch: expected ${[...new Set(Object.values(KINDS))].join(', ')}, not "${raw.touchKind}"`)
    } else extra.touch = { day, kind }
  }
  return Object.keys(extra).length ? extra : null
}
const LONGEST_TAG = 60

/** Between several reasons of one row. */
export const BETWEEN = ' · '

/** How a file is read beside its mapping. */
export interface RowOptions {
  /** Where numbers without a country code belong when the row names no country. */
  homeCountry: string
  /** Mail domains that are nobody's company. */
  isPublic: (domain: string) => boolean
  customFields?: ReadonlyMap<string, CustomField>
  dateOrder?: DateOrder
  /** Names are taken as they are written: titles, capitals and all. */
  keepNames?: boolean
}

/** A row that was read, with what was left out of it; or all that keeps it from being taken. */
export type RowRead = { row: ProspectRow; dropped: string[] } | { error: string }

/**
 * Reads one row by the mapping; in a file of companies, one without a person. A cell that cannot be read is left out
 * and the row kept; only a row without a name (in a file of companies, without a company) is not taken. Every reason is
 * said.
 */
export function readProspectRow(
  cells: readonly string[],
  mapping: ColumnMapping,
  { homeCountry, isPublic, customFields = new Map(), dateOrder = 'month', keepNames = false }: RowOptions,
): RowRead {
  const dropped: Dropped = []
  const { raw, custom, ofCompany } = readCells(cells, mapping, customFields, dateOrder, dropped)
  const split = raw.fullName && !raw.firstName && !raw.lastName ? splitName(raw.fullName) : null
  const written = {
    firstName: raw.firstName ?? split?.firstName ?? '',
    lastName: raw.lastName ?? split?.lastName ?? '',
  }
  const { firstName, lastName } = keepNames ? written : properName(written)
  const nameWas =
    firstName === written.firstName && lastName === written.lastName
      ? null
      : `${written.firstName} ${written.lastName}`.trim()
  const key = nameKey(`${firstName} ${lastName}`)
  const ofCompanies = kindOfFile(mapping) === 'companies'
  const refused = (why: string) => ({ error: [why, ...dropped].join(BETWEEN) })
  if (!key && !ofCompanies) return refused('no name')
  const orDropped = <T>(value: T | null, why: string, none: T): T => {
    if (value === null) dropped.push(why)
    return value ?? none
  }
  const email = raw.email ? orDropped(normalizeEmail(raw.email), `bad email "${raw.email}"`, '') : ''
  const country = raw.country ? orDropped(readCountry(raw.country), `unknown country "${raw.country}"`, '') : ''
  const number = (given: string | undefined) =>
    given ? orDropped(normalizePhone(given, country || homeCountry), `impossible phone "${given}"`, '') : ''
  const numbers = { phone: number(raw.phone), mobile: number(raw.mobile) }
  const timeZone = raw.timeZone
    ? orDropped(isZone(raw.timeZone) ? raw.timeZone : null, `unknown time zone "${raw.timeZone}"`, '')
    : ''
  const more = readExtra(raw, custom, ofCompany, dropped, dateOrder)
  const extra = nameWas ? { ...more, nameWas } : more
  const site = raw.domain ? orDropped(bareDomain(raw.domain), `bad website "${raw.domain}"`, '') : ''
  const domain = site || (email && !isPublic(emailDomain(email)) ? emailDomain(email) : '')
  if (ofCompanies && !site && !(raw.company && companyKey(raw.company))) return refused('no company')
  return {
    dropped,
    row: {
      firstName,
      lastName,
      nameKey: key,
      title: raw.title ?? '',
      company: raw.company ?? '',
      companyKey: raw.company ? companyKey(raw.company) : '',
      domain: isPublic(domain) ? '' : domain,
      email,
      ...numbers,
      country,
      region: tidyRegion((raw.region ?? '').slice(0, 60), country || homeCountry),
      city: raw.city ?? '',
      timeZone,
      source: raw.source ?? '',
      note: raw.note ?? '',
      postalCode: (raw.postalCode ?? '').slice(0, 20),
      extra,
    },
  }
}

/** The cells of a row by their fields; what cannot be kept is left out, and said. */
function readCells(
  cells: readonly string[],
  mapping: ColumnMapping,
  customFields: ReadonlyMap<string, CustomField>,
  order: DateOrder,
  dropped: Dropped,
) {
  const raw: Partial<Record<ImportField, string>> = {}
  const [custom, ofCompany]: [Record<string, CustomValue>, Record<string, CustomValue>] = [{}, {}]
  for (const column of Object.keys(mapping)) {
    const field = mapping[Number(column)]!
    const cell = cells[Number(column)] ?? ''
    const value = field === 'note' ? cell.trim() : tidy(cell)
    const longest = field === 'note' ? LONGEST_NOTE : LONGEST
    if (!value) continue
    if (!isStorable(cell)) dropped.push(`${field}: contains characters that cannot be kept`)
    else if (value.length > longest) dropped.push(`${field}: longer than ${longest} characters`)
    else if (!isOwn(field)) raw[field] = value
    else {
      const id = field.slice(field.lastIndexOf(':') + 1)
      const known = customFields.get(id)
      const given = known ? readCustomValue(value, known.kind, known.choices, order) : { error: 'A field that is gone' }
      if ('error' in given) {
        dropped.push(
          `${known?.name ?? 'custom field'}: ${given.error.charAt(0).toLowerCase()}${given.error.slice(1)}, not "${value.slice(0, 40)}"`,
        )
      } else (field.startsWith('company:') ? ofCompany : custom)[id] = given.value
    }
  }
  return { raw, custom, ofCompany }
}
