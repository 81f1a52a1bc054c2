import { isZone } from '../calendar/local'
import type { CustomKind } from '../filter/fields'
import { kindOfFile, type ColumnMapping, type ImportField, type ImportTarget } from './columns'
import { readCustomValue, type CustomValue } from './customValue'
import { bareDomain, emailDomain, normalizeEmail } from './email'
import { companyKey, isStorable, nameKey, splitName, tidy } from './names'
import { readCountry } from '../places/lookUp'
import { normalizePhone } from './phone'

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
  zone: string
  source: string
  note: string
  postalCode: string
  /** What else it brings; null for nothing. */
  extra: RowExtra | null
}

/** Values of the team's own fields by id, tags and lists by name, and a touch there was, in the team's days. */
export interface RowExtra {
  custom?: Record<string, CustomValue>
  tags?: string[]
  list?: string
  touch?: { day: string, kind: 'call' | 'text' | 'email' | 'meeting' | 'visit' }
  /** What it says of the company beyond its name and address. */
  company?: { industry?: string, size?: number, custom?: Record<string, CustomValue> }
}

/** One of the team's own fields, as far as reading a value needs it. */
export interface OwnField { name: string, kind: CustomKind, choices: readonly string[] }

/** The longest value that is kept, by field, in characters. */
export const LONGEST = 300
const LONGEST_NOTE = 10_000

const isOwn = (field: ImportTarget): field is `custom:${string}` | `company:custom:${string}` => /^(company:)?custom:/.test(field)
/** More people than work anywhere. */
const LARGEST_COMPANY = 10_000_000

const KINDS: Record<string, NonNullable<RowExtra['touch']>['kind']> = { call: 'call', phone: 'call', text: 'text', sms: 'text', email: 'email', mail: 'email', meeting: 'meeting', visit: 'visit' }

function readExtra(raw: Partial<Record<ImportField, string>>, custom: Record<string, CustomValue>, ofCompany: Record<string, CustomValue>): RowExtra | { wrong: string } | null {
  const tags = raw.tags?.split(';').map(tidy).filter(Boolean) ?? []
  const long = tags.find(tag => tag.length > LONGEST_TAG)
  if (long) return { wrong: `a tag is longer than ${LONGEST_TAG} characters` }
  const size = raw.companySize ? Number(raw.companySize.replace(/[,\s]/g, '')) : null
  if (size !== null && !(Number.isInteger(size) && size >= 0 && size <= LARGEST_COMPANY)) return { wrong: `company size: expected a whole number, not "${raw.companySize}"` }
  const company = { ...(raw.industry && { industry: raw.industry }), ...(size !== null && { size }), ...(Object.keys(ofCompany).length && { custom: ofCompany }) }
  const extra: RowExtra = { ...(Object.keys(company).length && { company }), ...(Object.keys(custom).length && { custom }), ...(tags.length && { tags }), ...(raw.list && { list: raw.list }) }
  if (raw.touchAt || raw.touchKind) {
    const day = readCustomValue(raw.touchAt, 'date', [])
    const kind = KINDS[nameKey(raw.touchKind ?? 'call')]
    if ('wrong' in day || day.value === null) return { wrong: `past touch: expected a day like 2026-11-23, not "${raw.touchAt ?? ''}"` }
    if (!kind) return { wrong: `past touch: expected ${[...new Set(Object.values(KINDS))].join(', ')}, not "${raw.touchKind}"` }
    extra.touch = { day: day.value as string, kind }
  }
  return Object.keys(extra).length ? extra : null
}
const LONGEST_TAG = 60

/**
 * Reads one row by the mapping; in a file of companies, one without a person. `isPublic` tells mail domains that are nobody's company; `homeCountry` is where numbers
 * without a country code belong when the row names no country. Gives the row, or why it cannot be taken, in words.
 */
export function readProspectRow(cells: readonly string[], mapping: ColumnMapping, homeCountry: string, isPublic: (domain: string) => boolean, own: ReadonlyMap<string, OwnField> = new Map()): { row: ProspectRow } | { wrong: string } {
  const raw: Partial<Record<ImportField, string>> = {}
  const [custom, ofCompany]: [Record<string, CustomValue>, Record<string, CustomValue>] = [{}, {}]
  for (const column of Object.keys(mapping)) {
    const field = mapping[Number(column)]!
    const cell = cells[Number(column)] ?? ''
    if (!isStorable(cell)) return { wrong: `${field}: contains characters that cannot be kept` }
    const value = field === 'note' ? cell.trim() : tidy(cell)
    if (value.length > (field === 'note' ? LONGEST_NOTE : LONGEST)) return { wrong: `${field}: longer than ${field === 'note' ? LONGEST_NOTE : LONGEST} characters` }
    if (!value) continue
    if (!isOwn(field)) raw[field] = value
    else {
      const id = field.slice(field.lastIndexOf(':') + 1)
      const known = own.get(id)
      const given = known ? readCustomValue(value, known.kind, known.choices) : { wrong: 'a field that is gone' }
      if ('wrong' in given) return { wrong: `${known?.name ?? 'own field'}: ${given.wrong.charAt(0).toLowerCase()}${given.wrong.slice(1)}` }
      const whose = field.startsWith('company:') ? ofCompany : custom
      whose[id] = given.value
    }
  }
  const split = raw.fullName && !raw.firstName && !raw.lastName ? splitName(raw.fullName) : null
  const firstName = raw.firstName ?? split?.firstName ?? ''
  const lastName = raw.lastName ?? split?.lastName ?? ''
  const key = nameKey(`${firstName} ${lastName}`)
  const ofCompanies = kindOfFile(mapping) === 'companies'
  if (!key && !ofCompanies) return { wrong: 'no name' }
  const email = raw.email ? normalizeEmail(raw.email) : ''
  if (email === null) return { wrong: `bad email "${raw.email}"` }
  const country = raw.country ? readCountry(raw.country) : ''
  if (country === null) return { wrong: `unknown country "${raw.country}"` }
  const numbers = { phone: '', mobile: '' }
  for (const field of ['phone', 'mobile'] as const) {
    const given = raw[field]
    const parsed = given ? normalizePhone(given, country || homeCountry) : null
    if (given && !parsed) return { wrong: `impossible phone "${given}"` }
    numbers[field] = parsed ?? ''
  }
  if (raw.zone && !isZone(raw.zone)) return { wrong: `nobody knows the time zone "${raw.zone}"` }
  const extra = readExtra(raw, custom, ofCompany)
  if (extra && 'wrong' in extra) return extra
  const site = raw.domain ? bareDomain(raw.domain) : ''
  if (site === null) return { wrong: `bad website "${raw.domain}"` }
  const domain = site || (email && !isPublic(emailDomain(email)) ? emailDomain(email) : '')
  if (ofCompanies && !site && !(raw.company && companyKey(raw.company))) return { wrong: 'no company' }
  return {
    row: {
      firstName, lastName, nameKey: key, title: raw.title ?? '', company: raw.company ?? '',
      companyKey: raw.company ? companyKey(raw.company) : '', domain: isPublic(domain) ? '' : domain, email, ...numbers,
      country, region: (raw.region ?? '').slice(0, 60), city: raw.city ?? '', zone: raw.zone ?? '', source: raw.source ?? '', note: raw.note ?? '',
      postalCode: (raw.postalCode ?? '').slice(0, 20), extra,
    },
  }
}
