import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  AIMED_ABANDONED,
  MOST_ABANDONED,
  answerRateOf,
  callsToGiveUp,
  linesToDial,
  type LineState,
} from '../../../core/dialing/pacing'
import { lineTable } from '../../../core/dialing/lineTable'

const state = (given: Partial<LineState>): LineState => ({
  free: 1,
  ringing: 0,
  perCaller: 3,
  answerRate: 0.1,
  counted: { answered: 0, abandoned: 0 },
  ...given,
})
const states = fc.record({
  free: fc.integer({ min: 0, max: 12 }),
  ringing: fc.integer({ min: 0, max: 30 }),
  perCaller: fc.integer({ min: 1, max: 3 }),
  answerRate: fc.double({ min: 0.01, max: 0.9, noNaN: true }),
  counted: fc
    .tuple(fc.integer({ min: 0, max: 4_000 }), fc.double({ min: 0, max: 0.05, noNaN: true }))
    .map(([answered, share]) => ({ answered, abandoned: Math.floor(answered * share) })),
})

describe('how many lines are dialed', () => {
  it('is one for each caller who waits at least, and no more than were asked for', () => {
    fc.assert(
      fc.property(states, (given) => {
        const count = linesToDial(given)
        expect(count).toBeGreaterThanOrEqual(Math.max(0, given.free - given.ringing))
        expect(count).toBeLessThanOrEqual(Math.max(0, given.free * given.perCaller - given.ringing))
      }),
    )
  })

  it('falls as more were abandoned or ring, and never falls as more callers wait', () => {
    fc.assert(
      fc.property(states, (given) => {
        const { answered, abandoned } = given.counted
        const worse = { ...given, counted: { answered, abandoned: Math.min(answered, abandoned + 1) } }
        expect(linesToDial(worse)).toBeLessThanOrEqual(linesToDial(given))
        expect(linesToDial({ ...given, ringing: given.ringing + 1 })).toBeLessThanOrEqual(linesToDial(given))
        expect(linesToDial({ ...given, free: given.free + 1 })).toBeGreaterThanOrEqual(linesToDial(given))
      }),
    )
  })

  it('is one line for one caller at first: a second answer would be half of all', () => {
    expect(linesToDial(state({}))).toBe(1)
    expect(linesToDial(state({ perCaller: 2, answerRate: 0.3 }))).toBe(1)
    // Once there is room for one to be abandoned: (0 + 0.01) of (60 + 0.2) is less than what is aimed at.
    expect(linesToDial(state({ perCaller: 2, counted: { answered: 60, abandoned: 0 } }))).toBe(2)
    // One more would be the third of a hundred: more than the rule allows.
    expect(linesToDial(state({ perCaller: 2, answerRate: 0.3, counted: { answered: 90, abandoned: 2 } }))).toBe(1)
  })

  it('is three for each of ten callers who wait together: hardly ever do more than ten of thirty answer', () => {
    expect(linesToDial(state({ free: 10 }))).toBe(30)
    expect(linesToDial(state({ free: 10, ringing: 12 }))).toBe(18)
    expect(linesToDial(state({ free: 0, ringing: 3 }))).toBe(0)
  })

  it('goes back to one for each where the campaign is over what is aimed at', () => {
    const counted = { answered: 1_000, abandoned: 29 }
    expect(AIMED_ABANDONED).toBeLessThan(MOST_ABANDONED)
    expect(linesToDial(state({ free: 3, perCaller: 3, counted }))).toBe(3)
  })
})

describe('a call that rings', () => {
  it('is given up when nobody waits any more, not before 15 seconds (16 CFR 310.4(b)(4)(ii))', () => {
    const ringing = [{ startedAt: 0 }, { startedAt: 5_000 }, { startedAt: 5_001 }]
    expect(callsToGiveUp(ringing, 0, 20_000)).toEqual(ringing.slice(0, 2))
    expect(callsToGiveUp(ringing, 1, 20_000)).toEqual([])
  })
})

describe('the answer rate', () => {
  it('begins at what is usual, and is the campaign’s own once there are calls', () => {
    expect(answerRateOf({ dialed: 0, answered: 0 })).toBeCloseTo(0.15)
    expect(answerRateOf({ dialed: 2_000, answered: 100 })).toBeCloseTo(0.051, 3)
  })
})

describe('what lines would do without looking who is free', () => {
  it('is Erlang’s: five callers with 75 seconds for each answer', () => {
    const facts = { callers: 5, answerRate: 0.1, callSeconds: 25, handleSeconds: 75 }
    const [one, , three] = lineTable(facts)
    // 5 lines, an answer every 50 s: 1.5 erlangs on 5 callers. By hand: 1.5^5/5! over the sum of 1.5^n/n!.
    expect(one).toMatchObject({ perCaller: 1, lines: 5, answersPerHour: 72 })
    expect(one!.noCaller).toBeCloseTo(0.01418, 4)
    // 15 lines bring 4.5 erlangs: 15.377 of 63.276, so that a quarter would find nobody.
    expect(three!.noCaller).toBeCloseTo(0.24302, 4)
    expect(three!.waitSeconds).toBeGreaterThan(one!.waitSeconds!)
    expect(lineTable({ ...facts, answerRate: 0.4 })[2]!.waitSeconds).toBeNull()
  })
})
