import { describe, expect, it } from 'vitest'
import {
  adviceOn,
  emptyLoad,
  fittingPerDay,
  loadOf,
  type RepLoad,
  type Travelers,
} from '../../../core/cadence/forecast'
import { NOW, playbook } from '../../fixtures/engineStates'

const TIME_ZONE = 'America/New_York'
const PLACE = { timeZone: TIME_ZONE, country: 'US', region: 'OH' }
const WHERE = { teamHours: { days: [1, 2, 3, 4, 5], from: 480, to: 1080 }, holidays: {}, senders: playbook() }
/** Monday, November 23 to Friday, December 4. */
const DAYS = [23, 24, 25, 26, 27, 30].map((day) => `2026-11-${day}`).concat(['2026-12-01', '2026-12-02'])
const book = playbook()
const [mixed, forked] = [book.cadences.mixed!, book.cadences.forked!]
const travelers = (given: Partial<Travelers> = {}): Travelers => ({
  ownerId: 'rep',
  place: PLACE,
  cadence: mixed,
  stepId: 'mixed-0',
  at: NOW,
  count: 1,
  ...given,
})

describe('the work that people on their way bring', () => {
  it('is every step of theirs on its day, for their owner', () => {
    // Email now, call two hours later, task on Tuesday, call on Wednesday.
    const load = loadOf([travelers({ count: 30 })], DAYS, WHERE, TIME_ZONE).get('rep')!
    expect(load.emails).toEqual([30, 0, 0, 0, 0, 0, 0, 0])
    expect(load.calls).toEqual([30, 0, 30, 0, 0, 0, 0, 0])
    expect(load.tasks).toEqual([0, 30, 0, 0, 0, 0, 0, 0])
    expect(load.texts).toEqual([0, 0, 0, 0, 0, 0, 0, 0])
  })
  it('counts what is overdue today, a weekend’s for the next working day, and nothing beyond the last', () => {
    const overdue = loadOf([travelers({ stepId: 'mixed-3', at: NOW - 9 * 86_400_000 })], DAYS, WHERE, TIME_ZONE)
    expect(overdue.get('rep')!.calls[0]).toBe(1)
    // Friday evening: calling hours open again on Monday.
    const friday = Date.UTC(2026, 10, 28, 1)
    expect(loadOf([travelers({ stepId: 'mixed-3', at: friday })], DAYS, WHERE, TIME_ZONE).get('rep')!.calls[5]).toBe(1)
    const late = loadOf([travelers({ at: NOW + 40 * 86_400_000 })], DAYS, WHERE, TIME_ZONE).get('rep')!
    expect(late).toEqual(emptyLoad(DAYS.length))
  })
  it('goes the way for everyone else at a branch, and is counted for each owner', () => {
    const loads = loadOf(
      [
        travelers({ cadence: forked, stepId: 'forked-0' }),
        travelers({ ownerId: 'other', stepId: 'mixed-2', count: 4 }),
      ],
      DAYS,
      WHERE,
      TIME_ZONE,
    )
    // An email, a day's wait at the branch, a call one business day later.
    expect(loads.get('rep')).toMatchObject({ emails: [1, 0, 0, 0, 0, 0, 0, 0], calls: [0, 0, 1, 0, 0, 0, 0, 0] })
    expect(loads.get('other')!.tasks[0]).toBe(4)
  })
})

describe('the advice before a launch', () => {
  const rep = (id: string, running: number[], added: number[]): RepLoad => ({
    id,
    name: id,
    capacity: { calls: 60, emails: 400 },
    running: { ...emptyLoad(3), calls: running },
    added: { ...emptyLoad(3), calls: added },
  })
  const days = ['2026-11-23', '2026-11-24', '2026-11-25']
  it('names the day with the most calls above what fits, and how many a day would fit', () => {
    const reps = [rep('Imani', [20, 40, 10], [30, 90, 0]), rep('Theo', [10, 20, 10], [20, 40, 0])]
    expect(adviceOn(reps, days, () => 60)).toEqual({
      message: 'Tuesday, November 24: 190 calls for 2 reps, 120 fit: start 60 a day',
      perDay: 60,
    })
    const message = expect.stringMatching(/130 calls for Imani, 60 fit, even with one a day/)
    expect(adviceOn([reps[0]!], days, () => null)).toEqual({ message, perDay: null })
  })
  it('is silent where all fits, and on days that are too full without it', () => {
    expect(adviceOn([rep('Imani', [20, 40, 10], [30, 20, 0])], days, () => 1)).toBeNull()
    expect(adviceOn([rep('Imani', [70, 0, 0], [0, 10, 0])], days, () => 1)).toBeNull()
  })
  it('finds the most a day that fit', () => {
    const reps = [rep('Imani', [20, 20, 20], [0, 0, 0])]
    // Each day so many start, and those of the day before are called again.
    const added = (daily: number) => new Map([['Imani', { ...emptyLoad(3), calls: [daily, 2 * daily, 2 * daily] }]])
    expect(fittingPerDay(reps, added, 500)).toBe(20)
    expect(fittingPerDay(reps, added, 7)).toBe(7)
    expect(fittingPerDay([rep('Imani', [60, 60, 60], [0, 0, 0])], added, 500)).toBeNull()
  })
})
