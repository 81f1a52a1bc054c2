import type { Field } from '#core/filter/fields'
import { FARTHEST_KM, type Op, type SPANS, type Test, type UNITS } from '#core/filter/filter'
import type { useDistance } from '~/composables/distance'

type Distance = ReturnType<typeof useDistance>

export const GROUPS: Record<Field['group'], string> = {
  person: 'Person',
  company: 'Company',
  touches: 'Touches',
  cadences: 'Cadences',
  deals: 'Deals',
  lists: 'Lists',
}
export const OP_NAMES: Record<Op, string> = {
  set: 'is set',
  unset: 'is not set',
  yes: 'is yes',
  no: 'is no',
  is: 'is',
  isNot: 'is not',
  contains: 'contains',
  containsNot: 'does not contain',
  startsWith: 'starts with',
  anyOf: 'is any of',
  noneOf: 'is none of',
  hasAny: 'has any of',
  hasAll: 'has all of',
  hasNone: 'has none of',
  exactly: 'is exactly',
  equals: 'is',
  differs: 'is not',
  atLeast: 'is at least',
  atMost: 'is at most',
  moreThan: 'is more than',
  lessThan: 'is less than',
  between: 'is between',
  moreAgo: 'is more than … ago',
  inLast: 'is in the last …',
  inNext: 'is in the next …',
  moreAhead: 'is more than … ahead',
  during: 'is in',
  before: 'is before',
  after: 'is after',
  on: 'is on',
  near: 'is within … of',
  far: 'is more than … from',
  inside: 'is inside an area',
  notInside: 'is not inside an area',
}

/** What a field of a kind is asked first. */
export const FIRST_OPS: Record<Field['kind'], Op> = {
  text: 'contains',
  choice: 'anyOf',
  several: 'hasAny',
  number: 'atLeast',
  moment: 'moreAgo',
  yesNo: 'yes',
  place: 'near',
}
export const DAYS = ['today', 'monday', 'tuesday', 'wednesday', 'thursday', 'friday', 'saturday', 'sunday']

/** Everything a condition can ask for; its test takes what belongs to it. */
export function blankForm(distance: Distance) {
  return {
    text: '',
    values: [] as string[],
    number: 1,
    from: 1,
    to: 5,
    amount: 2,
    unit: 'days' as (typeof UNITS)[number],
    span: 'this week' as (typeof SPANS)[number],
    day: 'today',
    orNever: false,
    distance: distance.usual,
    name: '',
    at: null as [number, number] | null,
    area: [] as [number, number][],
  }
}
export type ConditionForm = ReturnType<typeof blankForm>

const isDistance = (shown: number, distance: Distance) => {
  const { km } = distance.test(shown)
  return km >= 0.1 && km <= FARTHEST_KM
}
const isAmount = (amount: number) => Number.isInteger(amount) && amount >= 1 && amount <= 10_000
/** What is asked of a field as a test; null while something is missing or out of range. */
export function testOf(op: Op, given: ConditionForm, distance: Distance): Test | null {
  const { text, number, from, to, amount, unit, span, orNever } = given
  switch (op) {
    case 'set':
    case 'unset':
    case 'yes':
    case 'no':
      return { op }
    case 'is':
    case 'isNot':
    case 'contains':
    case 'containsNot':
    case 'startsWith':
      return text.trim() ? { op, text: text.trim() } : null
    case 'anyOf':
    case 'noneOf':
    case 'hasAny':
    case 'hasAll':
    case 'hasNone':
    case 'exactly':
      return given.values.length ? { op, values: given.values } : null
    case 'equals':
    case 'differs':
    case 'atLeast':
    case 'atMost':
    case 'moreThan':
    case 'lessThan':
      return Number.isFinite(number) ? { op, number } : null
    case 'between':
      return Number.isFinite(from) && Number.isFinite(to) && from <= to ? { op, from, to } : null
    case 'moreAgo':
      return isAmount(amount) ? { op, amount, unit, ...(orNever && { orNever }) } : null
    case 'before':
      return given.day ? { op, day: given.day as 'today', ...(orNever && { orNever }) } : null
    case 'inLast':
    case 'inNext':
    case 'moreAhead':
      return isAmount(amount) ? { op, amount, unit } : null
    case 'during':
      return { op, span }
    case 'near':
    case 'far':
      return given.at && isDistance(given.distance, distance)
        ? { op, ...distance.test(given.distance), name: given.name, at: given.at }
        : null
    case 'inside':
    case 'notInside':
      return given.area.length ? { op, area: given.area } : null
    default:
      return given.day ? { op, day: given.day as 'today' } : null
  }
}
