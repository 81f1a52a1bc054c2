import { findPhoneNumbersInText, isSupportedCountry } from 'libphonenumber-js'

/** Whether a text says a phone number that could be called; `country` says where one without a country code belongs. */
export function saysNumber(text: string, country: string | null): boolean {
  const home = country !== null && isSupportedCountry(country) ? country : undefined
  return findPhoneNumbersInText(text, home).length > 0
}
