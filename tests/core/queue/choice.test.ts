import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { bySort, CHANNEL_OF, isChosen, type ChosenWork } from '../../../core/queue/choice'
import { QUEUE_CHANNELS, QUEUE_SORTS, TASK_KINDS, valuesOf, type QueueSort } from '../../../core/enumerations'
import { isCallable } from '../../../core/calendar/callingHours'
import { HOUR, MINUTE } from '../../../core/instant'
import { NOW as MONDAY } from '../../fixtures/engineStates'

const hours = { days: [1, 2, 3, 4, 5], from: 8 * 60, to: 18 * 60 }
const zones = ['America/New_York', 'America/Chicago', 'America/Los_Angeles', 'Europe/London', 'Asia/Tokyo']
const work = fc.record<ChosenWork>({
  kind: fc.constantFrom(...valuesOf(TASK_KINDS)),
  dueAt: fc.integer({ min: -48, max: 12 }).map((half) => MONDAY + half * 30 * MINUTE),
  cadenceId: fc.constantFrom(null, 'one', 'other'),
  score: fc.integer({ min: 0, max: 40 }),
  chance: fc.double({ min: 0, max: 1, noNaN: true }),
  keepsHours: fc.boolean(),
  timeZone: fc.constantFrom(...zones),
  country: fc.constant(null),
  region: fc.constant(null),
})

/** What each order goes by, the highest first. */
const KEYS: Record<Exclude<QueueSort, 'closing'>, (one: ChosenWork) => number> = {
  recommended: () => 0,
  due: () => 0,
  score: ({ score }) => score,
  likely: ({ keepsHours, chance }) => (keepsHours ? chance! : -1),
}

describe('what a rep chooses of the queue', () => {
  it('keeps only what every part of the choice fits', () => {
    fc.assert(
      fc.property(
        work,
        fc.option(fc.constantFrom(...valuesOf(QUEUE_CHANNELS)), { nil: undefined }),
        fc.option(fc.constantFrom('one', 'other'), { nil: undefined }),
        fc.option(fc.constantFrom(...zones), { nil: undefined }),
        (one, channel, cadenceId, timeZone) => {
          const fits =
            (!channel || CHANNEL_OF[one.kind] === channel) &&
            (!cadenceId || one.cadenceId === cadenceId) &&
            (!timeZone || one.timeZone === timeZone)
          expect(isChosen({ channel, cadenceId, timeZone, sort: 'due' }, one, hours, {})).toBe(fits)
        },
      ),
    )
  })
  it('takes of a stretch what is due by its end and can be done in it, as the ridge draws it', () => {
    fc.assert(
      fc.property(work, fc.nat(20), fc.integer({ min: 1, max: 8 }), (one, start, slots) => {
        const from = MONDAY + (start - 10) * 30 * MINUTE
        const to = from + slots * 30 * MINUTE
        const expected = Array.from({ length: slots }, (_, slot) => from + slot * 30 * MINUTE).some(
          (at) => one.dueAt < at + 30 * MINUTE && (!one.keepsHours || isCallable(at, hours, one, {})),
        )
        expect(isChosen({ from, to, sort: 'due' }, one, hours, {})).toBe(expected)
      }),
    )
  })
  it('is in an order for each way of sorting: a total one, ties by what was due first', () => {
    fc.assert(
      fc.property(fc.array(work, { maxLength: 30 }), fc.constantFrom(...valuesOf(QUEUE_SORTS)), (all, sort) => {
        const sorted = [...all].sort(bySort(sort, MONDAY, hours, {}))
        for (const [index, one] of sorted.slice(1).entries()) {
          const before = sorted[index]!
          if (sort === 'closing') continue
          const key = KEYS[sort]
          expect(key(before)).toBeGreaterThanOrEqual(key(one))
          if (key(before) === key(one)) expect(before.dueAt).toBeLessThanOrEqual(one.dueAt)
        }
      }),
    )
  })
  it('calls first whose day ends first, and leaves what needs no call for later', () => {
    const base = { kind: 'call' as const, cadenceId: null, score: 0, country: null, region: null, dueAt: MONDAY }
    const one = (timeZone: string, keepsHours = true) => ({ ...base, timeZone, keepsHours })
    const noon = MONDAY + 4 * HOUR
    const all = [one('America/Los_Angeles'), one('America/Chicago', false), one('America/New_York')]
    expect(all.sort(bySort('closing', noon, hours, {})).map(({ timeZone }) => timeZone)).toEqual([
      'America/New_York',
      'America/Los_Angeles',
      'America/Chicago',
    ])
  })
})
