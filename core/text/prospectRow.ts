import { isZone } from '../calendar/local'
import type { ColumnMapping, ImportField } from './columns'
import { bareDomain, emailDomain, normalizeEmail } from './email'
import { companyKey, isStorable, nameKey, splitName, tidy } from './names'
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
}

/** The longest value that is kept, by field, in characters. */
export const LONGEST = 300
const LONGEST_NOTE = 10_000

/**
 * Reads one row by the mapping. `isPublic` tells mail domains that are nobody's company; `homeCountry` is where numbers
 * without a country code belong when the row names no country. Gives the row, or why it cannot be taken, in words.
 */
export function readProspectRow(cells: readonly string[], mapping: ColumnMapping, homeCountry: string, isPublic: (domain: string) => boolean): { row: ProspectRow } | { wrong: string } {
  const raw: Partial<Record<ImportField, string>> = {}
  for (const column of Object.keys(mapping)) {
    const field = mapping[Number(column)]!
    const cell = cells[Number(column)] ?? ''
    if (!isStorable(cell)) return { wrong: `${field}: contains characters that cannot be kept` }
    const value = field === 'note' ? cell.trim() : tidy(cell)
    if (value.length > (field === 'note' ? LONGEST_NOTE : LONGEST)) return { wrong: `${field}: longer than ${field === 'note' ? LONGEST_NOTE : LONGEST} characters` }
    if (value) raw[field] = value
  }
  const split = raw.fullName && !raw.firstName && !raw.lastName ? splitName(raw.fullName) : null
  const firstName = raw.firstName ?? split?.firstName ?? ''
  const lastName = raw.lastName ?? split?.lastName ?? ''
  const key = nameKey(`${firstName} ${lastName}`)
  if (!key) return { wrong: 'no name' }
  const email = raw.email ? normalizeEmail(raw.email) : ''
  if (email === null) return { wrong: `bad email "${raw.email}"` }
  const country = (raw.country ?? '').toUpperCase()
  if (country && !/^[A-Z]{2}$/.test(country)) return { wrong: `country "${raw.country}" is not a two-letter code` }
  const numbers = { phone: '', mobile: '' }
  for (const field of ['phone', 'mobile'] as const) {
    const given = raw[field]
    const parsed = given ? normalizePhone(given, country || homeCountry) : null
    if (given && !parsed) return { wrong: `impossible phone "${given}"` }
    numbers[field] = parsed ?? ''
  }
  if (raw.zone && !isZone(raw.zone)) return { wrong: `nobody knows the time zone "${raw.zone}"` }
  const site = raw.domain ? bareDomain(raw.domain) : ''
  if (site === null) return { wrong: `bad website "${raw.domain}"` }
  const domain = site || (email && !isPublic(emailDomain(email)) ? emailDomain(email) : '')
  return {
    row: {
      firstName, lastName, nameKey: key, title: raw.title ?? '', company: raw.company ?? '',
      companyKey: raw.company ? companyKey(raw.company) : '', domain: isPublic(domain) ? '' : domain, email, ...numbers,
      country, region: (raw.region ?? '').slice(0, 60), city: raw.city ?? '', zone: raw.zone ?? '', source: raw.source ?? '', note: raw.note ?? '',
    },
  }
}
