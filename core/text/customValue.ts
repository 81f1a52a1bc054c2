import type { CustomKind } from '../filter/fields'
import { isStorable } from './names'

/** A value of one of the team's own fields as it is kept, or null for none. */
export type CustomValue = string | number | boolean | string[] | null

const LONGEST = 2_000

/**
 * Reads what was given for a field of the team's own: text as it is, numbers, dates as ISO days, links with http or
 * https. Gives the value to keep, null where it was left empty, or why it cannot be taken, in words.
 */
export function readCustomValue(given: unknown, kind: CustomKind, choices: readonly string[]): { value: CustomValue } | { wrong: string } {
  if (given === null || given === undefined || given === '' || (Array.isArray(given) && !given.length)) return { value: null }
  const text = typeof given === 'string' ? given.trim() : ''
  if (typeof given === 'string' && (!isStorable(given) || given.length > LONGEST)) return { wrong: given.length > LONGEST ? `Longer than ${LONGEST} characters` : 'Contains characters that cannot be kept' }
  switch (kind) {
    case 'text': return typeof given === 'string' ? { value: text || null } : { wrong: 'Expected text' }
    case 'link': return /^https?:\/\/[^\s/]+\.[^\s]+$/i.test(text) ? { value: text } : { wrong: 'Expected an address like https://cellar.example' }
    case 'number': case 'money': {
      const number = typeof given === 'number' ? given : /^[+-]?\d+(\.\d+)?$/.test(text.replace(/,(?=\d{3}\b)/g, '')) ? Number(text.replace(/,(?=\d{3}\b)/g, '')) : Number.NaN
      if (!Number.isFinite(number) || Math.abs(number) > 1e12) return { wrong: 'Expected a number' }
      return { value: kind === 'money' ? Math.round(number * 100) / 100 : number }
    }
    case 'date': return /^\d{4}-\d{2}-\d{2}$/.test(text) && isDay(text) ? { value: text } : { wrong: 'Expected a day like 2026-11-23' }
    case 'yesNo': {
      if (typeof given === 'boolean') return { value: given }
      const said = text.toLowerCase()
      return ['yes', 'true', '1'].includes(said) ? { value: true } : ['no', 'false', '0'].includes(said) ? { value: false } : { wrong: 'Expected yes or no' }
    }
    case 'choice': {
      const choice = choices.find(one => one.toLowerCase() === text.toLowerCase())
      return choice ? { value: choice } : { wrong: `Expected one of ${choices.join(', ')}` }
    }
    case 'choices': {
      const wanted = Array.isArray(given) ? given.map(String) : text.split(';').map(part => part.trim()).filter(Boolean)
      const found = wanted.map(want => choices.find(one => one.toLowerCase() === want.toLowerCase()))
      if (found.includes(undefined)) return { wrong: `Expected some of ${choices.join(', ')}` }
      return { value: found.length ? choices.filter(one => found.includes(one)) : null }
    }
  }
}

function isDay(text: string): boolean {
  const [year, month, day] = text.split('-').map(Number) as [number, number, number]
  const date = new Date(Date.UTC(year, month - 1, day))
  return year >= 1 && date.getUTCMonth() === month - 1 && date.getUTCDate() === day
}
