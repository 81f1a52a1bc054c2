import type { Spot } from '#shared/api/places'

/** A place's name on the map: where it begins, or ends where it stands on the left, in pixels. */
export interface MapLabel {
  id: number
  x: number
  y: number
  left: boolean
  text: string
  people: number
}

interface Point {
  x: number
  y: number
}

interface Box {
  west: number
  east: number
  north: number
  south: number
}

/** How many names are written at most, and among how many places room is looked for. */
const MOST = 40
const TRIED = 300

const overlap = (one: Box, other: Box) =>
  one.west < other.east && one.east > other.west && one.north < other.south && one.south > other.north

/**
 * Names beside the greatest places that have room for them, on the right or else on the left; the chosen place first.
 * `points` are where a spot lies on the screen, once for each turn of the world, in pixels.
 */
export function placeLabels(
  spots: readonly Spot[],
  chosen: number | null | undefined,
  points: (spot: Spot) => readonly Point[],
  radius: (people: number) => number,
  size: Point,
): MapLabel[] {
  const marks = spots.flatMap((spot) =>
    points(spot).map(({ x, y }) => {
      const half = radius(spot.people) - 2
      return { id: spot.id, west: x - half, east: x + half, north: y - half, south: y + half }
    }),
  )
  const taken: Box[] = []
  const labels: MapLabel[] = []
  const order = [...spots].sort((a, b) => Number(b.id === chosen) - Number(a.id === chosen) || b.people - a.people)
  for (const spot of order.slice(0, TRIED)) {
    const off = radius(spot.people) + 4
    const wide = off + 8 + 7.2 * (spot.name.length + String(spot.people).length)
    for (const at of points(spot)) {
      for (const left of [false, true]) {
        const box = {
          west: left ? at.x - wide : at.x,
          east: left ? at.x : at.x + wide,
          north: at.y - 10,
          south: at.y + 10,
        }
        const outside = box.west < 0 || at.y < 8 || box.east > size.x || at.y > size.y - 8
        if (outside || taken.some((other) => overlap(box, other))) continue
        if (marks.some((mark) => mark.id !== spot.id && overlap(box, mark))) continue
        taken.push(box)
        labels.push({
          id: spot.id,
          x: left ? at.x - off : at.x + off,
          y: at.y,
          left,
          text: spot.name,
          people: spot.people,
        })
        break
      }
    }
    if (labels.length >= MOST) break
  }
  return labels
}
