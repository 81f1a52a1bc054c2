/** Text as it is kept: composed Unicode, one space between words, none around. */
export function tidy(raw: string): string {
  if (/^(?:[!-~]+ )*[!-~]+$/.test(raw)) return raw
  return raw.normalize('NFC').replace(/[\s\u00a0]+/g, ' ').trim()
}

/** Whether text can be kept at all: PostgreSQL holds no NUL, and half of a surrogate pair is no character. */
export function isStorable(raw: string): boolean {
  return !/[\0\ud800-\udfff]/.test(raw) || (!raw.includes('\0') && !/\p{Cs}/u.test(raw))
}

/** Splits a whole name into first and last: "Lindqvist, Petra" and "Petra Lindqvist" give the same. One word is a first name. */
export function splitName(whole: string): { firstName: string, lastName: string } {
  const text = tidy(whole)
  const comma = text.indexOf(',')
  if (comma > 0) return { firstName: tidy(text.slice(comma + 1)), lastName: tidy(text.slice(0, comma)) }
  const space = text.lastIndexOf(' ')
  return space < 0 ? { firstName: text, lastName: '' } : { firstName: text.slice(0, space), lastName: text.slice(space + 1) }
}

/** The form under which names are compared: no marks, no case, letters and digits only. */
export function nameKey(name: string): string {
  if (/^[\0-\x7f]*$/.test(name)) return name.toLowerCase().replace(/[^a-z0-9]+/g, ' ').trim()
  return name.normalize('NFKD').toLowerCase().replace(/\p{M}/gu, '').replace(/ß/g, 'ss').replace(/[^\p{L}\p{N}]+/gu, ' ').trim()
}

const FORMS = new Set(['inc', 'incorporated', 'llc', 'ltd', 'limited', 'gmbh', 'ag', 'co', 'corp', 'corporation', 'company', 'plc', 'pty', 'kg', 'sa', 'bv', 'the'])

/** The form under which company names are compared: as names, without the legal form ("Marlpit Creamery, Inc." is "marlpit creamery"). */
export function companyKey(name: string): string {
  const words = nameKey(name).split(' ')
  const bare = words.filter(word => !FORMS.has(word))
  return (bare.length ? bare : words).join(' ')
}
