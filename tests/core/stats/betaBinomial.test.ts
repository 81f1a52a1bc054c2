import fc from 'fast-check'
import jstat from 'jstat'
import { describe, expect, it } from 'vitest'
import { betaOf, chanceBelow, fitPrior, fitStrength, learn, meanOf, quantile } from '../../../core/stats/betaBinomial'
import { seeded } from '../../../demo/seeded'

/** jStat (npm package jstat) is the reference for the beta distribution. */
const reference = jstat.beta

describe('a share of which something is known', () => {
  it('lies below a bound as often as the reference says, and its interval is the reference’s', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0.3, max: 400, noNaN: true }),
        fc.double({ min: 0.3, max: 400, noNaN: true }),
        fc.double({ min: 0.001, max: 0.999, noNaN: true }),
        (alpha, beta, x) => {
          expect(chanceBelow(x, { alpha, beta })).toBeCloseTo(reference.cdf(x, alpha, beta), 6)
          for (const chance of [0.025, 0.5, 0.975]) {
            const found = quantile(chance, { alpha, beta })
            expect(chanceBelow(found, { alpha, beta })).toBeCloseTo(chance, 4)
            expect(found).toBeCloseTo(reference.inv(chance, alpha, beta), 4)
          }
        },
      ),
      { numRuns: 200 },
    )
  })
  it('is, after tries, that of the conjugate prior', () => {
    // From a uniform prior, 7 of 10: Beta(8, 4), by the rule of succession 8 in 12.
    const known = learn({ alpha: 1, beta: 1 }, { count: 7, all: 10 })
    expect(known).toEqual({ alpha: 8, beta: 4 })
    expect(meanOf(known)).toBeCloseTo(8 / 12, 12)
  })
})

/** So many groups of tries, whose shares are drawn from a beta distribution by the reference. */
function drawn(alpha: number, beta: number, groups: number, all: number, seed: number) {
  const random = seeded(seed)
  return Array.from({ length: groups }, () => {
    const share = reference.inv(random(), alpha, beta)
    const count = Array.from({ length: all }, () => Number(random() < share)).reduce((sum, one) => sum + one, 0)
    return { count, all, share }
  })
}

describe('the prior of many groups', () => {
  it.each([
    [6, 14],
    [20, 80],
    [2, 3],
  ])('is found again from groups drawn from Beta(%i, %i)', (alpha, beta) => {
    const prior = fitPrior(drawn(alpha, beta, 3_000, 40, 5))!
    expect(meanOf(prior)).toBeCloseTo(alpha / (alpha + beta), 1)
    expect((prior.alpha + prior.beta) / (alpha + beta)).toBeGreaterThan(0.8)
    expect((prior.alpha + prior.beta) / (alpha + beta)).toBeLessThan(1.25)
  })
  it('takes groups that differ by chance alone for alike', () => {
    const alike = fitPrior(drawn(3_000, 7_000, 200, 50, 11))!
    expect(alike.alpha + alike.beta).toBeGreaterThan(200)
    expect(fitPrior([])).toBeNull()
    expect(fitPrior([{ count: 0, all: 0 }])).toBeNull()
    // Never and always are no certainties.
    expect(meanOf(fitPrior([{ count: 0, all: 5 }])!)).toBeGreaterThan(0)
    expect(meanOf(fitPrior([{ count: 5, all: 5 }])!)).toBeLessThan(1)
  })
  it('estimates the shares of the groups better than each group’s own tries do', () => {
    const groups = drawn(6, 14, 400, 12, 3)
    const prior = fitPrior(groups)!
    const error = (estimate: (one: (typeof groups)[number]) => number) =>
      groups.reduce((sum, one) => sum + (estimate(one) - one.share) ** 2, 0)
    expect(error((one) => meanOf(learn(prior, one)))).toBeLessThan(0.6 * error(({ count, all }) => count / all))
  })
  it('has the strength with which groups keep to what is expected of each', () => {
    const random = seeded(17)
    const groups = Array.from({ length: 2_000 }, (_, at) => {
      const expected = at % 2 ? 0.2 : 0.5
      const { alpha, beta } = betaOf(expected, 25)
      const share = reference.inv(random(), alpha, beta)
      const count = Array.from({ length: 30 }, () => Number(random() < share)).reduce((sum, one) => sum + one, 0)
      return { count, all: 30, expected }
    })
    expect(fitStrength(groups, 1) / 25).toBeGreaterThan(0.8)
    expect(fitStrength(groups, 1) / 25).toBeLessThan(1.25)
    expect(fitStrength(groups.slice(0, 0), 30)).toBe(30)
  })
})
