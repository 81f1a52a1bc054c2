import fc from 'fast-check'
import { DateTime } from 'luxon'
import { describe, expect, it } from 'vitest'
import { DEFAULT_ENTRY, entrySchema, type EntryRules } from '../../../core/cadence/entry'
import { DEFAULT_EXITS, exitsInWords } from '../../../core/cadence/exits'
import { allotIntake, type Starter } from '../../../core/cadence/intake'
import { isBusinessDay, localDay } from '../../../core/calendar/local'
import { breadthOfEvent } from '../../../core/engine/breadth'
import type { EngineState } from '../../../core/engine/state/engineState'
import { world } from '../../fixtures/eventWorld'
import { NOW, playbook, state } from '../../fixtures/engineStates'

const DAY = 86_400_000
const withEntry = (entry: Partial<EntryRules>) => {
  const book = playbook()
  const calls = { ...book.cadences.calls!, entry: { ...DEFAULT_ENTRY, ...entry } }
  return { ...book, cadences: { ...book.cadences, calls } }
}
function enter(entry: Partial<EntryRules>, given: Partial<EngineState> = {}, who = 'ann') {
  const one = world(withEntry(entry))
  one.put(given)
  return one.happen({ kind: 'enrolled', prospectId: who, cadenceId: 'calls' } as never).problems
}

describe('who may enter a cadence', () => {
  const leftAt = (days: number) => ({
    entries: { ...state().entries, ann: { leftAt: { calls: NOW - days * DAY }, colleagues: [] } },
  })
  it('once, or again some days after they left', () => {
    expect(enter({ again: 'never' })).toEqual([])
    expect(enter({ again: 'never' }, leftAt(500))).toEqual(['Was in this cadence before'])
    expect(enter({ again: 90 }, leftAt(89.5))).toEqual(['Was in this cadence: may enter again in 1 day'])
    expect(enter({ again: 90 }, leftAt(90))).toEqual([])
    expect(enter({}, leftAt(0))).toEqual([])
  })
  it('not while a colleague is in it, or in any; not even one who enters at the same time', () => {
    const entries = {
      ...state().entries,
      // A colleague whose rows were not read.
      ann: { leftAt: {}, colleagues: [{ prospectId: 'zoe', cadenceId: 'mixed' }] },
    }
    expect(enter({ colleagues: 'not_in_this' }, { entries })).toEqual([])
    expect(enter({ colleagues: 'not_in_any' }, { entries })).toEqual(['A colleague is in a cadence'])
    const one = world(withEntry({ colleagues: 'not_in_this' }))
    const starts = ['ann', 'ben', 'dee'].map(
      (prospectId) => one.happen({ kind: 'enrolled', prospectId, cadenceId: 'calls' } as never).problems,
    )
    expect(starts).toEqual([[], ['A colleague is in this cadence'], []])
  })
  it('only who fits a filter, as they are when they enter', () => {
    const where: EntryRules['where'] = { field: 'stage', test: { op: 'anyOf', values: ['new'] } }
    expect(enter({ where }, { facts: { ann: {} } })).toEqual([])
    const prospect = { ...state().prospect, ann: { ...state().prospect.ann!, stageId: 'talking' } }
    expect(enter({ where }, { facts: { ann: {} }, prospect })).toEqual([
      expect.stringMatching(/^Does not fit: stage is/),
    ])
  })
  it('from and until a day where the team is', () => {
    expect(enter({ from: '2026-11-23', until: '2026-11-23' })).toEqual([])
    expect(enter({ from: '2026-11-24' })).toEqual(['The cadence starts on November 24, 2026'])
    expect(enter({ until: '2026-11-22' })).toEqual(['The cadence took people until November 22, 2026'])
    expect(entrySchema.safeParse({ from: '2026-11-24', until: '2026-11-23' }).success).toBe(false)
    expect(entrySchema.safeParse({ from: '2026-02-30' }).success).toBe(false)
  })
  it('asks for what must be read, and nothing where it has no such rule', () => {
    const event = { kind: 'enrolled', cadenceId: 'calls' } as const
    expect(breadthOfEvent(event, withEntry({}))).toEqual({
      colleagues: false,
      records: false,
      filters: [],
      entries: false,
      turns: [],
    })
    expect(breadthOfEvent(event, withEntry({ colleagues: 'not_in_any' })).entries).toBe(true)
    const where: EntryRules['where'] = { field: 'score', test: { op: 'atLeast', number: 5 } }
    expect(breadthOfEvent(event, withEntry({ where }))).toMatchObject({ records: true, filters: [where] })
  })
})

describe('the exits of a cadence', () => {
  const inVaried = (who: string) => {
    const one = world()
    one.happen({ kind: 'enrolled', prospectId: who, cadenceId: 'varied' } as never)
    return one
  }
  it('are a stage that is reached and a deal that is opened, for the person or all at the company', () => {
    for (const event of [
      { kind: 'stageMoved', prospectId: 'ben', to: 'talking', reason: null, note: null, override: null },
      { kind: 'dealOpened', prospectId: 'ben', dealId: 'd', deal: { name: 'Loggers', likelihood: 15 }, another: false },
    ]) {
      const one = world({
        ...playbook(),
        cadences: {
          ...playbook().cadences,
          varied: {
            ...playbook().cadences.varied!,
            entry: DEFAULT_ENTRY,
            exits: { ...DEFAULT_EXITS, deal: 'company', stages: { ids: ['talking'], scope: 'company' } },
          },
        },
      })
      for (const prospectId of ['ann', 'ben', 'dee']) {
        one.happen({ kind: 'enrolled', prospectId, cadenceId: 'varied' } as never)
      }
      one.happen(event as never)
      const exit = event.kind === 'stageMoved' ? 'stage_reached' : 'deal_opened'
      expect(one.enrollment('ben')).toMatchObject({ status: 'ended', exit })
      expect(one.enrollment('ann')).toMatchObject({ status: 'ended', exit })
      expect(one.enrollment('dee').status).toBe('waiting')
    }
  })
  it('leave who comes to another stage, and end nothing twice', () => {
    const one = inVaried('ann')
    one.happen({
      kind: 'stageMoved',
      prospectId: 'ann',
      to: 'attempting',
      reason: null,
      note: null,
      override: null,
    } as never)
    expect(one.enrollment('ann').status).toBe('waiting')
  })
  it('are a bounce only where the cadence says so, and that no address is left', () => {
    const one = inVaried('ann')
    one.happen({ kind: 'addressStatusSet', prospectId: 'ann', emailAddressId: 'ann@', to: 'bounced' } as never)
    expect(one.enrollment('ann')).toMatchObject({ status: 'ended', exit: 'no_address' })
  })
})

describe('a cadence of which only so many start a day', () => {
  const TIME_ZONE = 'America/New_York'
  const OHIO = { timeZone: TIME_ZONE, country: 'US', region: 'OH' }
  const HOLIDAYS = { US: { '2026-11-26': 'Thanksgiving Day' } }
  const starters = (count: number, dueAt = NOW): Starter[] =>
    Array.from({ length: count }, (_, index) => ({ id: `s${index}`, dueAt, place: OHIO }))
  const days = (given: ReturnType<typeof allotIntake>) => [...given.values()].map(({ day }) => day)
  it('fills its days in order, over a holiday and a weekend, at the time of day they were due', () => {
    const given = allotIntake(starters(9), 2, new Map([['2026-11-23', 1]]), TIME_ZONE, HOLIDAYS)
    expect(days(given)).toEqual([
      '2026-11-23',
      '2026-11-24',
      '2026-11-24',
      '2026-11-25',
      '2026-11-25',
      '2026-11-27',
      '2026-11-27',
      '2026-11-30',
      '2026-11-30',
    ])
    const last = DateTime.fromMillis(given.get('s8')!.at, { zone: TIME_ZONE })
    expect(last.toFormat('HH:mm')).toBe('10:42')
  })
  it('never starts more than that on a day, nobody before their own, and everyone on a business day there', () => {
    fc.assert(
      fc.property(
        fc.array(
          fc.record({
            hours: fc.nat(400),
            zone: fc.constantFrom('America/New_York', 'Europe/Berlin', 'Pacific/Auckland'),
          }),
          { maxLength: 60 },
        ),
        fc.integer({ min: 1, max: 5 }),
        (people, perDay) => {
          const all = people.map(({ hours, zone }, index) => ({
            id: `p${index}`,
            dueAt: NOW + hours * 3_600_000,
            place: { timeZone: zone, country: 'US', region: null },
          }))
          const given = allotIntake(all, perDay, new Map(), TIME_ZONE, HOLIDAYS)
          const counts = new Map<string, number>()
          for (const { id, dueAt, place } of all) {
            const { at, day } = given.get(id)!
            expect(at).toBeGreaterThanOrEqual(dueAt)
            expect(day).toBe(localDay(at, TIME_ZONE))
            expect(isBusinessDay(localDay(at, place.timeZone), place, HOLIDAYS)).toBe(true)
            counts.set(day, (counts.get(day) ?? 0) + 1)
          }
          expect(Math.max(0, ...counts.values())).toBeLessThanOrEqual(perDay)
        },
      ),
    )
  })
})

describe('exits in words', () => {
  it('name each reason with its number, the most first', () => {
    expect(exitsInWords({ replied: 8, colleague_booked: 3, unreached: 1_062 })).toBe(
      'unreached 1,062, replied 8, a colleague booked 3',
    )
    expect(exitsInWords({})).toBe('')
    expect(exitsInWords({ replied: 8, colleague_booked: 3, unreached: 9, finished: 1 }, 2)).toBe(
      'unreached 9, replied 8, other 4',
    )
  })
})
