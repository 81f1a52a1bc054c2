import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { DAY } from '../../core/instant'
import { dueAtOf, soonDays, standingOf, strictest } from '../../core/queue/promise'

const NOW = Date.UTC(2026, 10, 23, 15, 42)
const promise = (everyDays: number, daysAgo: number | null, addedDaysAgo = 100) => ({ listId: 'list', everyDays, lastAt: daysAgo === null ? null : NOW - daysAgo * DAY, addedAt: NOW - addedDaysAgo * DAY })

describe('a promise of touches', () => {
  it.each([
    [10, 11, 'past'], [10, 10, 'soon'], [10, 8, 'soon'], [10, 7.9, 'within'], [3, 2, 'soon'], [3, 1.9, 'within'], [180, 144, 'soon'], [180, 143, 'within'],
  ] as const)('of every %d days, last kept %d days ago, is %s', (every, ago, standing) => {
    expect(standingOf(promise(every, ago), NOW)).toBe(standing)
  })
  it('counts from when somebody was added, where there was no touch yet', () => {
    expect(standingOf(promise(10, null, 11), NOW)).toBe('past')
    expect(standingOf(promise(10, null, 1), NOW)).toBe('within')
  })
  it('is soon due for a part of its days, never for all of them', () => {
    fc.assert(fc.property(fc.integer({ min: 2, max: 1000 }), (days) => {
      expect(soonDays(days)).toBeGreaterThanOrEqual(1)
      expect(soonDays(days)).toBeLessThan(days)
    }))
  })
  it('of several is the one that falls due first, whatever their order', () => {
    const some = fc.array(fc.record({ listId: fc.uuid(), everyDays: fc.integer({ min: 1, max: 400 }), lastAt: fc.option(fc.integer({ min: NOW - 400 * DAY, max: NOW })), addedAt: fc.constant(NOW - 500 * DAY) }), { minLength: 1 })
    fc.assert(fc.property(some, (promises) => {
      const due = dueAtOf(strictest(promises)!)
      expect(due).toBe(Math.min(...promises.map(dueAtOf)))
      expect(dueAtOf(strictest([...promises].reverse())!)).toBe(due)
    }))
    expect(strictest([])).toBeNull()
  })
})
