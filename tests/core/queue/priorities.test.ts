import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { byPriority, queuePrioritySchema, type PriorityPlace } from '../../../core/queue/priorities'

const place = fc.option(
  fc.record<PriorityPlace>({
    index: fc.nat(4),
    place: fc.option(fc.nat(20), { nil: null }),
  }),
  { nil: undefined },
)

describe('what the team works first', () => {
  it('comes in the order of the priorities, then of the list, then all the rest', () => {
    fc.assert(
      fc.property(fc.array(place, { maxLength: 30 }), (all) => {
        // As they come in an array: sort leaves undefined to the end by itself.
        const sorted = all.map((of) => ({ of })).sort((a, b) => byPriority(a.of, b.of))
        for (const [at, { of: one }] of sorted.slice(1).entries()) {
          const before = sorted[at]!.of
          if (!one) continue
          expect(before).toBeDefined()
          expect(before!.index).toBeLessThanOrEqual(one.index)
          if (before!.index === one.index && before!.place !== null && one.place !== null) {
            expect(before!.place).toBeLessThanOrEqual(one.place)
          }
        }
      }),
    )
  })
  it('is a filter or a list, and nothing else', () => {
    const read = (value: unknown) => queuePrioritySchema.safeParse(value).success
    expect(read({ type: 'filter', filter: { field: 'score', test: { op: 'atLeast', number: 50 } } })).toBe(true)
    expect(read({ type: 'list', listId: '7f0a6a30-9a54-4b5e-8f0b-1d2c3b4a5e6f' })).toBe(true)
    expect(read({ type: 'list', listId: 'hot' })).toBe(false)
    expect(read({ type: 'score', over: 50 })).toBe(false)
  })
})
