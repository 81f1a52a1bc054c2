import type { MultiLineString, MultiPolygon } from 'geojson'
import { unwrapped, type Position } from '#core/filter/place'
import type { GeometryCollection, GeometryObject, Topology } from 'topojson-specification'

/**
 * Land and borders of the bundled map (Natural Earth at 1:50 million; the states of the US from the Census Bureau), in
 * degrees.
 */
export interface Land {
  land: MultiPolygon
  borders: MultiLineString
  states: MultiLineString
}

let read: Promise<Land> | null = null

/** Reads the bundled map, once; it comes with the app, never from elsewhere. */
export function readLand(): Promise<Land> {
  return (read ??= (async () => {
    const [{ feature, mesh }, { default: world }, { default: us }] = await Promise.all([
      import('topojson-client'),
      import('world-atlas/countries-50m.json'),
      import('us-atlas/states-10m.json'),
    ])
    const [countries, states] = [world, us] as unknown as [
      Topology<{ countries: GeometryCollection; land: GeometryCollection }>,
      Topology<{ states: GeometryCollection }>,
    ]
    const between = (a: GeometryObject, b: GeometryObject) => a !== b
    const land = feature(countries, countries.objects.land).features.flatMap(({ geometry }) => {
      if (geometry.type === 'MultiPolygon') return geometry.coordinates
      return geometry.type === 'Polygon' ? [geometry.coordinates] : []
    })
    const borders = mesh(countries, countries.objects.countries, between)
    return {
      land: {
        type: 'MultiPolygon',
        coordinates: land
          .filter(([coast]) => coast!.some(([, latitude]) => latitude! > SOUTHERN))
          .map((rings) => rings.map(runOn)),
      },
      borders: { ...borders, coordinates: borders.coordinates.map(runOn) },
      states: mesh(us as never, states.objects.states as never, between),
    }
  })())
}

/** Nobody is worked farther south, in degrees of latitude. */
const SOUTHERN = -60
const runOn = (line: number[][]) => unwrapped(line as unknown as Position[]) as unknown as number[][]
