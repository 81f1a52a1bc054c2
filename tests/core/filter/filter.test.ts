import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { fieldsOf } from '../../../core/filter/fields'
import {
  conditionsOf,
  filterSchema,
  MOST_CONDITIONS,
  MOST_GROUPS,
  normalize,
  withoutEmptyGroups,
  type Filter,
} from '../../../core/filter/filter'
import { matches, type Facts } from '../../../core/filter/matches'
import { boundsOf } from '../../../core/filter/moments'
import { problemsOf } from '../../../core/filter/problems'
import { forReading, parse, print, SentenceError } from '../../../core/filter/sentence'
import { CircularLists, toSql } from '../../../core/filter/sql'
import { emptyParts } from '../../../core/filter/sqlTranslation'
import { filters, WORLD } from '../../fixtures/filters'

const fields = fieldsOf(WORLD)
const byKey = new Map(fields.map((field) => [field.key, field]))
const NOW = Date.UTC(2026, 10, 23, 15, 42)
const view = { now: NOW, timeZone: 'America/New_York', me: 'rep' }
const holds = (sentence: string, facts: Facts) => matches(parse(sentence, fields), facts, byKey, view)
const HOUR = 3_600_000
const DAY = 24 * HOUR

describe('the fields', () => {
  it('have names that are all different, custom fields included', () => {
    expect(new Set(fields.map((field) => field.label)).size).toBe(fields.length)
    expect(byKey.get('custom:f2')!.label).toBe('custom field name')
    expect(byKey.get('company:custom:f3')!.label).toBe('company humidity rh')
  })
})

describe('a sentence', () => {
  it('is read back as the filter it was written from', () => {
    fc.assert(
      fc.property(filters(fields), (filter) => {
        expect(parse(print(filter, byKey), fields)).toEqual(normalize(filter))
      }),
      { numRuns: 3000 },
    )
  })
  it('is read as people write it', () => {
    const stage = { field: 'stage', test: { op: 'anyOf', values: [WORLD.stages[1]!.id] } }
    expect(parse('Stage IS attempting', fields)).toEqual({ all: [stage] })
    expect(parse('stage is Attempting and last call is more than 2 days ago', fields)).toEqual({
      all: [stage, { field: 'lastCall', test: { op: 'moreAgo', amount: 2, unit: 'days' } }],
    })
    expect(parse('tags has any of VIP, "and" and not (city is "Bergen")', fields)).toEqual({
      all: [
        { field: 'tags', test: { op: 'hasAny', values: [WORLD.tags[0]!.id, WORLD.tags[2]!.id] } },
        { none: [{ field: 'city', test: { op: 'is', text: 'Bergen' } }] },
      ],
    })
    expect(parse('last email was never or attempts is between 1 and 3', fields)).toEqual({
      all: [
        {
          any: [
            { field: 'lastEmail', test: { op: 'unset' } },
            { field: 'attempts', test: { op: 'between', from: 1, to: 3 } },
          ],
        },
      ],
    })
    const never = { field: 'lastCall', test: { op: 'moreAgo', amount: 2, unit: 'days', orNever: true } }
    expect(parse('last call is more than 2 days ago or never or stage is Attempting', fields)).toEqual({
      all: [{ any: [never, stage] }],
    })
    expect(parse('last call is more than 2 days ago or never reached is yes', fields)).toEqual({
      all: [
        {
          any: [
            { field: 'lastCall', test: { op: 'moreAgo', amount: 2, unit: 'days' } },
            { field: 'neverReached', test: { op: 'yes' } },
          ],
        },
      ],
    })
    expect(parse('not (last call is more than 2 days ago or never)', fields)).toEqual({ all: [{ none: [never] }] })
    expect(parse('added is before next monday', fields)).toEqual({
      all: [{ field: 'createdAt', test: { op: 'before', day: 'monday' } }],
    })
    expect(parse('  ', fields)).toEqual({ all: [] })
  })
  it.each([
    ['stage is Gone', 'has no value', 9],
    ['stag is New', 'No field has this name', 0],
    ['stage is New and', 'No field has this name', 16],
    ['stage is New or stage is New and stage is New', 'Put brackets', 29],
    ['last call is soon', 'When?', 13],
    ['last call is more than 2 days', 'ago', 29],
    ['attempts is many', 'Expected a number', 12],
    ['city is Bergen', 'between quotes', 8],
    ['city is "Bergen', 'between quotes', 8],
    ['(stage is New', 'Expected ")"', 13],
    ['stage is New stage is New', 'Expected "and"', 13],
    ['attempts is 1e99', 'Expected a number', 16],
    ['lists is exactly Cold', 'cannot be asked that way', 0],
    ['last call is in the last 0 days', 'whole number', 27],
  ])('that is wrong says where: %s', (sentence, message, at) => {
    const failing = () => parse(sentence, fields)
    expect(failing).toThrow(SentenceError)
    try {
      failing()
    } catch (error) {
      expect((error as Error).message).toContain(message)
      expect((error as SentenceError).at).toBe(at)
    }
  })
  it('"or never" takes in who was never called', () => {
    const finds = (sentence: string, lastCall: number | null) =>
      matches(parse(sentence, fields), { lastCall }, new Map(fields.map((field) => [field.key, field])), {
        now: 10 * 86_400_000,
        timeZone: 'UTC',
        me: null,
      })
    for (const [days, plain, orNever] of [
      [1, true, true],
      [9, false, false],
      [null, false, true],
    ] as const) {
      const at = days === null ? null : days * 86_400_000
      expect([
        finds('last call is more than 2 days ago', at),
        finds('last call is more than 2 days ago or never', at),
      ]).toEqual([plain, orNever])
    }
  })
  it('of a distance may be in miles: one is 1,609.344 m (the international mile of 1959)', () => {
    const near = (words: string) => parse(`place is within ${words} of "Ithaca" (42.44 -76.5)`, fields)
    expect(near('30 miles')).toMatchObject({ all: [{ test: { op: 'near', km: 48.28032, miles: true } }] })
    expect(print(near('1 mile'), byKey)).toBe('place is within 1 mile of "Ithaca" (42.44 -76.5)')
    expect(print(near('12.5 miles'), byKey)).toContain('within 12.5 miles of')
    expect(near('50 km')).toMatchObject({ all: [{ test: { km: 50 } }] })
    expect(() => near('20000 miles')).toThrow('Expected 0.1 to')
    expect(() => near('50 leagues')).toThrow('Expected "km" or "miles"')
  })
  it('for eyes alone leaves out quotes and positions', () => {
    expect(forReading('place is within 50 km of "Ithaca, NY" (42.44 -76.5) and city is "a ""b"" (1 2)"')).toBe(
      'place is within 50 km of Ithaca, NY and city is a "b" (1 2)',
    )
    expect(forReading('place is not inside (1 2, -3.5 4, 5e-7 6) or stage is "New"')).toBe(
      'place is not inside the drawn area or stage is New',
    )
  })
  it('of a megabyte, or of endless brackets, is refused at once', () => {
    expect(() => parse('x'.repeat(1_000_000), fields)).toThrow(/too long/)
    expect(() => parse('('.repeat(40_000), fields)).toThrow(/too many brackets/)
  })
})

describe('a filter that crosses the wire', () => {
  it('comes through as it is', () => {
    fc.assert(
      fc.property(filters(fields), (filter) => {
        expect(filterSchema.parse(JSON.parse(JSON.stringify(filter)))).toEqual(filter)
      }),
    )
  })
  it.each<[string, unknown]>([
    ['nothing', null],
    ['a text', 'stage is New'],
    ['an empty thing', {}],
    ['a group that is no list', { all: {} }],
    ['two groups at once', { all: [], any: [] }],
    ['a field without a question', { field: 'stage' }],
    ['a question that lacks its value', { field: 'stage', test: { op: 'is' } }],
    ['an unknown question', { field: 'stage', test: { op: 'drop table' } }],
    ['blank text', { field: 'city', test: { op: 'is', text: '   ' } }],
    ['a nonsense day', { field: 'createdAt', test: { op: 'on', day: 'some day' } }],
    ['a day no calendar has', { field: 'createdAt', test: { op: 'on', day: '2026-02-30' } }],
    ['a boundless number', { field: 'attempts', test: { op: 'equals', number: 1e300 } }],
    ['too many groups', { any: Array.from({ length: MOST_GROUPS + 1 }, () => ({ all: [] })) }],
    [
      'too many conditions',
      { all: Array.from({ length: MOST_CONDITIONS + 1 }, () => ({ field: 'city', test: { op: 'set' } })) },
    ],
    ['too many levels', Array.from({ length: 20 }).reduce<unknown>((inner) => ({ all: [inner] }), { all: [] })],
  ])('is refused where it is none: %s', (_what, given) => {
    expect(filterSchema.safeParse(given).success).toBe(false)
  })
  it('says what can no longer be asked', () => {
    const asked = (filter: Filter) => problemsOf(filter, byKey)
    expect(asked({ field: 'custom:gone', test: { op: 'set' } })[0]).toContain('field that is gone')
    expect(asked({ field: 'tags', test: { op: 'hasAny', values: ['gone'] } })[0]).toContain('no longer has a value')
    expect(asked({ field: 'attempts', test: { op: 'is', text: 'many' } })[0]).toContain('cannot be asked that way')
    expect(asked({ field: 'attempts', test: { op: 'between', from: 3, to: 1 } })[0]).toContain('which nothing does')
    expect(asked(parse('stage is New and attempts is at least 1', fields))).toEqual([])
  })
})

describe('the meaning', () => {
  it('of missing values is never unknown', () => {
    expect(holds('city is not "Bergen"', {})).toBe(true)
    expect(holds('city does not contain "Berg"', {})).toBe(true)
    expect(holds('tags has none of VIP', {})).toBe(true)
    expect(holds('attempts is not 3', { attempts: null })).toBe(true)
    expect(holds('attempts is less than 3', { attempts: null })).toBe(false)
    expect(holds('last call is more than 2 days ago', { lastCall: null })).toBe(false)
    expect(holds('last call is never', {})).toBe(true)
    expect(holds('do not call is no', {})).toBe(true)
  })
  it('of a condition and of its opposite never overlap and leave nobody out', () => {
    fc.assert(
      fc.property(
        filters(fields),
        fc.dictionary(
          fc.constantFrom(...fields.map((field) => field.key)),
          fc.oneof(fc.string(), fc.integer({ min: 0, max: 9 }), fc.boolean(), fc.constant(null)),
        ),
        (filter, facts) => {
          expect(matches({ none: [filter] }, facts, byKey, view)).toBe(!matches(filter, facts, byKey, view))
        },
      ),
    )
  })
  it('is kept by the plainest form', () => {
    fc.assert(
      fc.property(
        filters(fields),
        fc.dictionary(
          fc.constantFrom(...fields.map((field) => field.key)),
          fc.oneof(fc.string(), fc.integer({ min: 0, max: 9 }), fc.constant(null)),
        ),
        (filter, facts) => {
          expect(matches(normalize(filter), facts, byKey, view)).toBe(matches(filter, facts, byKey, view))
        },
      ),
    )
  })
  it('is kept, and so is every condition, where groups without any are left away', () => {
    expect(withoutEmptyGroups({ all: [{ field: 'city', test: { op: 'set' } }, { any: [{ none: [] }] }] })).toEqual({
      all: [{ field: 'city', test: { op: 'set' } }],
    })
    expect(withoutEmptyGroups({ any: [] })).toEqual({ all: [] })
    fc.assert(
      fc.property(filters(fields), (filter) => {
        expect(conditionsOf(withoutEmptyGroups(filter))).toEqual(conditionsOf(filter))
      }),
    )
  })
  it.each([
    ['country is "Canada"', 'CA', true],
    ['country is "CAN"', 'CA', true],
    ['country is "ca"', 'CA', true],
    ['country is "USA"', 'US', true],
    ['country contains "anad"', 'CA', true],
    ['country starts with "Unit"', 'US', true],
    ['country is "Can"', 'CA', true],
    ['country is not "Canada"', 'CA', false],
    ['country does not contain "Canada"', 'US', true],
    ['country is "Canada"', 'US', false],
    ['country is "Canada"', null, false],
    ['country is not "Canada"', null, true],
  ] as const)('of a country is asked by name or code: %s of %s is %s', (sentence, country, holding) => {
    expect(holds(sentence, { country })).toBe(holding)
    expect(holds(sentence.replace('country', 'company country'), { companyCountry: country })).toBe(holding)
  })
  it.each([
    ['region is "Vermont"', 'VT', true],
    ['region is "VT"', 'VT', true],
    ['region contains "mont"', 'MT', true],
    ['region starts with "New"', 'NY', true],
    ['region is not "Ontario"', 'ON', false],
    ['region is "Vermont"', 'NY', false],
    ['region is "Bavaria"', 'Bavaria', true],
  ] as const)('of a region too: %s of %s is %s', (sentence, region, holding) => {
    expect(holds(sentence, { region })).toBe(holding)
  })
  it('of owner is me follows the viewer', () => {
    const mine = parse('owner is me', fields)
    expect(matches(mine, { owner: 'rep' }, byKey, view)).toBe(true)
    expect(matches(mine, { owner: 'rep' }, byKey, { ...view, me: 'other' })).toBe(false)
    expect(matches(mine, { owner: null }, byKey, { ...view, me: null })).toBe(false)
  })
})

describe('moments', () => {
  const bounds = (sentence: string) => {
    const {
      all: [condition],
    } = parse(sentence, fields) as { all: { test: Parameters<typeof boundsOf>[0] }[] }
    return boundsOf(condition!.test, NOW, 'America/New_York')
  }
  const at = (month: number, day: number, hour = 0) => Date.UTC(2026, month - 1, day, hour)
  it('are counted from now, days by the calendar', () => {
    expect(bounds('last call is more than 2 hours ago')).toEqual({ from: null, to: NOW - 2 * HOUR })
    expect(bounds('last call is in the last 7 days')).toEqual({ from: NOW - 7 * DAY, to: NOW + 1 })
    // The clocks went back on 1 November 2026 in New York: three weeks and two days ago was an hour further than it
    // looks.
    expect(bounds('last call is more than 23 days ago')).toEqual({ from: null, to: NOW - 23 * DAY - HOUR })
  })
  it('have weeks from Monday (ISO 8601) and days in the team’s zone', () => {
    expect(bounds('last call is this week')).toEqual({ from: at(11, 23, 5), to: at(11, 30, 5) })
    expect(bounds('last call is yesterday')).toEqual({ from: at(11, 22, 5), to: at(11, 23, 5) })
    expect(bounds('last call is last month')).toEqual({ from: at(10, 1, 4), to: at(11, 1, 4) })
    expect(bounds('last call is before next monday')).toEqual({ from: null, to: at(11, 30, 5) })
    expect(bounds('last call is on next sunday')).toEqual({ from: at(11, 29, 5), to: at(11, 30, 5) })
    expect(bounds('last call is after 2026-11-01')).toEqual({ from: at(11, 2, 5), to: null })
    expect(bounds('last call is on 2026-11-01')).toEqual({ from: at(11, 1, 4), to: at(11, 2, 5) })
  })
})

describe('lists made of lists', () => {
  it('are refused where they go round in a circle, and followed where they do not', () => {
    const lists = new Map<string, { kind: 'live'; filter: Filter } | { kind: 'fixed' }>([
      ['a', { kind: 'live', filter: { field: 'lists', test: { op: 'hasAny', values: ['b'] } } }],
      ['b', { kind: 'live', filter: { field: 'lists', test: { op: 'hasNone', values: ['c', 'd'] } } }],
      ['c', { kind: 'fixed' }],
    ])
    const sql = (filter: Filter) => {
      const values: unknown[] = []
      return toSql(filter, { ...view, ...emptyParts(values), fields: byKey, lists })
    }
    const inA: Filter = { field: 'lists', test: { op: 'hasAny', values: ['a'] } }
    expect(sql(inA)).toContain('list_members')
    lists.set('d', { kind: 'live', filter: inA })
    expect(() => sql(inA)).toThrow(CircularLists)
  })
})

describe('fields of the team whose names are words of the language', () => {
  const names = ['Not interested', 'Everyone', 'Email is', 'Yes and no', 'City', 'said "no"', 'None of (these)']
  const own = fieldsOf({
    ...WORLD,
    custom: names.map((name, index) => ({
      id: `0000000${index}-0000-4000-8000-000000000000`,
      of: 'prospect',
      name,
      kind: 'text',
      choices: [],
    })),
  } as never)
  const ownByKey = new Map(own.map((field) => [field.key, field]))
  it.each(names)('“%s” is printed and read back, alone and beside others', (name) => {
    const field = own.find((one) => one.key === `custom:0000000${names.indexOf(name)}-0000-4000-8000-000000000000`)!
    for (const test of [{ op: 'is', text: 'x' }, { op: 'set' }, { op: 'isNot', text: 'is "y"' }] as const) {
      const filter = {
        all: [
          { field: 'city', test: { op: 'set' } },
          { field: field.key, test },
          { field: 'email', test: { op: 'set' } },
        ],
      } as Filter
      expect(parse(print(filter, ownByKey), own)).toEqual(filter)
    }
  })
  it('leave custom fields as they are', () => {
    expect(parse('email is "a@x.example"', own)).toEqual({
      all: [{ field: 'email', test: { op: 'is', text: 'a@x.example' } }],
    })
  })
})
