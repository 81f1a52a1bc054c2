import type { CustomFieldKind, DateOrder } from '../enumerations'
import { readAmount, readDay } from './dates'
import { isStorable } from './names'

/** A value of one of the custom fields as it is kept, or null for none. */
export type CustomValue = string | number | boolean | string[] | null

const LONGEST = 2_000

/**
 * Reads what was given for a custom field: text as it is, numbers and sums as people write them, days in
 * numbers by `order`, links with http or https. Gives the value to keep, null where it was left empty, or why it cannot
 * be taken, in words.
 */
export function readCustomValue(
  given: unknown,
  kind: CustomFieldKind,
  choices: readonly string[],
  order: DateOrder = 'month',
): { value: CustomValue } | { error: string } {
  if (given === null || given === undefined || given === '' || (Array.isArray(given) && !given.length)) {
    return { value: null }
  }
  const text = typeof given === 'string' ? given.trim() : ''
  if (typeof given === 'string' && (!isStorable(given) || given.length > LONGEST)) {
    return {
      error: given.length > LONGEST ? `Longer than ${LONGEST} characters` : 'Contains characters that cannot be saved',
    }
  }
  switch (kind) {
    case 'text':
      return typeof given === 'string' ? { value: text || null } : { error: 'Expected text' }
    case 'link':
      return /^https?:\/\/[^\s/]+\.[^\s]+$/i.test(text)
        ? { value: text }
        : { error: 'Expected an address like https://cellar.example' }
    case 'number':
    case 'money': {
      const number = typeof given === 'number' ? given : (readAmount(text) ?? Number.NaN)
      if (!Number.isFinite(number) || Math.abs(number) > 1e12) return { error: 'Expected a number' }
      return { value: kind === 'money' ? Math.round(number * 100) / 100 : number }
    }
    case 'date': {
      const day = readDay(text, order)
      return day ? { value: day } : { error: 'Expected a day like 11/23/2026 or 2026-11-23' }
    }
    case 'yesNo': {
      if (typeof given === 'boolean') return { value: given }
      const said = text.toLowerCase()
      if (['yes', 'true', '1'].includes(said)) return { value: true }
      return ['no', 'false', '0'].includes(said) ? { value: false } : { error: 'Expected yes or no' }
    }
    case 'choice': {
      const choice = choices.find((one) => one.toLowerCase() === text.toLowerCase())
      return choice ? { value: choice } : { error: `Expected one of ${choices.join(', ')}` }
    }
    case 'choices': {
      const wanted = Array.isArray(given)
        ? given.map(String)
        : text
            .split(';')
            .map((part) => part.trim())
            .filter(Boolean)
      const found = wanted.map((want) => choices.find((one) => one.toLowerCase() === want.toLowerCase()))
      if (found.includes(undefined)) return { error: `Expected some of ${choices.join(', ')}` }
      return { value: found.length ? choices.filter((one) => found.includes(one)) : null }
    }
  }
}

/** Kinds in the order in which they are tried; what fits none is text. */
const GUESSED: readonly CustomFieldKind[] = ['yesNo', 'date', 'number', 'money', 'link']

/**
 * The kind of field that sample values of a column fit, all of them. Empty cells say nothing; sums are recognized by a
 * currency sign.
 */
export function guessKind(samples: readonly string[], order: DateOrder = 'month'): CustomFieldKind {
  const values = samples.map((sample) => sample.trim()).filter(Boolean)
  if (!values.length) return 'text'
  // A column of zeros and ones may count something.
  const kinds = GUESSED.filter((kind) => kind !== 'yesNo' || !values.every((value) => /^[01]$/.test(value)))
  const kind =
    kinds.find((kind) => values.every((value) => 'value' in readCustomValue(value, kind, [], order))) ?? 'text'
  return kind === 'number' && values.some((value) => /\p{Sc}/u.test(value)) ? 'money' : kind
}
