import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { shareInWords, shareOf } from '../../../core/stats/share'

/** Newcombe, Statistics in Medicine 17 (1998) 857-872, table I, method 3 (score, without continuity correction). */
describe('a share with its interval', () => {
  it.each([
    [81, 263, 0.2553, 0.3662],
    [15, 148, 0.0624, 0.1605],
    [0, 20, 0, 0.1611],
    [1, 29, 0.0061, 0.1718],
  ])('is that of the paper for %i of %i', (count, all, low, high) => {
    const share = shareOf(count, all)!
    expect(share.low).toBeCloseTo(low, 4)
    expect(share.high).toBeCloseTo(high, 4)
  })
  it('holds the share, lies between 0 and 1, and is narrower the more there are', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 5_000 }), fc.double({ min: 0, max: 1, noNaN: true }), (all, part) => {
        const count = Math.round(all * part)
        const { share, low, high } = shareOf(count, all)!
        expect(low).toBeGreaterThanOrEqual(0)
        expect(high).toBeLessThanOrEqual(1)
        expect(low).toBeLessThanOrEqual(share + 1e-12)
        expect(high).toBeGreaterThanOrEqual(share - 1e-12)
        const more = shareOf(count * 10, all * 10)!
        expect(more.high - more.low).toBeLessThan(high - low)
      }),
    )
  })
  it('is nothing of nobody, and is said in words', () => {
    expect(shareOf(0, 0)).toBeNull()
    expect(shareInWords(shareOf(12, 40)!)).toBe('30% (18 to 45%)')
  })
})
