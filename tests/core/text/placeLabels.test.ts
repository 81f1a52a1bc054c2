import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { placeLabels, type Label } from '../../../core/text/placeLabels'

const SIZE = { above: [16, 30, 44], line: 13, character: 6 }
const label = (id: string, text: string, x: number, y: number): Label => ({ id, text, x, y })
const reach = ({ text, x, from = x - (text.length * 6) / 2 }: Label) => [from, from + text.length * 6] as const

describe('labels above the points of a drawing', () => {
  it('stand right above them where nothing is in the way', () => {
    const placed = placeLabels([label('a', 'Call', 30, 100), label('b', 'Email', 130, 90)], [], SIZE)
    expect([...placed]).toEqual([
      ['a', 84],
      ['b', 74],
    ])
  })
  it('stand a line higher where the one before, or something drawn, would be in the way', () => {
    const wide = label('a', 'Call, waits for your call back', 100, 100)
    expect(placeLabels([wide, label('b', 'Email', 130, 98)], [], SIZE).get('b')).toBe(68)
    expect(placeLabels([wide], [{ from: 150, to: 170, y: 84 }], SIZE).get('a')).toBe(70)
  })
  it('do not cover each other as long as a place is left', () => {
    const points = fc.array(
      fc.record({
        id: fc.uuid(),
        text: fc.string({ minLength: 1, maxLength: 30 }),
        x: fc.integer({ min: 0, max: 640 }),
        y: fc.integer({ min: 60, max: 150 }),
      }),
      { maxLength: 12 },
    )
    fc.assert(
      fc.property(points, (labels) => {
        const placed = placeLabels(labels, [], SIZE)
        labels.forEach((one, index) => {
          const y = placed.get(one.id)!
          expect(SIZE.above).toContain(one.y - y)
          const inTheWay = (height: number) =>
            labels.slice(0, index).some((other) => {
              const [from, to] = reach(one)
              const [start, end] = reach(other)
              return from < end + 4 && to > start - 4 && Math.abs(height - placed.get(other.id)!) < SIZE.line
            })
          if (inTheWay(y)) for (const above of SIZE.above) expect(inTheWay(one.y - above)).toBe(true)
        })
      }),
    )
  })
})
