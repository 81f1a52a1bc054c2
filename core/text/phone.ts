import {
  getCountryCallingCode,
  isSupportedCountry,
  parsePhoneNumberFromString,
  type CountryCode,
  type MetadataJson,
} from 'libphonenumber-js'
import { parsePhoneNumberFromString as parseWith } from 'libphonenumber-js/core'
import metadata from 'libphonenumber-js/metadata.min.json' with { type: 'json' }

/** A number as it is kept: E.164 (ITU-T: a plus and at most 15 digits) and the country it belongs to where known. */
export interface PhoneNumber {
  number: string
  country: string | null
}

/**
 * Reads a number as people write it. `country` (ISO 3166-1 alpha-2) says where a number without a country code belongs.
 * Null where no number of that length can exist in the country's plan. An extension is dropped: it cannot be dialed.
 */
export function parsePhone(raw: string, country: string | null): PhoneNumber | null {
  const text = asDialed(raw)
  const code = country && /^[A-Za-z]{2}$/.test(country) ? (country.toUpperCase() as CountryCode) : undefined
  const parsed = parsePhoneNumberFromString(text, code)
  return parsed?.isPossible() ? { number: parsed.number, country: parsed.country ?? null } : null
}

/** A number in E.164 as a link that a phone dials (RFC 3966: a global number, without separators). */
export const telUri = (number: string): string => `tel:${number}`

/** Which key a letter is on (ITU-T E.161). */
const KEYS: Readonly<Record<string, string>> = Object.fromEntries(
  [...'abcdefghijklmnopqrstuvwxyz'].map((letter, index) => [letter, '22233344455566677778889999'[index]!]),
)

/**
 * A number as it would be dialed: "00" for the plus, no "(0)" after a country code, words by their keys
 * ("1-800-FLOWERS").
 */
function asDialed(raw: string): string {
  const text = raw.trim().replace(/^tel:/i, '')
  // Two years are a stretch of time.
  if (/^(?:19|20)\d\d\s*[-–/]\s*(?:19|20)\d\d$/.test(text)) return ''
  const international = text.replace(/^00(?=[1-9(\s])/, '+')
  const plain = international.startsWith('+') ? international.replace(/^(\+\s?\d{1,3}\s*)\(0\)/, '$1') : international
  const [number, word] = [/^[+\d\s().\-/]*\d[\d\s().\-/]*/.exec(plain)?.[0] ?? '', /[a-z]{3,}/i.exec(plain)?.[0] ?? '']
  const isWord =
    word && !/^(ext|extension|ext|anschluss|durchwahl|poste)/i.test(word) && /^\+?1?[\s.\-(]*\d{3}/.test(number)
  return isWord ? plain.replace(/[a-z]/gi, (letter) => KEYS[letter.toLowerCase()]!) : plain
}

const alone = new Map<string, MetadataJson | null>()

/** The numbering plan of one country by itself; null where it is not the main country of its calling code. */
function planOf(country: CountryCode): MetadataJson | null {
  const known = alone.get(country)
  if (known !== undefined) return known
  const all = metadata as unknown as MetadataJson
  const own = all.countries[country]
  const code = own && String(own[0])
  const plan =
    own && code && all.country_calling_codes[code as never]?.[0] === country
      ? ({ ...all, countries: { [country]: own }, country_calling_codes: { [code]: [country] } } as MetadataJson)
      : null
  alone.set(country, plan)
  return plan
}

/**
 * The same number as `parsePhone` gives, without finding out which country it is of: that takes most of the time where
 * many share a calling code, and a file has many rows; ten digits as North Americans write them (they begin with 2 to
 * 9) need no reading at all. Null where `parsePhone` gives null.
 */
export function normalizePhone(raw: string, country: string): string | null {
  const text = asDialed(raw)
  if ((country === 'US' || country === 'CA') && /^[(]?[2-9]\d\d[-. )]{0,2}\d{3}[-. ]?\d{4}$/.test(text)) {
    return `+1${text.replace(/\D/g, '')}`
  }
  const plan = /^[\d(]/.test(text) && /^[A-Z]{2}$/.test(country) ? planOf(country as CountryCode) : null
  const parsed = plan && parseWith(text, country as CountryCode, plan)
  // What is no valid number there may be one of a country that shares the calling code, with lengths of its own.
  return parsed?.isValid() ? parsed.number : (parsePhone(raw, country)?.number ?? null)
}

/** The number as its own country writes it, with the country code for readers elsewhere. */
export function showPhone(number: string, readerCountry: string | null): string {
  const parsed = parsePhoneNumberFromString(number)
  if (!parsed) return number
  return parsed.country && parsed.country === readerCountry ? parsed.formatNational() : parsed.formatInternational()
}

/** The calling code of a country (ISO 3166-1 alpha-2), as "44"; null for one without. */
export function callingCode(country: string): string | null {
  return isSupportedCountry(country) ? getCountryCallingCode(country) : null
}
