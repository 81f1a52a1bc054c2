import { IANAZone } from 'luxon'

/** Whether `name` is a time zone of the IANA database. */
export function isZone(name: string): boolean {
  return /^[A-Za-z][\w+\-/]*$/.test(name) && IANAZone.isValidZone(name)
}
