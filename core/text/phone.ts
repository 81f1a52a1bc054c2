import { parsePhoneNumberFromString, type CountryCode } from 'libphonenumber-js'

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
  const text = raw.trim().replace(/^tel:/i, '')
  const code = country && /^[A-Za-z]{2}$/.test(country) ? country.toUpperCase() as CountryCode : undefined
  const parsed = parsePhoneNumberFromString(text, code)
  return parsed?.isPossible() ? { number: parsed.number, country: parsed.country ?? null } : null
}

/** The number as its own country writes it, with the country code for readers elsewhere. */
export function showPhone(number: string, readerCountry: string | null): string {
  const parsed = parsePhoneNumberFromString(number)
  if (!parsed) return number
  return parsed.country && parsed.country === readerCountry ? parsed.formatNational() : parsed.formatInternational()
}
