import type { Id, Instant } from '../instant'
import { codesNamed, type NameTest } from '../places/lookUp'
import { ME, type Field } from './fields'
import { isCondition, partsOf, type Condition, type Filter } from './filter'
import { boundsOf, within } from './moments'
import { isInside, kmBetween, type Position } from './place'

/**
 * A value of a field: text, choice and number as they are, moments in milliseconds since 1970, several as a list, a
 * place as its position.
 */
export type Value = string | number | boolean | readonly string[] | Position | null

/** All that is known of one person, by the fields' keys. */
export type Facts = Readonly<Record<string, Value | undefined>>

/** What a filter is seen from: the moment, the zone its days are counted in, the viewer. */
export interface Viewpoint {
  now: Instant
  timeZone: string
  me: Id | null
}

/** Text as it is compared: small letters, character by character. */
export function folded(text: string): string {
  return [...text]
    .map((character) => {
      const small = character.toLowerCase()
      return [...small].length === 1 ? small : character
    })
    .join('')
}

/**
 * Whether a filter holds for someone. The same meaning as `toSql` gives a database. A condition on a field that is not
 * among `fields` holds for nobody.
 */
export function matches(filter: Filter, facts: Facts, fields: ReadonlyMap<string, Field>, view: Viewpoint): boolean {
  if (isCondition(filter)) return holds(filter, facts[filter.field] ?? null, fields.get(filter.field), view)
  const { kind, parts } = partsOf(filter)
  if (kind === 'all') return parts.every((part) => matches(part, facts, fields, view))
  const some = parts.some((part) => matches(part, facts, fields, view))
  return kind === 'any' ? some : !some
}

function holds({ test }: Condition, value: Value, field: Field | undefined, view: Viewpoint): boolean {
  if (!field) return false
  const text = typeof value === 'string' ? folded(value) : ''
  const single = typeof value === 'string' ? [value] : []
  const list = Array.isArray(value) ? (value as string[]) : single
  const number = typeof value === 'number' ? value : null
  const isSet = Array.isArray(value) ? value.length > 0 : value !== null && value !== ''
  const wanted = 'values' in test ? test.values.map((one) => (one === ME ? (view.me ?? '') : one)) : []
  const asked = 'text' in test ? folded(test.text) : ''
  switch (test.op) {
    case 'set':
      return isSet
    case 'unset':
      return !isSet
    case 'yes':
      return value === true
    case 'no':
      return value !== true
    case 'is':
      return isSet && (text === asked || isNamed('is', test.text, text, field))
    case 'isNot':
      return text !== asked && !isNamed('is', test.text, text, field)
    case 'contains':
      return text.includes(asked) || isNamed('contains', test.text, text, field)
    case 'containsNot':
      return !text.includes(asked) && !isNamed('contains', test.text, text, field)
    case 'startsWith':
      return text.startsWith(asked) || isNamed('startsWith', test.text, text, field)
    case 'anyOf':
    case 'hasAny':
      return wanted.some((one) => list.includes(one))
    case 'noneOf':
    case 'hasNone':
      return !wanted.some((one) => list.includes(one))
    case 'hasAll':
      return wanted.every((one) => list.includes(one))
    case 'exactly':
      return wanted.every((one) => list.includes(one)) && list.every((one) => wanted.includes(one))
    case 'equals':
      return number !== null && number === test.number
    case 'differs':
      return number !== test.number
    case 'atLeast':
      return number !== null && number >= test.number
    case 'atMost':
      return number !== null && number <= test.number
    case 'moreThan':
      return number !== null && number > test.number
    case 'lessThan':
      return number !== null && number < test.number
    case 'between':
      return number !== null && number >= test.from && number <= test.to
    case 'near':
      return isPosition(value) && kmBetween(value, test.at) <= test.km
    case 'far':
      return isPosition(value) && kmBetween(value, test.at) > test.km
    case 'inside':
      return isPosition(value) && isInside(value, test.area)
    case 'notInside':
      return !isPosition(value) || !isInside(value, test.area)
    default:
      return ('orNever' in test && number === null) || within(number, boundsOf(test, view.now, view.timeZone))
  }
}

/** Whether a code is that of a country or region whose name fits. */
function isNamed(test: NameTest, asked: string, code: string, field: Field): boolean {
  return field.codes !== undefined && codesNamed(field.codes, test, asked).includes(code)
}

function isPosition(value: Value): value is Position {
  return Array.isArray(value) && typeof value[0] === 'number'
}
