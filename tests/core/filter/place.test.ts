import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  boxesAround,
  circleAround,
  EARTH_KM,
  isInside,
  kmBetween,
  problemOfArea,
  unwrapped,
  type Position,
} from '../../../core/filter/place'

const longitude = fc.double({ min: -180, max: 180, noNaN: true })
const latitude = fc.double({ min: -90, max: 90, noNaN: true })
const position = fc.tuple(longitude, latitude)

describe('the way between two positions', () => {
  it('is as the worked example of the haversine formula has it', () => {
    // Nashville to Los Angeles, 2887.2599506 km with a radius of 6372.8 km (Rosetta Code, "Haversine formula", from
    // memory).
    expect(kmBetween([-86.67, 36.12], [-118.4, 33.94])).toBeCloseTo((2887.2599506071106 * EARTH_KM) / 6372.8, 6)
    // A quarter of a great circle, and half of one (geometry).
    expect(kmBetween([0, 0], [0, 90])).toBeCloseTo((EARTH_KM * Math.PI) / 2, 9)
    expect(kmBetween([-180, 0], [0, 0])).toBeCloseTo(EARTH_KM * Math.PI, 9)
    // Over the date line: a fifth of a degree on the equator.
    expect(kmBetween([179.9, 0], [-179.9, 0])).toBeCloseTo((EARTH_KM * Math.PI) / 900, 9)
  })
  it('is the same there and back, and no longer than by way of a third place', () => {
    fc.assert(
      fc.property(position, position, position, (a, b, c) => {
        expect(kmBetween(a, b)).toBeCloseTo(kmBetween(b, a), 6)
        expect(kmBetween(a, c)).toBeLessThanOrEqual(kmBetween(a, b) + kmBetween(b, c) + 1e-3)
      }),
    )
  })
})

describe('the boxes around a position', () => {
  it('hold everything within the distance, over the date line and the poles too', () => {
    const near = fc.tuple(
      position,
      fc.double({ min: 0.1, max: 20_000, noNaN: true }),
      fc.double({ min: 0, max: 0.999, noNaN: true }),
      fc.double({ min: 0, max: 2 * Math.PI, noNaN: true }),
    )
    fc.assert(
      fc.property(near, ([[x, y], km, share, bearing]) => {
        // The destination on a sphere, by its bearing (spherical trigonometry).
        const [reach, at] = [(km * share) / EARTH_KM, (y * Math.PI) / 180]
        const there = Math.asin(
          Math.max(
            -1,
            Math.min(1, Math.sin(at) * Math.cos(reach) + Math.cos(at) * Math.sin(reach) * Math.cos(bearing)),
          ),
        )
        const along = Math.atan2(
          Math.sin(bearing) * Math.sin(reach) * Math.cos(at),
          Math.cos(reach) - Math.sin(at) * Math.sin(there),
        )
        const found: Position = [((x + (along * 180) / Math.PI + 540) % 360) - 180, (there * 180) / Math.PI]
        fc.pre(kmBetween([x, y], found) <= km)
        const slack = 1e-7
        expect(
          boxesAround([x, y], km).some(
            ({ west, east, south, north }) =>
              found[0] >= west - slack &&
              found[0] <= east + slack &&
              found[1] >= south - slack &&
              found[1] <= north + slack,
          ),
        ).toBe(true)
      }),
      { numRuns: 2000 },
    )
  })
  it('reach as far as the line around it, every corner of which lies at the distance', () => {
    fc.assert(
      fc.property(
        fc.tuple(longitude, fc.double({ min: -80, max: 80, noNaN: true })),
        fc.double({ min: 1, max: 5000, noNaN: true }),
        (middle, km) => {
          for (const corner of circleAround(middle, km)) expect(kmBetween(middle, corner)).toBeCloseTo(km, 4)
        },
      ),
    )
  })
  it('are two where the date line lies between', () => {
    const boxes = boxesAround([179.5, -17], 200)
    expect(boxes).toHaveLength(2)
    expect(boxes.every(({ west, east }) => west <= east && west >= -180 && east <= 180)).toBe(true)
  })
})

const SQUARE: Position[] = [
  [10, 40],
  [20, 40],
  [20, 50],
  [10, 50],
]
const OVER: Position[] = [
  [170, -20],
  [-170, -20],
  [-170, -10],
  [170, -10],
]

describe('an area', () => {
  it('holds what lies in it and on its border, and nothing else', () => {
    for (const inside of [
      [15, 45],
      [10, 40],
      [10, 45],
      [15, 50],
    ] as Position[]) {
      expect(isInside(inside, SQUARE)).toBe(true)
    }
    for (const outside of [
      [9.9, 45],
      [20.1, 45],
      [15, 39.9],
      [15, 50.1],
      [-165, 45],
    ] as Position[]) {
      expect(isInside(outside, SQUARE)).toBe(false)
    }
  })
  it('that crosses the date line holds both sides of it, however its longitudes are written', () => {
    const turned = OVER.map(([x, y]): Position => [x < 0 ? x + 360 : x, y])
    const back = OVER.map(([x, y]): Position => [x > 0 ? x - 360 : x, y])
    for (const area of [OVER, turned, back]) {
      for (const inside of [
        [178.4, -18.1],
        [-172, -13.8],
        [180, -15],
        [-180, -15],
      ] as Position[]) {
        expect(isInside(inside, area)).toBe(true)
      }
      for (const outside of [
        [0, -15],
        [160, -15],
        [-160, -15],
        [178, -25],
      ] as Position[]) {
        expect(isInside(outside, area)).toBe(false)
      }
    }
  })
  it('that overlaps itself holds everything it goes round', () => {
    const star = Array.from({ length: 5 }, (_, point): Position => [
      10 * Math.sin((point * 4 * Math.PI) / 5),
      10 * Math.cos((point * 4 * Math.PI) / 5),
    ])
    expect(isInside([0, 0], star)).toBe(true)
    expect(isInside([0, 9], star)).toBe(true)
    expect(isInside([5, 7], star)).toBe(false)
  })
  it('is the same from any corner, in either direction, anywhere on Earth', () => {
    const corner = fc.tuple(
      fc.double({ min: -40, max: 40, noNaN: true }),
      fc.double({ min: -60, max: 60, noNaN: true }),
    )
    fc.assert(
      fc.property(
        fc.array(corner, { minLength: 3, maxLength: 9 }),
        corner,
        fc.integer({ min: -180, max: 180 }),
        fc.nat(8),
        (area, [x, y], shift, first) => {
          const moved = area.map(([cx, cy]): Position => [cx + shift, cy])
          const start = first % area.length
          const around = ((x + shift + 540) % 360) - 180
          const held = isInside([x, y], area)
          expect(isInside([around, y], moved)).toBe(held)
          expect(isInside([x, y], [...area.slice(start), ...area.slice(0, start)])).toBe(held)
          expect(isInside([x, y], [...area].reverse())).toBe(held)
        },
      ),
      { numRuns: 1000 },
    )
  })
  it('that encloses nothing is refused with the reason', () => {
    expect(problemOfArea(SQUARE)).toBeNull()
    expect(problemOfArea(OVER)).toBeNull()
    expect(
      problemOfArea([
        [0, 0],
        [1, 1],
      ]),
    ).toContain('three corners')
    expect(
      problemOfArea([
        [0, 80],
        [90, 80],
        [180, 80],
        [-90, 80],
      ]),
    ).toContain('pole')
    expect(
      problemOfArea([
        [5, 5],
        [5.00001, 5],
        [5, 5.00001],
      ]),
    ).toContain('nothing')
    expect(
      unwrapped([
        [-179, 0],
        [179, 0],
      ]),
    ).toEqual([
      [-179, 0],
      [-181, 0],
    ])
  })
})
