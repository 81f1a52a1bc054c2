import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { DAY } from '../../../core/instant'
import {
  daysOf,
  dueAtOf,
  inWords,
  soonDays,
  goalStatus,
  strictest,
  type TouchInterval,
} from '../../../core/queue/touchGoal'

const NOW = Date.UTC(2026, 10, 23, 15, 42)
const days = (amount: number): TouchInterval => ({ amount, unit: 'days' })
const touchGoal = (everyDays: number, daysAgo: number | null, addedDaysAgo = 100) => ({
  listId: 'list',
  every: days(everyDays),
  lastAt: daysAgo === null ? null : NOW - daysAgo * DAY,
  addedAt: NOW - addedDaysAgo * DAY,
})

const intervals = fc.record({
  amount: fc.integer({ min: 1, max: 400 }),
  unit: fc.constantFrom('days' as const, 'weeks' as const, 'months' as const),
})

describe('a touch goal', () => {
  it.each([
    [10, 11, 'overdue'],
    [10, 10, 'due_soon'],
    [10, 8, 'due_soon'],
    [10, 7.9, 'on_track'],
    [3, 2, 'due_soon'],
    [3, 1.9, 'on_track'],
    [180, 144, 'due_soon'],
    [180, 143, 'on_track'],
  ] as const)('of every %d days, last met %d days ago, is %s', (every, ago, status) => {
    expect(goalStatus(touchGoal(every, ago), NOW)).toBe(status)
  })
  it('counts from when a prospect was added, where there was no touch yet', () => {
    expect(goalStatus(touchGoal(10, null, 11), NOW)).toBe('overdue')
    expect(goalStatus(touchGoal(10, null, 1), NOW)).toBe('on_track')
  })
  it('is soon due for a part of its days, never for all of them', () => {
    fc.assert(
      fc.property(intervals, (every) => {
        expect(soonDays(every)).toBeGreaterThanOrEqual(1)
        expect(soonDays(every)).toBeLessThan(Math.max(2, daysOf(every)))
      }),
    )
  })
  // How the months fall was worked out by hand on a calendar.
  it.each([
    ['2026-01-31T10:00Z', { amount: 1, unit: 'months' }, '2026-02-28T10:00Z'],
    ['2028-01-31T10:00Z', { amount: 1, unit: 'months' }, '2028-02-29T10:00Z'],
    ['2026-11-30T10:00Z', { amount: 3, unit: 'months' }, '2027-02-28T10:00Z'],
    ['2026-08-15T23:59Z', { amount: 6, unit: 'months' }, '2027-02-15T23:59Z'],
    ['2026-02-28T10:00Z', { amount: 12, unit: 'months' }, '2027-02-28T10:00Z'],
    ['2026-02-20T10:00Z', { amount: 2, unit: 'weeks' }, '2026-03-06T10:00Z'],
    // The clocks go forward in between; days are as long as ever.
    ['2026-03-07T18:00Z', { amount: 2, unit: 'days' }, '2026-03-09T18:00Z'],
  ] as const)('met on %s, of every %j, falls due on %s', (last, every, due) => {
    expect(new Date(dueAtOf({ listId: 'list', every, lastAt: Date.parse(last), addedAt: 0 })).toISOString()).toBe(
      new Date(due).toISOString(),
    )
  })
  it('is said as it was made', () => {
    expect(
      (
        [
          [1, 'days'],
          [10, 'days'],
          [2, 'weeks'],
          [1, 'months'],
          [6, 'months'],
        ] as const
      ).map(([amount, unit]) => inWords({ amount, unit })),
    ).toEqual(['every day', 'every 10 days', 'every 2 weeks', 'every month', 'every 6 months'])
  })
  it('falls due later, the longer it is, and never before it was counted from', () => {
    fc.assert(
      fc.property(intervals, fc.integer({ min: NOW - 900 * DAY, max: NOW }), (every, lastAt) => {
        const due = (interval: TouchInterval) => dueAtOf({ listId: 'list', every: interval, lastAt, addedAt: 0 })
        expect(due(every)).toBeGreaterThan(lastAt)
        expect(due({ ...every, amount: every.amount + 1 })).toBeGreaterThan(due(every))
      }),
    )
  })
  it('of several is the one that falls due first, whatever their order', () => {
    const some = fc.array(
      fc.record({
        listId: fc.uuid(),
        every: intervals,
        lastAt: fc.option(fc.integer({ min: NOW - 400 * DAY, max: NOW })),
        addedAt: fc.constant(NOW - 500 * DAY),
      }),
      { minLength: 1 },
    )
    fc.assert(
      fc.property(some, (touchGoals) => {
        const due = dueAtOf(strictest(touchGoals)!)
        expect(due).toBe(Math.min(...touchGoals.map(dueAtOf)))
        expect(dueAtOf(strictest([...touchGoals].reverse())!)).toBe(due)
      }),
    )
    expect(strictest([])).toBeNull()
  })
})
