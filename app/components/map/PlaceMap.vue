<script setup lang="ts">
import 'leaflet/dist/leaflet.css'
import { nextTick, onBeforeUnmount, onMounted, ref, shallowRef, watch } from 'vue'
import type * as Leaflet from 'leaflet'
import { circleAround, unwrapped, type Position } from '#core/filter/place'
import type { Spot } from '#shared/api/places'
import { readLand } from './land'
import { makeLandMap, middleLatitude, TURNS } from './landMap'
import { placeLabels, type MapLabel } from './mapLabels'

/**
 * Places on a map that comes with the app: longitude and latitude as straight lines, true to scale at the latitude
 * where most of the places lie, so that an area is just what is drawn. While `drawing`, clicks set the corners of an
 * area.
 */
const props = defineProps<{
  spots: readonly Spot[]
  chosen?: number | null
  areas?: readonly (readonly Position[])[]
  rounds?: readonly { at: Position; km: number }[]
  drawing?: boolean
  label: string
  nearest?: number
}>()
const emit = defineEmits<{ choose: [id: number]; drawn: [area: [number, number][]]; cancel: [] }>()

const holder = ref<HTMLElement | null>(null)
const corners = ref<[number, number][]>([])
const map = shallowRef<Leaflet.Map | null>(null)
const labels = ref<MapLabel[]>([])
const moving = ref(false)
let L: typeof Leaflet
let marks: Leaflet.LayerGroup
let asked: Leaflet.LayerGroup
let sketch: Leaflet.LayerGroup

const ink = (name: string) => getComputedStyle(document.documentElement).getPropertyValue(name).trim()
const most = () => Math.max(1, ...props.spots.map((spot) => spot.people))
const radius = (people: number) => 4.5 + 9 * Math.sqrt(people / most())

onMounted(async () => {
  const [leaflet, land] = await Promise.all([import('leaflet'), readLand()])
  await nextTick()
  if (!holder.value) return
  L = leaflet.default ?? leaflet
  const made = makeLandMap(L, holder.value, land, middleLatitude(props.spots), ink)
  asked = L.layerGroup().addTo(made)
  marks = L.layerGroup().addTo(made)
  sketch = L.layerGroup().addTo(made)
  made.on('click', ({ latlng }) => {
    if (props.drawing) setCorner([latlng.lng, latlng.lat])
  })
  made.on('dblclick', () => {
    if (props.drawing) close()
  })
  made.on('mousemove', ({ latlng }) => {
    if (props.drawing) drawSketch([latlng.lng, latlng.lat])
  })
  made.on('movestart', () => {
    moving.value = true
  })
  made.on('moveend', () => {
    moving.value = false
    name()
  })
  map.value = made
  draw()
  frame()
})
onBeforeUnmount(() => map.value?.remove())

function draw(): void {
  if (!map.value) return
  marks.clearLayers()
  asked.clearLayers()
  // Small places lie over great ones, so that each can be chosen.
  for (const spot of [...props.spots].sort((a, b) => b.people - a.people)) {
    const on = spot.id === props.chosen
    for (const turn of TURNS) {
      L.circleMarker([spot.latitude, spot.longitude + turn], {
        radius: radius(spot.people),
        color: on ? ink('--amber-deep') : ink('--card'),
        weight: on ? 3 : 1.2,
        fillColor: ink('--pine'),
        fillOpacity: 0.82,
        bubblingMouseEvents: props.drawing,
      })
        .on('click', () => {
          if (!props.drawing) emit('choose', spot.id)
        })
        .addTo(marks)
    }
  }
  const border = { color: ink('--amber'), weight: 2, fillColor: ink('--amber'), fillOpacity: 0.08, interactive: false }
  for (const area of props.areas ?? []) {
    for (const turn of TURNS) {
      L.polygon(
        unwrapped(area).map(([longitude, latitude]): [number, number] => [latitude, longitude + turn]),
        border,
      ).addTo(asked)
    }
  }
  for (const round of props.rounds ?? []) {
    for (const turn of TURNS) {
      L.polygon(
        circleAround(round.at, round.km).map(([longitude, latitude]): [number, number] => [latitude, longitude + turn]),
        border,
      ).addTo(asked)
    }
  }
  name()
}

function name(): void {
  const now = map.value
  if (!now) return
  labels.value = placeLabels(
    props.spots,
    props.chosen,
    (spot) => TURNS.map((turn) => now.latLngToContainerPoint([spot.latitude, spot.longitude + turn])),
    radius,
    now.getSize(),
  )
}

/** Shows the places asked for, else all there are, near enough to tell them apart. */
function frame(): void {
  if (!map.value) return
  const wanted = [
    ...(props.areas ?? []).flatMap((area) =>
      unwrapped(area).map(([longitude, latitude]): [number, number] => [latitude, longitude]),
    ),
    ...(props.rounds ?? []).flatMap((round) =>
      circleAround(round.at, round.km).map(([longitude, latitude]): [number, number] => [latitude, longitude]),
    ),
  ]
  const points = wanted.length ? wanted : props.spots.map((spot): [number, number] => [spot.latitude, spot.longitude])
  if (points.length) map.value.fitBounds(L.latLngBounds(points).pad(0.12), { maxZoom: props.nearest ?? 5.5 })
}
watch(() => [props.spots, props.chosen, props.areas, props.rounds, props.drawing], draw)
watch(
  () => JSON.stringify([props.areas, props.rounds]),
  () => nextTick(frame),
)
watch(
  () => props.chosen,
  (id) => {
    const spot = props.spots.find((one) => one.id === id)
    if (spot && map.value && !map.value.getBounds().pad(-0.1).contains([spot.latitude, spot.longitude])) {
      map.value.panTo([spot.latitude, spot.longitude])
    }
  },
)
watch(
  () => props.drawing,
  (on) => {
    corners.value = []
    if (map.value) sketch.clearLayers()
    if (on) holder.value?.focus()
  },
)

function setCorner(at: [number, number]): void {
  const first = corners.value[0]
  const near =
    first &&
    map
      .value!.latLngToContainerPoint([first[1], first[0]])
      .distanceTo(map.value!.latLngToContainerPoint([at[1], at[0]])) < 10
  if (near && corners.value.length >= 3) return close()
  const last = corners.value.at(-1)
  if (last && last[0] === at[0] && last[1] === at[1]) return
  corners.value = [...corners.value, at.map((degrees) => Math.round(degrees * 1e4) / 1e4) as [number, number]]
  drawSketch(null)
}
function drawSketch(towards: [number, number] | null): void {
  sketch.clearLayers()
  const line = [...corners.value, ...(towards && corners.value.length ? [towards] : [])].map(
    ([longitude, latitude]): [number, number] => [latitude, longitude],
  )
  L.polyline(corners.value.length > 1 && line[0] ? [...line, line[0]] : line, {
    color: ink('--amber'),
    weight: 2,
    dashArray: '5 4',
    interactive: false,
  }).addTo(sketch)
  for (const [longitude, latitude] of corners.value) {
    L.circleMarker([latitude, longitude], {
      radius: 4,
      color: ink('--amber-deep'),
      weight: 2,
      fillColor: ink('--card'),
      fillOpacity: 1,
      interactive: false,
    }).addTo(sketch)
  }
}
function close(): void {
  if (corners.value.length >= 3) emit('drawn', corners.value)
}
function onKey(event: KeyboardEvent): void {
  if (!props.drawing) return
  const middle = map.value!.getCenter()
  const does: Record<string, () => void> = {
    ' ': () => setCorner([middle.lng, middle.lat]),
    Enter: close,
    Escape: () => emit('cancel'),
    Backspace: () => {
      corners.value = corners.value.slice(0, -1)
      drawSketch(null)
    },
  }
  const act = does[event.key]
  if (!act) return
  event.preventDefault()
  event.stopPropagation()
  act()
}
defineExpose({ frame })
</script>

<template>
  <div class="whole" :class="{ drawing }">
    <div ref="holder" class="map" tabindex="0" role="application" :aria-label="label" @keydown="onKey" />
    <span
      v-for="one in moving ? [] : labels"
      :key="`${one.id} ${one.x}`"
      class="label"
      :class="{ on: one.id === chosen, left: one.left }"
      :style="{ left: `${one.x}px`, top: `${one.y}px` }"
      aria-hidden="true"
      >{{ one.text }} <span class="num">{{ one.people.toLocaleString('en-US') }}</span></span
    >
    <span v-if="drawing" class="cross" aria-hidden="true" />
    <p v-if="drawing" class="how" role="status">
      {{
        corners.length < 3
          ? 'Click the corners of the area'
          : 'Click the first corner again, or press Enter, to close it'
      }}
      · Space sets one in the middle · Backspace takes the last one back · Esc leaves
    </p>
    <p class="credit">Land: Natural Earth · Towns: GeoNames, CC BY 4.0</p>
  </div>
</template>

<style scoped>
.whole {
  position: relative;
  /* The map's own layers stay under the header that the page scrolls beneath. */
  isolation: isolate;
  min-height: 0;
  border: 1px solid var(--line);
  border-radius: 8px;
  overflow: hidden;
  background: #e4ebee;
}
.map {
  position: absolute;
  inset: 0;
  background: #e4ebee;
  font: inherit;
}
.map:focus-visible {
  outline: 2px solid var(--pine);
  outline-offset: -3px;
}
.drawing .map {
  cursor: crosshair;
}
.label {
  position: absolute;
  z-index: 450;
  transform: translateY(-50%);
  pointer-events: none;
  font-size: 12.5px;
  white-space: nowrap;
  text-shadow:
    0 0 3px var(--card),
    0 0 3px var(--card),
    0 0 2px var(--card);
}
.label .num {
  color: var(--dim);
}
.label.on {
  font-weight: 600;
}
.label.left {
  transform: translate(-100%, -50%);
}
.how {
  position: absolute;
  z-index: 500;
  top: 8px;
  left: 50px;
  right: 10px;
  padding: 5px 10px;
  background: var(--amber-soft);
  border-radius: 6px;
  font-size: 13px;
  width: fit-content;
}
.credit {
  position: absolute;
  z-index: 450;
  right: 6px;
  bottom: 3px;
  font-size: 11px;
  color: var(--dim);
  background: rgb(255 253 248 / 75%);
  padding: 0 5px;
  border-radius: 4px;
}
.cross {
  position: absolute;
  z-index: 460;
  left: 50%;
  top: 50%;
  width: 17px;
  height: 17px;
  transform: translate(-50%, -50%);
  pointer-events: none;
  background:
    linear-gradient(var(--stone), var(--stone)) center / 1px 100% no-repeat,
    linear-gradient(var(--stone), var(--stone)) center / 100% 1px no-repeat;
}
.map :deep(.leaflet-bar) {
  border: 1px solid var(--stone);
  border-radius: 6px;
  overflow: hidden;
}
.map :deep(.leaflet-bar a) {
  background: var(--card);
  color: var(--ink);
  border-color: var(--line);
  font: inherit;
  line-height: 28px;
  width: 28px;
  height: 28px;
  font-size: 17px;
}
</style>
