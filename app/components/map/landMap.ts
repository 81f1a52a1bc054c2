import type * as Leaflet from 'leaflet'
import type { Spot } from '#shared/api/places'
import type { readLand } from './land'

/**
 * The world is drawn once more on either side, so that what lies over the date line can be seen and drawn in one piece.
 */
export const TURNS = [-360, 0, 360]

/** The latitude where most of the people are, in degrees from the equator; that of the US and Europe for none. */
export function middleLatitude(spots: readonly Spot[]): number {
  const people = spots.reduce((sum, spot) => sum + spot.people, 0)
  return people ? spots.reduce((sum, spot) => sum + Math.abs(spot.latitude) * spot.people, 0) / people : 35
}

/** How far an arrow key moves a map, in pixels; three times as far with Shift. */
const STEP = 80
const ARROWS: Record<string, [x: number, y: number]> = {
  ArrowLeft: [-STEP, 0],
  ArrowRight: [STEP, 0],
  ArrowUp: [0, -STEP],
  ArrowDown: [0, STEP],
}
/** Bounds beyond which a map is not moved: south and west, north and east. */
const BOUNDS: [Leaflet.LatLngTuple, Leaflet.LatLngTuple] = [
  [-62, -300],
  [85, 300],
]

/**
 * A map of the land that comes with the app: longitude and latitude as straight lines, true to scale at `latitude`
 * (degrees). `ink` gives the value of a color token.
 */
export function makeLandMap(
  L: typeof Leaflet,
  holder: HTMLElement,
  land: Awaited<ReturnType<typeof readLand>>,
  latitude: number,
  ink: (token: string) => string,
): Leaflet.Map {
  const narrow = Math.cos((Math.min(60, latitude) * Math.PI) / 180)
  const crs = L.Util.extend({}, L.CRS.EPSG4326, {
    wrapLng: undefined,
    transformation: new L.Transformation(narrow / 180, narrow, -1 / 180, 0.5),
  }) as Leaflet.CRS
  // At once: the map’s own arrow keys do nothing while it still glides to where the last one led.
  holder.addEventListener('keydown', (event) => {
    const arrow = ARROWS[event.key]
    if (!arrow || event.altKey || event.ctrlKey || event.metaKey) return
    event.preventDefault()
    event.stopImmediatePropagation()
    const still = { animate: false }
    map.panBy(L.point(arrow).multiplyBy(event.shiftKey ? 3 : 1), still).panInsideBounds(BOUNDS, still)
  })
  const map = L.map(holder, {
    crs,
    preferCanvas: true,
    zoomSnap: 0.25,
    wheelPxPerZoomLevel: 90,
    minZoom: 0.5,
    maxZoom: 9,
    maxBounds: BOUNDS,
    maxBoundsViscosity: 0.8,
    zoomAnimation: false,
    fadeAnimation: false,
    doubleClickZoom: false,
    attributionControl: false,
  })
  map.fitWorld()
  const still = { interactive: false }
  for (const turn of TURNS) {
    const coordsToLatLng = (at: number[]) => L.latLng(at[1]!, at[0]! + turn)
    L.geoJSON(land.land, {
      ...still,
      coordsToLatLng,
      style: { fillColor: ink('--card'), fillOpacity: 1, color: ink('--bark'), weight: 0.8 },
    }).addTo(map)
    L.geoJSON(land.borders, { ...still, coordsToLatLng, style: { color: ink('--bark'), weight: 0.9 } }).addTo(map)
    L.geoJSON(land.states, { ...still, coordsToLatLng, style: { color: ink('--line'), weight: 0.8 } }).addTo(map)
  }
  return map
}
