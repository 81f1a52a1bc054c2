/** Text as it is kept: composed Unicode, one space between words, none around. */
export function tidy(raw: string): string {
  if (/^(?:[!-~]+ )*[!-~]+$/.test(raw)) return raw
  return raw
    .normalize('NFC')
    .replace(/[\s\u00a0]+/g, ' ')
    .trim()
}

/** Whether text can be kept at all: PostgreSQL holds no NUL, and half of a surrogate pair is no character. */
export function isStorable(raw: string): boolean {
  return !/[\0\ud800-\udfff]/.test(raw) || (!raw.includes('\0') && !/\p{Cs}/u.test(raw))
}

/**
 * What stands behind a name and is none: degrees, and "Jr." or "III", which belong to the last name. Common practice,
 * no published source.
 */
const DEGREES =
  /^(?:ph\.?\s?d|m\.?d|m\.?b\.?a|m\.?s(?:c)?|b\.?s(?:c)?|b\.?a|m\.?a|ll\.?[bm]|j\.?d|esq(?:uire)?|c\.?p\.?a|c\.?f\.?a|p\.?e|p\.?m\.?p|r\.?n|d\.?d\.?s|d\.?v\.?m|ed\.?d|dipl\.?-?ing)\.?$/i
const GENERATION = /^(?:jr|sr|ii|iii|iv)\.?$/i
/** Words with which a last name of several words begins. Common practice, no published source. */
const PARTICLES = new Set([
  'af',
  'al',
  'av',
  'bin',
  'da',
  'das',
  'de',
  'del',
  'della',
  'dem',
  'den',
  'der',
  'di',
  'dos',
  'du',
  'el',
  'ibn',
  'la',
  'le',
  'st.',
  'ten',
  'ter',
  'van',
  'vom',
  'von',
  'zu',
  'zum',
  'zur',
  '’t',
  "'t",
])

/**
 * Splits a whole name into first and last: "Lindqvist, Petra" and "Petra Lindqvist" give the same, "Jan van der Berg"
 * keeps its last name whole, degrees behind the name are left out. One word is a first name.
 */
export function splitName(whole: string): { firstName: string; lastName: string } {
  const [first = '', ...behind] = tidy(whole).split(',').map(tidy).filter(Boolean)
  const generation = behind.find((part) => GENERATION.test(part))
  const rest = behind.filter((part) => !GENERATION.test(part) && !part.split(' ').every((word) => DEGREES.test(word)))
  const withGeneration = (last: string) => (generation && last ? `${last} ${generation}` : last)
  if (rest.length) return { firstName: rest.join(', '), lastName: withGeneration(first) }
  const words = first.split(' ')
  const nameWords = words.filter((word, index) => index < 2 || !DEGREES.test(word) || word.toLowerCase() === word)
  const last = nameWords.length > 2 && GENERATION.test(nameWords.at(-1)!) ? nameWords.pop()! : ''
  if (nameWords.length < 2) return { firstName: nameWords.join(' '), lastName: '' }
  let from = nameWords.length - 1
  const particle = nameWords.findIndex(
    (word, index) => index > 0 && index < nameWords.length - 1 && PARTICLES.has(word.toLowerCase()),
  )
  if (particle > 0) from = particle
  return {
    firstName: nameWords.slice(0, from).join(' '),
    lastName: withGeneration([...nameWords.slice(from), last].filter(Boolean).join(' ')),
  }
}

/** What stands before a first name and is none. Common practice, no published source. */
const TITLE = /^(?:dr|prof|mr|mrs|ms|miss|mx|rev|sir|dame|herr|frau|mme|monsieur|madame)(?:\.\s*|\s+)(?=\S)/i
const isCaps = (word: string) => /\p{Lu}/u.test(word) && !/\p{Ll}/u.test(word)
const letters = (word: string) => word.replace(/[^\p{L}]/gu, '').length

/**
 * A word as names are written: a capital where it begins and after a hyphen or an apostrophe, and after "Mc"; particles
 * small.
 */
function capitalized(word: string): string {
  if (PARTICLES.has(word.toLowerCase())) return word.toLowerCase()
  return word
    .toLowerCase()
    .replace(/(^|[-'’.])(\p{L})/gu, (_, before: string, letter: string) => before + letter.toUpperCase())
    .replace(/^Mc(\p{Ll})/u, (_, letter: string) => `Mc${letter.toUpperCase()}`)
}

/**
 * A name as an email can greet it: no title before it, and capitals where names have them. Capitals are only set where
 * a word of four letters or more is all in capitals, or where the whole name is in small letters or in capitals; two
 * letters in capitals stay, as initials do. What a person wrote with care is left as it is.
 */
export function properName(given: { firstName: string; lastName: string }): { firstName: string; lastName: string } {
  let { firstName } = given
  const { lastName } = given
  while (TITLE.test(firstName)) firstName = firstName.replace(TITLE, '')
  const words = `${firstName} ${lastName}`.split(' ').filter(Boolean)
  const allSmall = words.length > 0 && words.every((word) => /^\p{Ll}/u.test(word) && !/\p{Lu}/u.test(word))
  const allCaps = words.length > 1 && words.every((word) => isCaps(word))
  const proper = (word: string) =>
    allSmall || (isCaps(word) && (letters(word) > 3 || (allCaps && letters(word) > 2))) ? capitalized(word) : word
  const all = (part: string) => part.split(' ').map(proper).join(' ')
  return { firstName: all(firstName), lastName: all(lastName) }
}

/**
 * The form under which names are compared: no accents, no case, letters and digits only. Signs that are part of a
 * letter (vowels of Hindi, Thai) stay.
 */
export function nameKey(name: string): string {
  if (/^[\0-\x7f]*$/.test(name)) {
    return name
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, ' ')
      .trim()
  }
  return name
    .normalize('NFKD')
    .toLowerCase()
    .replace(/[\u0300-\u036f]/g, '')
    .replace(/ß/g, 'ss')
    .replace(/[^\p{L}\p{N}\p{M}]+/gu, ' ')
    .trim()
}

const FORMS = new Set([
  'inc',
  'incorporated',
  'llc',
  'ltd',
  'limited',
  'gmbh',
  'ag',
  'co',
  'corp',
  'corporation',
  'company',
  'plc',
  'pty',
  'kg',
  'sa',
  'bv',
  'the',
])

/**
 * The form under which company names are compared: as names, without the legal form ("Marlpit Creamery, Inc." is
 * "marlpit creamery").
 */
export function companyKey(name: string): string {
  const words = nameKey(name).split(' ')
  const bare = words.filter((word) => !FORMS.has(word))
  return (bare.length ? bare : words).join(' ')
}
