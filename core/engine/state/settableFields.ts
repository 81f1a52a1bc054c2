import type { Id } from '../../instant'

/** The fields of a prospect, beside the team's own, that actions can set; keys as filters have them. */
export const SETTABLE_FIELDS = {
  title: 'Job title',
  source: 'Source',
  city: 'City',
  postalCode: 'Postal code',
} as const
export type SettableField = keyof typeof SETTABLE_FIELDS

/** Whether a key of the engine's field values is one of them, and not a custom field. */
export function isSettable(key: string): key is SettableField {
  return Object.hasOwn(SETTABLE_FIELDS, key)
}

/** The key under which the engine has the value of a field that an action names. */
export function valueKey(field: SettableField | Id): string {
  return isSettable(field) ? field : `custom:${field}`
}
