import type { Test } from './filter'
import { boxesAround, boxOf, turnsOf, unwrapped, type Box } from './place'
import type { Place, Translation } from './sqlTranslation'

/** The place of someone's address, or where they give none, of their company's. */
export const PLACE_ID = `(case when coalesce(p.city, '') = '' then c.place_id else p.place_id end)`

/**
 * The places asked for are found first: they are few and lie in an index of space; the people at them are then found by
 * their places.
 */
export function placed(test: Test, t: Translation, { sure }: Place): string {
  const among = (where: string) => `${PLACE_ID} in (select x.id from places x where ${where})`
  const known = (condition: string) => (sure ? `coalesce(${condition}, false)` : condition)
  switch (test.op) {
    case 'set':
      return `${PLACE_ID} is not null`
    case 'unset':
      return `${PLACE_ID} is null`
    case 'near':
      return known(among(nearSql(test, t)))
    case 'far':
      return known(`(${PLACE_ID} is not null and not ${among(nearSql(test, t))})`)
    case 'inside':
      return known(among(insideSql(test.area, t)))
    case 'notInside':
      return `not coalesce(${among(insideSql(test.area, t))}, false)`
    default:
      return 'false'
  }
}

function nearSql({ at, km }: Extract<Test, { op: 'near' | 'far' }>, t: Translation): string {
  const boxes = boxesAround(at, km).map((box) => `x.position <@ ${boxSql(box, t)}`)
  return `(${boxes.join(' or ')}) and km_between(x.position, ${t.parameter(`(${at[0]},${at[1]})`)}::point) <= ${t.parameter(km)}::float8`
}

/**
 * The area once as it is and, where it goes over the date line, once more a turn further; PostgreSQL's polygons wind as
 * `isInside` does.
 */
function insideSql(area: readonly (readonly [number, number])[], t: Translation): string {
  const ring = unwrapped(area)
  const turned = turnsOf(ring).map((turn) => {
    const corners = ring.map(([longitude, latitude]): [number, number] => [longitude + turn, latitude])
    return `(x.position <@ ${boxSql(boxOf(corners), t)} and x.position <@ ${t.parameter(`(${corners.map((corner) => `(${corner.join(',')})`).join(',')})`)}::polygon)`
  })
  return turned.length ? `(${turned.join(' or ')})` : 'false'
}

function boxSql({ west, south, east, north }: Box, t: Translation): string {
  return `${t.parameter(`(${east},${north}),(${west},${south})`)}::box`
}
