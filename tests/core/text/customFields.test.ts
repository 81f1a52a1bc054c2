import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { CustomFieldKind } from '../../../core/enumerations'
import { missingRequirements, unreachableStages, type Stage } from '../../../core/stage/gate'
import { guessKind, readCustomValue } from '../../../core/text/customValue'
import { isStorable } from '../../../core/text/names'
import {
  merge,
  customMergeNames,
  customMergeValues,
  renameInTemplate,
  templateFaults,
  type CustomMergeField,
} from '../../../core/text/merge'

const STORES = ['cheese', 'cider', 'seeds']

describe('a value for a custom field', () => {
  it.each<[CustomFieldKind, unknown, unknown]>([
    ['text', '  two rooms ', 'two rooms'],
    ['text', '   ', null],
    ['number', '12.5', 12.5],
    ['number', '-3', -3],
    ['number', '1,250', 1250],
    ['number', 0, 0],
    ['money', '1,234,567.891', 1_234_567.89],
    ['date', '2028-02-29', '2028-02-29'],
    ['yesNo', 'Yes', true],
    ['yesNo', '0', false],
    ['yesNo', false, false],
    ['choice', 'CIDER', 'cider'],
    ['choices', 'seeds; Cheese', ['cheese', 'seeds']],
    ['choices', ['cider', 'cider'], ['cider']],
    ['choices', [], null],
    ['choices', ' ; ', null],
    ['link', 'https://cellar.example/a?b=1', 'https://cellar.example/a?b=1'],
    ['link', '', null],
    ['date', null, null],
  ])('of the kind %s is read: %j', (kind, given, expected) =>
    expect(readCustomValue(given, kind, STORES)).toEqual({ value: expected }),
  )
  it.each<[CustomFieldKind, unknown]>([
    ['text', 7],
    ['text', 'x'.repeat(2_001)],
    ['text', 'a\0b'],
    ['text', '\ud800'],
    ['number', 'twelve'],
    ['number', '1e400'],
    ['number', '1,2'],
    ['number', Number.NaN],
    ['number', 1e13],
    ['money', 'about €5'],
    ['date', '2026-02-29'],
    ['date', '2026-13-01'],
    ['date', '30.02.2028'],
    ['date', '0000-01-01'],
    ['yesNo', 'maybe'],
    ['choice', 'milk'],
    ['choices', 'cheese; milk'],
    ['link', 'javascript:alert(1)'],
    ['link', 'cellar.example'],
    ['link', 'https://nodot'],
  ])('of the kind %s is refused in words: %j', (kind, given) => {
    const read = readCustomValue(given, kind, STORES)
    expect(read).toHaveProperty('error')
    expect((read as { error: string }).error).not.toBe('')
  })
  it('that was read once is read the same again, and anything at all is either kept or refused', () => {
    const kinds = fc.constantFrom<CustomFieldKind>(
      'text',
      'number',
      'money',
      'date',
      'yesNo',
      'choice',
      'choices',
      'link',
    )
    fc.assert(
      fc.property(
        kinds,
        fc.oneof(
          fc.jsonValue(),
          fc.constantFrom(...STORES, 'yes', '2026-11-23', 'https://a.example', '1,000', ['cheese', 'SEEDS']),
        ),
        (kind, given) => {
          const read = readCustomValue(given, kind, STORES)
          if ('value' in read) expect(readCustomValue(read.value, kind, STORES)).toEqual(read)
          else expect(read.error).toMatch(/^(Expected|Longer|Contains)/)
        },
      ),
    )
  })
})

describe('custom fields in templates', () => {
  const field = (
    id: string,
    name: string,
    kind: CustomFieldKind = 'text',
    of: CustomMergeField['of'] = 'prospect',
  ): CustomMergeField => ({ id, of, name, kind })
  it('go by plain names, none by another’s or a usual one', () => {
    const names = customMergeNames([
      field('1', 'Aging rooms'),
      field('2', 'aging   Rooms!'),
      field('3', 'Company'),
      field('4', 'Stores', 'choices', 'company'),
      field('5', 'Größe'),
      field('6', '2nd site'),
      field('7', '温度'),
      field('8', 'title'),
    ])
    expect([...names.keys()]).toEqual([
      'aging_rooms',
      'aging_rooms_2',
      'company_2',
      'company_stores',
      'gro_e',
      'field_2nd_site',
      'field_7',
      'title_2',
    ])
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.string({ minLength: 1 }), fc.constantFrom('prospect' as const, 'company' as const)), {
          maxLength: 12,
        }),
        (given) => {
          const made = customMergeNames(given.map(([name, of], index) => field(`f${index}`, name, 'text', of)))
          expect(made.size).toBe(given.length)
          for (const name of made.keys()) expect(templateFaults(`{{ ${name} }}`, made)).toEqual([])
        },
      ),
    )
  })
  it('are said as people say them, and left out where there is nothing', () => {
    const names = customMergeNames([
      field('n', 'Rooms', 'number'),
      field('m', 'Budget', 'money'),
      field('d', 'Audit', 'date'),
      field('y', 'Paper', 'yesNo'),
      field('c', 'Stores', 'choices', 'company'),
      field('e', 'Empty'),
    ])
    expect(
      customMergeValues(names, { n: 1_234.5, m: 1_200.5, d: '2026-11-23', y: false }, { c: ['cheese', 'cider'] }),
    ).toEqual({
      rooms: '1,234.5',
      budget: '1,200.50',
      audit: 'November 23, 2026',
      paper: 'no',
      company_stores: 'cheese, cider',
    })
    expect(customMergeValues(names, {}, null)).toEqual({})
  })
  it('that have no value are reported as missing, unless the template has a fallback', () => {
    expect(merge('Your {{ rooms }} rooms', { rooms: '3' })).toEqual({ text: 'Your 3 rooms', missing: [], error: null })
    expect(merge('Your {{ rooms }} rooms, {{ rooms | default: "many" }}', {})).toMatchObject({ missing: ['rooms'] })
    expect(merge('Your {{ rooms | default: "cold" }} rooms', {})).toEqual({
      text: 'Your cold rooms',
      missing: [],
      error: null,
    })
    expect(templateFaults('Line one\n{{ nobody }}', new Map())).toEqual([
      { line: 2, message: 'There is no field "nobody"' },
    ])
    expect(templateFaults('{% include "other" %}')).toHaveLength(1)
  })
  it('can be renamed wherever they stand, and nothing else is', () => {
    expect(
      renameInTemplate(
        'rooms {{ rooms }} {{rooms|default:"rooms"}} {% if rooms %}{{ bedrooms }}{% endif %}',
        'rooms',
        'aging_rooms',
      ),
    ).toBe('rooms {{ aging_rooms }} {{aging_rooms|default:"rooms"}} {% if aging_rooms %}{{ bedrooms }}{% endif %}')
  })
})

describe('a gate', () => {
  const stage = (gate: Stage['gate']): Stage => ({ id: 's', name: 'Unreached', kind: 'paused', position: 0, gate })
  const facts = {
    stageId: 'attempting',
    attempts: 2,
    reached: false,
    reason: ' ',
    note: null,
    fields: { email: 'a@b.example', phone: '', 'custom:paper': false, 'custom:rooms': 0 },
  }
  const own = { 'custom:paper': 'Paper charts', 'custom:rooms': 'Rooms', 'custom:until': 'Contract until' }
  it('lets through where nothing is demanded, or all that is', () => {
    expect(missingRequirements(stage({}), facts)).toEqual([])
    expect(
      missingRequirements(stage({ attempts: 2, fields: ['email', 'custom:paper', 'custom:rooms'] }), facts, own),
    ).toEqual([])
  })
  it('says everything that lacks, each in a sentence', () => {
    expect(
      missingRequirements(
        stage({ attempts: 3, reason: true, note: true, fields: ['phone', 'title', 'custom:until'] }),
        facts,
        own,
      ).map(({ field, message }) => `${field}: ${message}`),
    ).toEqual([
      'stage: Unreached requires 3 attempts or a conversation; 2 so far',
      'reason: Unreached requires a reason',
      'note: Unreached requires a note',
      'fields.phone: Unreached requires “phone”',
      'fields.title: Unreached requires “job title”',
      'fields.custom:until: Unreached requires “Contract until”',
    ])
  })
  it('limits where one can come from, to stages that are there', () => {
    const stages = {
      lost: { ...stage({}), id: 'lost', name: 'Lost' },
      attempting: { ...stage({}), name: 'Attempting' },
    }
    const from = (...ids: string[]) => missingRequirements(stage({ from: ids }), facts, own, stages)
    expect([from(), from('attempting', 'lost'), from('removed')]).toEqual([[], [], []])
    expect(from('lost', 'removed')).toEqual([
      { field: 'stage', message: 'Unreached can be reached only from “Lost”, not from “Attempting”' },
    ])
  })
  it('that no allowed move leads to is found', () => {
    const one = (id: string, position: number, from: string[] = [], rest: object = {}) =>
      ({ ...stage({ from }), id, position, kind: 'open' as const, ...rest }) satisfies Stage
    const unreachable = (...stages: Stage[]) => [...unreachableStages(stages)]
    expect(unreachable(one('new', 0), one('b', 1, ['new']), one('c', 2, ['b', 'd']))).toEqual([])
    // Two that lead to each other alone, and one behind them.
    expect(unreachable(one('new', 0), one('b', 1, ['c']), one('c', 2, ['b']), one('d', 3, ['c']))).toEqual([
      'b',
      'c',
      'd',
    ])
    // What is archived leads nowhere, and limits nothing.
    expect(unreachable(one('new', 0), one('b', 1, ['old']), one('old', 2, [], { archived: true }))).toEqual([])
    // New prospects begin in the first open stage, whatever stands before it.
    expect(unreachable(one('lost', 0, ['new'], { kind: 'closed' }), one('new', 1, ['lost']))).toEqual([])
  })
  it('takes a conversation for the attempts', () => {
    expect(missingRequirements(stage({ attempts: 3 }), { ...facts, reached: true })).toEqual([])
  })
  it('does not demand a field that is gone', () =>
    expect(missingRequirements(stage({ fields: ['custom:removed'] }), facts, own)).toEqual([]))
  it('that is open stays open, the more is known', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 5 }),
        fc.boolean(),
        fc.subarray(['email', 'title', 'phone']),
        fc.integer({ min: 0, max: 5 }),
        (attempts, reason, fields, made) => {
          const gate = stage({ attempts, reason, fields })
          const known = {
            stageId: 'attempting',
            attempts: made,
            reached: false,
            reason: 'timing',
            note: 'n',
            fields: { email: 'e', title: 't', phone: 'p' },
          }
          expect(missingRequirements(gate, known).length).toBeLessThanOrEqual(
            missingRequirements(gate, { ...known, attempts: Math.max(0, made - 1), reason: null, fields: {} }).length,
          )
          expect(missingRequirements(gate, known)).toHaveLength(made < attempts ? 1 : 0)
        },
      ),
    )
  })
})

describe('the kind of a field that a column’s values fit', () => {
  it.each([
    [['Yes', 'no', ''], 'yesNo'],
    [['12/31/2026', '1/5/2027'], 'date'],
    [['12', '1,250', '3.5'], 'number'],
    [['$1,250', '12'], 'money'],
    [['https://cellar.example/a', 'http://b.example'], 'link'],
    [['12', 'about five'], 'text'],
    [['1', '0', '1'], 'number'],
    [['', ' '], 'text'],
    [[], 'text'],
  ] as const)('of %j is %s', (samples, kind) => expect(guessKind(samples)).toBe(kind))
  it('is one that takes every sample', () =>
    fc.assert(
      fc.property(fc.array(fc.string()), (samples) => {
        const kind = guessKind(samples)
        return samples
          .filter((sample) => isStorable(sample) && sample.length < 2_000)
          .every((sample) => 'value' in readCustomValue(sample.trim(), kind, []))
      }),
    ))
})
