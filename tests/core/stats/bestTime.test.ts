import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { seeded } from '../../../demo/seeded'
import {
  bestHours,
  chanceIn,
  chancesFor,
  chanceShown,
  HOURS_OF_WEEK,
  learnBestTimes,
  type HourCalls,
  type LearnedCalls,
} from '../../../core/stats/bestTime'
import { meanOf } from '../../../core/stats/betaBinomial'

const TUESDAY_10 = { weekday: 2, hour: 10 }
const OFFICE = HOURS_OF_WEEK.filter(({ weekday, hour }) => weekday <= 5 && hour >= 8 && hour < 18)

/** So many calls an hour to companies of a kind, who answer with a chance of their own. */
function calls(
  industry: string | null,
  each: number,
  chance: (weekday: number, hour: number) => number,
  seed: number,
): LearnedCalls[] {
  const random = seeded(seed)
  return OFFICE.map(({ weekday, hour }) => ({
    industry,
    weekday,
    hour,
    all: each,
    count: Array.from({ length: each }, () => Number(random() < chance(weekday, hour))).reduce(
      (sum, one) => sum + one,
      0,
    ),
  }))
}
/** Dairies answer before ten, museums after three in the afternoon. */
const DAIRIES = calls('dairy', 60, (_, hour) => (hour < 10 ? 0.5 : 0.15), 1)
const MUSEUMS = calls('museum', 60, (_, hour) => (hour >= 15 ? 0.5 : 0.15), 2)

describe('the best time to call', () => {
  it('is not known before the first call', () => {
    expect(learnBestTimes([])).toBeNull()
  })
  it('is learned by hour and kind of company, whatever the order of the calls', () => {
    const model = learnBestTimes([...DAIRIES, ...MUSEUMS])!
    const hoursOf = (industry: string) => bestHours(chancesFor(model, industry, []), 10).map(({ hour }) => hour)
    expect(hoursOf('dairy').every((hour) => hour < 10)).toBe(true)
    expect(hoursOf('museum').every((hour) => hour >= 15 && hour < 18)).toBe(true)
    // A kind that was never called has the hours of the team.
    expect(chancesFor(model, 'brewery', [])).toEqual(chancesFor(model, null, []))
    const turned = learnBestTimes([...MUSEUMS, ...DAIRIES].reverse())!
    expect(chanceIn(turned, 'dairy', [], TUESDAY_10)).toBeCloseTo(chanceIn(model, 'dairy', [], TUESDAY_10), 10)
    expect(model.team).toEqual({ count: sumOf([...DAIRIES, ...MUSEUMS]), all: 6_000 })
    expect(model.kinds.get('dairy')!.all).toBe(3_000)
  })
  it('stands out nowhere where all hours are alike', () => {
    const model = learnBestTimes(calls(null, 80, () => 0.25, 4))!
    const open = chancesFor(model, null, []).filter(({ weekday, hour }) => weekday <= 5 && hour >= 8 && hour < 18)
    expect(bestHours(open, 3)).toEqual([])
  })
  it('keeps to the team where someone was called little, and follows their own calls the more there are', () => {
    const model = learnBestTimes([...DAIRIES, ...MUSEUMS])!
    const usual = chanceIn(model, 'dairy', [], TUESDAY_10)
    const own = (count: number, all: number): HourCalls[] => [{ ...TUESDAY_10, count, all }]
    const once = chanceIn(model, 'dairy', own(1, 1), TUESDAY_10)
    const often = chanceIn(model, 'dairy', own(9, 10), TUESDAY_10)
    expect(once).toBeGreaterThan(usual)
    expect(often).toBeGreaterThan(once)
    expect(often).toBeLessThan(0.9)
    expect(chanceIn(model, 'dairy', own(0, 6), TUESDAY_10)).toBeLessThan(usual)
    // Few calls of their own leave the hours that are good for such companies, or show others.
    const open = (calls: readonly HourCalls[]) =>
      chancesFor(model, 'dairy', calls).filter(({ weekday, hour }) => weekday <= 5 && hour >= 8 && hour < 18)
    expect(bestHours(open(own(0, 2)), 3, open([])).every(({ hour }) => hour < 10)).toBe(true)
    expect(bestHours(open(own(0, 2)), 3, open([]))).toHaveLength(3)
    // The hour of the day counts on any weekday, more than another hour.
    const thursday = { weekday: 4, hour: 10 }
    const rise = (hour: typeof thursday) =>
      chanceIn(model, 'dairy', own(6, 6), hour) / chanceIn(model, 'dairy', [], hour)
    expect(rise(thursday)).toBeGreaterThan(rise({ weekday: 4, hour: 13 }))
  })
  it('is always a chance within its interval, from any calls', () => {
    const some = fc.array(
      fc
        .record({
          industry: fc.constantFrom('dairy', 'museum', null),
          weekday: fc.integer({ min: 1, max: 7 }),
          hour: fc.integer({ min: 0, max: 23 }),
          all: fc.integer({ min: 1, max: 50 }),
          part: fc.double({ min: 0, max: 1, noNaN: true }),
        })
        .map(({ part, ...one }) => ({ ...one, count: Math.round(one.all * part) })),
      { minLength: 1, maxLength: 40 },
    )
    fc.assert(
      fc.property(some, some, (team, own) => {
        const model = learnBestTimes(team)!
        for (const industry of ['dairy', null]) {
          const chances = chancesFor(model, industry, own)
          expect(chances).toHaveLength(168)
          for (const one of chances.filter((_, at) => at % 17 === 0)) {
            const { chance, low, high } = chanceShown(one)
            expect(low).toBeGreaterThanOrEqual(0)
            expect(high).toBeLessThanOrEqual(1)
            expect(low).toBeLessThanOrEqual(high)
            expect(chance).toBeGreaterThan(0)
            expect(chance).toBeLessThan(1)
            expect(chanceIn(model, industry, own, one)).toBeCloseTo(meanOf(one.known), 10)
          }
        }
      }),
      { numRuns: 60 },
    )
  })
})

const sumOf = (all: readonly LearnedCalls[]): number => all.reduce((sum, { count }) => sum + count, 0)
