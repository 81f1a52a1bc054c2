import type { CustomFieldOwner } from '../enumerations'
import { nameKey } from '../text/names'
import { readDay } from '../text/dates'

/** The fields a column of a prospect file can go to. */
export const IMPORT_FIELDS = {
  firstName: 'First name',
  lastName: 'Last name',
  fullName: 'Whole name',
  title: 'Job title',
  company: 'Company',
  domain: 'Company website',
  email: 'Email',
  phone: 'Phone',
  mobile: 'Mobile phone',
  country: 'Country (two letters)',
  region: 'State or region',
  city: 'City',
  timeZone: 'Time zone',
  source: 'Source',
  note: 'Note',
  postalCode: 'Postal code',
  tags: 'Tags (joined by ;)',
  list: 'List they go on',
  touchAt: 'Past touch: day',
  touchKind: 'Past touch: kind',
  industry: 'Company industry',
  companySize: 'Company size',
} as const
export type ImportField = keyof typeof IMPORT_FIELDS
/** What a column can go to: a field everyone has, or one of the team's own of people or companies by its id. */
export type ImportTarget = ImportField | `custom:${string}` | `company:custom:${string}`

/** Column number (from 0) to the field it goes to; columns that go nowhere are absent. */
export type ColumnMapping = Readonly<Record<number, ImportTarget>>

/** Fields that only a person has: a file that fills none of them is one of companies. */
const OF_PEOPLE: readonly string[] = [
  'firstName',
  'lastName',
  'fullName',
  'title',
  'email',
  'phone',
  'mobile',
  'tags',
  'list',
  'touchAt',
  'touchKind',
  'source',
] satisfies ImportField[]

/** What a file's rows are, by where its columns go; null where neither a person nor a company is named. */
export function kindOfFile(mapping: ColumnMapping): 'people' | 'companies' | null {
  const targets: readonly string[] = Object.values(mapping)
  if (['firstName', 'lastName', 'fullName'].some((name) => targets.includes(name))) return 'people'
  const companies =
    ['company', 'domain'].some((name) => targets.includes(name)) &&
    !targets.some((target) => OF_PEOPLE.includes(target) || target.startsWith('custom:'))
  return companies ? 'companies' : null
}

const SYNONYMS: Record<ImportField, string> = {
  firstName: 'first name|firstname|given name|forename|first|vorname',
  lastName: 'last name|lastname|surname|family name|last|nachname',
  fullName: 'name|full name|contact|contact name|person|prospect',
  title: 'title|job title|position|role|job',
  company: 'company|company name|organization|organisation|account|employer|firma|business',
  domain: 'website|domain|company website|web site|url|site|company domain|web',
  email: 'email|e mail|email address|e mail address|mail|work email',
  phone: 'phone|phone number|telephone|work phone|direct line|tel|office phone|business phone|number|telefon',
  mobile: 'mobile|mobile phone|cell|cell phone|mobile number|handy',
  country: 'country|country code|land',
  region: 'state|region|province|county|state region|bundesland',
  city: 'city|town|location|ort',
  timeZone: 'time zone|timezone|tz|zone',
  source: 'source|lead source|origin|quelle',
  note: 'note|notes|comment|comments|remark|remarks',
  postalCode: 'postal code|zip|zip code|postcode|plz',
  tags: 'tags|tag|labels',
  list: 'list|lists',
  touchAt: 'touched|touched on|last touch|last contact|contacted on',
  touchKind: 'touch kind|kind of touch|channel',
  industry: 'industry|sector|branche|company industry',
  companySize: 'size|company size|employees|number of employees|headcount',
}

const EMAIL = /^[^\s@]+@[^\s@]+\.[^\s@]+$/
const PHONE = /^[+(]?[\d\s().\-/+]{6,}$/

/**
 * Guesses where each column goes: by its heading first, else by what most of its sample values look like. A field is
 * given once; of two columns for one field the first has it. `samples` are the first rows below the heading, `own` the
 * custom fields, known by their names.
 */
export function guessColumns(
  headings: readonly string[],
  samples: readonly (readonly string[])[],
  own: readonly { id: string; name: string; of?: CustomFieldOwner }[] = [],
): ColumnMapping {
  const mapping: Record<number, ImportTarget> = {}
  const taken = new Set<ImportTarget>()
  const give = (column: number, field: ImportTarget) => {
    if (mapping[column] !== undefined || taken.has(field)) return
    mapping[column] = field
    taken.add(field)
  }
  headings.forEach((heading, column) => {
    const key = nameKey(heading.replace(/([a-z])([A-Z])/g, '$1 $2'))
    for (const field of Object.keys(SYNONYMS) as ImportField[]) {
      if (SYNONYMS[field].split('|').includes(key) || nameKey(IMPORT_FIELDS[field]) === key) return give(column, field)
    }
    const named = own.find(
      (field) => nameKey(field.name) === key || (field.of === 'company' && nameKey(`company ${field.name}`) === key),
    )
    if (named) give(column, named.of === 'company' ? `company:custom:${named.id}` : `custom:${named.id}`)
  })
  headings.forEach((_, column) => {
    const values = samples.map((row) => row[column]?.trim() ?? '').filter(Boolean)
    const most = (test: RegExp) =>
      values.length > 0 && values.filter((value) => test.test(value)).length * 2 > values.length
    if (most(EMAIL)) give(column, 'email')
    // A day in figures looks like a number to ring.
    else if (most(PHONE) && !values.some((value) => readDay(value, 'month') ?? readDay(value, 'day'))) {
      give(column, 'phone')
    }
  })
  const parts = taken.has('firstName') || taken.has('lastName')
  return parts ? Object.fromEntries(Object.entries(mapping).filter(([, field]) => field !== 'fullName')) : mapping
}

/**
 * How CSV is written (RFC 4180): lines end with CRLF, and a cell with a line break of any kind in it stands in quotes.
 */
export const CSV = { record_delimiter: '\r\n', quoted_match: /[\r\n]/ }

/** An international phone number: it computes nothing. */
const INTERNATIONAL = /^\+\d[\d ().]{5,}$/

/**
 * A cell that a spreadsheet would run as a formula, made harmless (OWASP, "CSV Injection"); international phone numbers
 * stay as they are.
 */
export function harmless(cell: string): string {
  return /^[=+\-@\t\r]/.test(cell) && !INTERNATIONAL.test(cell) ? `'${cell}` : cell
}
