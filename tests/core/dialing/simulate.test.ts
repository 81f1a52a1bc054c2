import { describe, expect, it } from 'vitest'
import { MOST_ABANDONED } from '../../../core/dialing/pacing'
import { simulateLines, type SimulatedDay } from '../../../core/dialing/simulate'
import { shareOf } from '../../../core/stats/share'
import { seeded } from '../../../demo/seeded'

const TIMES = { talk: 60, wrapUp: 15, answerFrom: 4, answerTo: 18, unanswered: 25 }
const run = (given: Partial<SimulatedDay>, seed = 11) =>
  simulateLines({ callers: 10, perCaller: 3, answerRate: 0.1, until: 2_500, times: TIMES, ...given }, seeded(seed))

describe('several lines, simulated', () => {
  it('never lose a call with one line for each caller, and are as busy as one reckons', () => {
    const { abandoned, answered, dialed, talkPerHour } = run({ perCaller: 1 })
    expect(abandoned).toBe(0)
    expect(answered / dialed).toBeCloseTo(0.1, 1)
    // By hand: nine calls of 25 s and one of 11 s for each answer, then 75 s with it: 60 of 311 seconds are talk.
    expect(talkPerHour / ((60 * 60) / (9 * 25 + 11 + 75))).toBeCloseTo(1, 1)
  })

  it('keep the upper bound of the abandoned share under 3 % at every answer rate, for few callers and for many', () => {
    for (const callers of [1, 3, 10]) {
      for (const answerRate of [0.05, 0.15, 0.4]) {
        const { abandoned, answered, worst } = run({ callers, answerRate })
        expect(shareOf(abandoned, answered)!.high).toBeLessThan(MOST_ABANDONED)
        expect(worst).toBeLessThanOrEqual(MOST_ABANDONED)
      }
    }
  })

  it('bring 1.8 times the talk of one line to callers who share a block', () => {
    for (const answerRate of [0.05, 0.1, 0.15]) {
      const gain = run({ answerRate }).talkPerHour / run({ answerRate, perCaller: 1 }).talkPerHour
      expect(gain).toBeGreaterThan(1.75)
    }
  })
})
