import { describe, expect, it } from 'vitest'
import { erlangB, erlangC, erlangWait, loadAtLoss } from '../../../core/stats/erlang'

describe('Erlang’s formulas', () => {
  it('lose as much as the tables say: erlangs at a loss, for so many lines', () => {
    // Erlang B tables of the trade (ITU-D, Teletraffic Engineering Handbook, appendix), from memory.
    const table: [servers: number, share: number, load: number][] = [
      [1, 0.01, 0.0101],
      [5, 0.01, 1.361],
      [10, 0.01, 4.461],
      [20, 0.01, 12.03],
      [10, 0.02, 5.084],
      [30, 0.02, 21.93],
      [10, 0.03, 5.529],
      [100, 0.01, 84.06],
    ]
    for (const [servers, share, load] of table) {
      expect(loadAtLoss(servers, share) / load).toBeCloseTo(1, 3)
      expect(erlangB(servers, load)).toBeCloseTo(share, 4)
    }
  })

  it('are what follows by hand for few servers', () => {
    expect(erlangB(1, 1)).toBe(0.5)
    // (2²/2) / (1 + 2 + 2²/2)
    expect(erlangB(2, 2)).toBeCloseTo(0.4, 12)
    // A single server waits as long as it is busy (M/M/1); two at load 1: one in three (M/M/2).
    expect(erlangC(1, 0.7)).toBeCloseTo(0.7, 12)
    expect(erlangC(2, 1)).toBeCloseTo(1 / 3, 12)
    expect(erlangWait(1, 0.5, 60)).toBeCloseTo(60, 9)
    expect(erlangC(3, 3)).toBe(1)
    expect(erlangWait(3, 3, 60)).toBe(Infinity)
    expect(erlangB(0, 4)).toBe(1)
  })

  it('are those of the sums they stand for', () => {
    for (const [servers, load] of [
      [4, 2.5],
      [12, 9],
      [25, 30],
    ] as const) {
      let term = 1
      let sum = 1
      for (let n = 1; n <= servers; n++) sum += term *= load / n
      expect(erlangB(servers, load)).toBeCloseTo(term / sum, 12)
      if (load >= servers) continue
      const waits = (term * servers) / (servers - load)
      expect(erlangC(servers, load)).toBeCloseTo(waits / (sum - term + waits), 12)
    }
  })
})
