import fc from 'fast-check'
import type { Choice, Field, World } from '../../core/filter/fields'
import type { Condition, Filter, Test } from '../../core/filter/filter'
import { SPANS, UNITS } from '../../core/filter/filter'
import { opsOf } from '../../core/filter/problems'

const choices = (...names: string[]): Choice[] =>
  names.map((name, index) => ({ id: `id-${index}-${name.length}`, name }))

/** A team's world of choices, with names that are hard to tell apart or to write down. */
export const WORLD: World = {
  stages: choices('New', 'Attempting', 'Meeting set'),
  users: choices('Imani Osei', 'Joaquin "JP" Pell', 'joaquin "jp" pell'),
  sources: choices('Cheese fair', 'Bought, 2026'),
  tags: choices('VIP', '#1 fan', 'and', 'is any of "x", (y)', 'Größe'),
  outcomes: choices('No answer', 'Left voicemail'),
  cadences: choices('First contact', 'First contact again'),
  lists: choices('Cold; old', 'Cold'),
  imports: choices('fair.csv'),
  custom: [
    { id: 'f1', of: 'prospect', name: 'Barrels', kind: 'number', choices: [] },
    { id: 'f2', of: 'prospect', name: 'Name', kind: 'text', choices: [] },
    { id: 'f3', of: 'company', name: 'Humidity (RH %)', kind: 'choices', choices: ['low', 'high'] },
    { id: 'f4', of: 'prospect', name: 'Renewal', kind: 'date', choices: [] },
    { id: 'f5', of: 'prospect', name: 'Own cellar?', kind: 'yesNo', choices: [] },
    { id: 'f6', of: 'company', name: 'Grade', kind: 'choice', choices: ['a', 'b'] },
    { id: 'f7', of: 'deal', name: 'Rooms', kind: 'number', choices: [] },
    { id: 'f8', of: 'deal', name: 'Rivals', kind: 'choices', choices: ['none', 'many'] },
  ],
}

const phrase = fc
  .oneof(
    fc.constantFrom(
      'Germany',
      'fiji',
      'united',
      'New York',
      'cellar',
      'ÄRGER',
      'a "quoted" one',
      'x and y',
      '7',
      'van den',
      '%_\\',
    ),
    fc.string({ minLength: 1, maxLength: 12 }),
  )
  .map((text) => text.trim())
  .filter((text) => text.length > 0)
const figure = fc.oneof(
  fc.integer({ min: -5, max: 20 }),
  fc.integer({ min: -100, max: 100 }).map((number) => number / 8),
)

/** Around Ithaca; over the date line, told in two ways; two crossings of itself; Europe; a sliver. */
const AREAS: [number, number][][] = [
  [
    [-77.03, 42.07],
    [-76.01, 42.05],
    [-76.02, 43.04],
  ],
  [
    [176.03, -20.01],
    [-178.02, -20.02],
    [-178.01, -14.03],
    [176.04, -14.02],
  ],
  [
    [176.03, -20.01],
    [181.98, -20.02],
    [181.99, -14.03],
    [176.04, -14.02],
  ],
  [
    [-80.01, 40.03],
    [-70.02, 45.04],
    [-80.03, 45.01],
    [-70.04, 40.02],
  ],
  [
    [5.01, 48.02],
    [16.03, 47.04],
    [15.02, 54.01],
    [6.04, 54.03],
  ],
  [
    [13.001, 52.001],
    [13.002, 52.003],
    [13.003, 52.002],
  ],
]

function test(field: Field, day: fc.Arbitrary<string>): fc.Arbitrary<Test> {
  return fc.constantFrom(...opsOf(field)).chain((op): fc.Arbitrary<Test> => {
    switch (op) {
      case 'set':
      case 'unset':
      case 'yes':
      case 'no':
        return fc.constant({ op })
      case 'is':
      case 'isNot':
      case 'contains':
      case 'containsNot':
      case 'startsWith':
        return phrase.map((text) => ({ op, text }))
      case 'anyOf':
      case 'noneOf':
      case 'hasAny':
      case 'hasAll':
      case 'hasNone':
      case 'exactly':
        return fc
          .uniqueArray(field.choices?.length ? fc.constantFrom(...field.choices.map((choice) => choice.id)) : phrase, {
            minLength: 1,
            maxLength: 3,
          })
          .map((values) => ({ op, values }))
      case 'equals':
      case 'differs':
      case 'atLeast':
      case 'atMost':
      case 'moreThan':
      case 'lessThan':
        return figure.map((number) => ({ op, number }))
      case 'between':
        return fc.tuple(figure, figure).map(([from, to]) => ({ op, from: Math.min(from, to), to: Math.max(from, to) }))
      case 'moreAgo':
        return fc.record(
          {
            op: fc.constant(op),
            amount: fc.integer({ min: 1, max: 40 }),
            unit: fc.constantFrom(...UNITS),
            orNever: fc.constant(true as const),
          },
          { requiredKeys: ['op', 'amount', 'unit'] },
        )
      case 'before':
        return fc.record(
          { op: fc.constant(op), day, orNever: fc.constant(true as const) },
          { requiredKeys: ['op', 'day'] },
        ) as fc.Arbitrary<Test>
      case 'inLast':
      case 'inNext':
      case 'moreAhead':
        return fc.record({
          op: fc.constant(op),
          amount: fc.integer({ min: 1, max: 40 }),
          unit: fc.constantFrom(...UNITS),
        })
      case 'near':
      case 'far':
        return fc.record({
          op: fc.constant(op),
          km: fc.constantFrom(0.1, 3, 60, 475.5, 9000, 19_999),
          name: phrase,
          at: fc.constantFrom<[number, number]>(
            [-76.5, 42.44],
            [13.4, 52.52],
            [178.5, -18.1],
            [-179.9, -17],
            [0, 89.5],
            [-76.4, 42.4],
          ),
        })
      case 'inside':
      case 'notInside':
        return fc.constantFrom(...AREAS).map((area) => ({ op, area }))
      case 'during':
        return fc.constantFrom(...SPANS).map((span) => ({ op, span }))
      default:
        return day.map((given) => ({ op, day: given }) as Test)
    }
  })
}

/** Filters over the fields, some levels deep. Fields without any choice to choose are left out. */
export function filters(fields: readonly Field[]): fc.Arbitrary<Filter> {
  const day = fc.oneof(
    fc.constantFrom('today', 'monday', 'tuesday', 'sunday', '2026-11-01', '2026-11-22', '2024-02-29'),
  )
  const usable = fields.filter((field) => !field.choices || field.choices.length > 0)
  const condition: fc.Arbitrary<Condition> = fc
    .constantFrom(...usable)
    .chain((field) => test(field, day).map((asked) => ({ field: field.key, test: asked })))
  return fc.letrec<{ filter: Filter }>((tie) => ({
    filter: fc.oneof(
      { depthSize: 'small', withCrossShrink: true },
      condition,
      fc.array(tie('filter'), { maxLength: 3 }).map((all) => ({ all })),
      fc.array(tie('filter'), { maxLength: 3 }).map((any) => ({ any })),
      fc.array(tie('filter'), { maxLength: 3 }).map((none) => ({ none })),
    ),
  })).filter
}
