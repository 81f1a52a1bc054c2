/** A point on Earth as GeoJSON has it (RFC 7946): longitude, then latitude, in degrees of WGS 84. */
export type Position = readonly [longitude: number, latitude: number]

/** Longitudes from west to east, latitudes from south to north, in degrees; west is never beyond east. */
export interface Box {
  west: number
  south: number
  east: number
  north: number
}

/** The mean radius of the Earth in kilometers (IUGG, R1). */
export const EARTH_KM = 6371.0088

/** How near a border counts as on it, in degrees: about a tenth of a meter. */
const ON_BORDER = 1e-6

const radians = (degrees: number) => (degrees * Math.PI) / 180

/**
 * The way over the ground between two positions in kilometers, on a sphere of the mean radius (the haversine formula).
 */
export function kmBetween([aLongitude, aLatitude]: Position, [bLongitude, bLatitude]: Position): number {
  const half = (degrees: number) => Math.sin(radians(degrees) / 2) ** 2
  return (
    2 *
    EARTH_KM *
    Math.asin(
      Math.sqrt(
        Math.min(
          1,
          half(bLatitude - aLatitude) +
            Math.cos(radians(aLatitude)) * Math.cos(radians(bLatitude)) * half(bLongitude - aLongitude),
        ),
      ),
    )
  )
}

/**
 * Boxes that together hold everything within so many kilometers: one, or two where the date line lies between; all
 * longitudes where a pole does.
 */
export function boxesAround([longitude, latitude]: Position, km: number): Box[] {
  const reach = km / EARTH_KM
  const south = latitude - (reach * 180) / Math.PI
  const north = latitude + (reach * 180) / Math.PI
  if (south <= -90 || north >= 90) {
    return [{ west: -180, east: 180, south: Math.max(south, -90), north: Math.min(north, 90) }]
  }
  const wide = (Math.asin(Math.min(1, Math.sin(reach) / Math.cos(radians(latitude)))) * 180) / Math.PI
  return cutAtDateLine({ west: longitude - wide, east: longitude + wide, south, north })
}

/**
 * The line that lies so many kilometers from a position, as corners whose longitudes run on; five degrees of bearing
 * apart.
 */
export function circleAround([longitude, latitude]: Position, km: number): Position[] {
  const reach = km / EARTH_KM
  const [sin, cos] = [Math.sin(radians(latitude)), Math.cos(radians(latitude))]
  return unwrapped(
    Array.from({ length: 73 }, (_, index): Position => {
      const bearing = radians(5 * index)
      const at = Math.asin(Math.max(-1, Math.min(1, sin * Math.cos(reach) + cos * Math.sin(reach) * Math.cos(bearing))))
      const along = Math.atan2(Math.sin(bearing) * Math.sin(reach) * cos, Math.cos(reach) - sin * Math.sin(at))
      return [longitude + (along * 180) / Math.PI, (at * 180) / Math.PI]
    }),
  )
}

/** The same box with longitudes from -180 to 180: cut in two where it goes over the date line. */
function cutAtDateLine({ west, east, south, north }: Box): Box[] {
  if (east - west >= 360) return [{ west: -180, east: 180, south, north }]
  if (west < -180) {
    return [
      { west: west + 360, east: 180, south, north },
      { west: -180, east, south, north },
    ]
  }
  if (east > 180) {
    return [
      { west, east: 180, south, north },
      { west: -180, east: east - 360, south, north },
    ]
  }
  return [{ west, east, south, north }]
}

/**
 * An area's corners with longitudes that run on over the date line: each corner lies the short way round from the one
 * before. The first corner lies between -180 and 180.
 */
export function unwrapped(area: readonly Position[]): Position[] {
  const ring: Position[] = []
  for (const [longitude, latitude] of area) {
    const before = ring.at(-1)?.[0] ?? 0
    ring.push([longitude - 360 * Math.round((longitude - before) / 360), latitude])
  }
  return ring
}

/** Why the corners enclose nothing that can be asked for, in words; null where they do. */
export function problemOfArea(area: readonly Position[]): string | null {
  const ring = unwrapped(area)
  const [first, last] = [ring[0], ring.at(-1)]
  if (!first || !last || ring.length < 3) return 'An area needs at least three corners'
  if (Math.abs(first[0] - last[0]) > 180) return 'An area cannot go round a pole'
  const { west, east, south, north } = boxOf(ring)
  if (east - west >= 360) return 'An area cannot go all round the Earth'
  if (east - west < 1e-4 && north - south < 1e-4) return 'This area encloses nothing'
  return null
}

/** The box around an area whose longitudes run on. */
export function boxOf(ring: readonly Position[]): Box {
  const longitudes = ring.map(([longitude]) => longitude)
  const latitudes = ring.map(([, latitude]) => latitude)
  return {
    west: Math.min(...longitudes),
    east: Math.max(...longitudes),
    south: Math.min(...latitudes),
    north: Math.max(...latitudes),
  }
}

/**
 * How far an area must be moved along so that positions from -180 to 180 are found in it, in degrees: once, or twice
 * where it goes over the date line.
 */
export function turnsOf(ring: readonly Position[]): number[] {
  const { west, east } = boxOf(ring)
  return [-360, 0, 360].filter((turn) => west + turn <= 180 && east + turn >= -180)
}

/**
 * Whether a position lies in an area or on its border. Borders are straight in longitude and latitude, as they are
 * drawn; they may go over the date line. Where an area overlaps itself, everything it goes round is inside (nonzero
 * winding).
 */
export function isInside([longitude, latitude]: Position, area: readonly Position[]): boolean {
  const ring = unwrapped(area)
  return turnsOf(ring).some((turn) => windsAround([longitude - turn, latitude], ring))
}

function windsAround([x, y]: Position, ring: readonly Position[]): boolean {
  let winding = 0
  for (const [index, [bx, by]] of ring.entries()) {
    const [ax, ay] = ring.at(index - 1)!
    if (isOnSegment(x, y, ax, ay, bx, by)) return true
    const side = (bx - ax) * (y - ay) - (x - ax) * (by - ay)
    if (ay <= y && by > y && side > 0) winding++
    if (ay > y && by <= y && side < 0) winding--
  }
  return winding !== 0
}

function isOnSegment(x: number, y: number, ax: number, ay: number, bx: number, by: number): boolean {
  const long = (bx - ax) ** 2 + (by - ay) ** 2
  const along = long === 0 ? 0 : Math.max(0, Math.min(1, ((x - ax) * (bx - ax) + (y - ay) * (by - ay)) / long))
  return Math.hypot(x - ax - along * (bx - ax), y - ay - along * (by - ay)) <= ON_BORDER
}

/** Kilometers in an international mile (the agreement of 1959: 1,609.344 m). */
const KM_PER_MILE = 1.609344

/** A distance in miles, in kilometers. */
export function kmOf(miles: number): number {
  return miles * KM_PER_MILE
}

/** A distance in kilometers, in miles to the thousandth. */
export function milesOf(km: number): number {
  return Number((km / KM_PER_MILE).toFixed(3))
}
