<script setup lang="ts">
import { computed, ref } from 'vue'
import type { z } from 'zod'
import { conditionsOf, type Filter, type Test } from '#core/filter/filter'
import { problemOfArea, type Position } from '#core/filter/place'
import { mapProspects, type Spot } from '#shared/api/places'
import { useAnswer } from '~/composables/answer'
import { useDistance } from '~/composables/distance'

/** Where the people are who are asked for: on the map, and as a list of places that is worked without it. */
const props = defineProps<{ asked: z.input<typeof mapProspects.body>; filter: Filter; drawing: boolean }>()
const emit = defineEmits<{ narrow: [test: Test, leaves: boolean]; draw: [on: boolean] }>()

const { answer: found, lastError: readError } = useAnswer(mapProspects, () => ({ body: props.asked }), {
  failed: 'The places could not be read',
  showsLast: true,
})
const areaProblem = ref('')
const lastError = computed(() => areaProblem.value || readError.value)
const chosen = ref<number | null>(null)
const distance = useDistance()
const within = ref(distance.usual)

const tests = computed(() => conditionsOf(props.filter).map((condition) => condition.test))
const areas = computed(() =>
  tests.value.flatMap((test) => (test.op === 'inside' || test.op === 'notInside' ? [test.area as Position[]] : [])),
)
const rounds = computed(() =>
  tests.value.flatMap((test) =>
    test.op === 'near' || test.op === 'far' ? [{ at: test.at as Position, km: test.km }] : [],
  ),
)
const fullName = (spot: Spot) => [spot.name, spot.region, spot.country].filter(Boolean).join(', ')
function around(spot: Spot, shown: number, leaves: boolean): void {
  const test = {
    ...distance.test(shown),
    name: fullName(spot),
    at: [spot.longitude, spot.latitude] as [number, number],
  }
  emit('narrow', { op: 'near', ...test }, leaves)
}
/** Anyone who is in a town is within a short way of where it is said to lie. */
const IN_TOWN = 1
function drawn(area: [number, number][]): void {
  areaProblem.value = problemOfArea(area) ?? ''
  if (!areaProblem.value) emit('narrow', { op: 'inside', area }, false)
  emit('draw', false)
}
const people = (count: number) => `${count.toLocaleString('en-US')} ${count === 1 ? 'person' : 'people'}`
</script>

<template>
  <div class="two">
    <div class="mapped">
      <PlaceMap
        v-if="found"
        :key="asked.list"
        :spots="found.spots"
        :chosen="chosen"
        :areas="areas"
        :rounds="rounds"
        :drawing="drawing"
        label="Map of where they are"
        @choose="chosen = chosen === $event ? null : $event"
        @drawn="drawn"
        @cancel="emit('draw', false)"
      />
      <p v-if="lastError" class="notice clay mt-1" role="alert">{{ lastError }}</p>
    </div>
    <aside v-if="found" class="side">
      <v-btn size="small" :variant="drawing ? 'flat' : 'outlined'" color="primary" @click="emit('draw', !drawing)">{{
        drawing ? 'Stop drawing' : areas.length ? 'Draw another area' : 'Draw an area'
      }}</v-btn>
      <h2>{{ found.spots.length.toLocaleString('en-US') }} {{ found.spots.length === 1 ? 'place' : 'places' }}</h2>
      <p v-if="!found.spots.length" class="dim">None of them has an address that is on the map.</p>
      <ol class="places">
        <li v-for="spot in found.spots.slice(0, 200)" :key="spot.id" :class="{ on: spot.id === chosen }">
          <button
            class="plain spot"
            :aria-expanded="spot.id === chosen"
            @click="chosen = chosen === spot.id ? null : spot.id"
          >
            <span class="cut"
              >{{ spot.name }}
              <span class="dim">{{ [spot.region, spot.country].filter(Boolean).join(', ') }}</span></span
            ><span class="num">{{ spot.people.toLocaleString('en-US') }}</span>
          </button>
          <div v-if="spot.id === chosen" class="acts">
            <button class="link" @click="around(spot, IN_TOWN, true)">
              Show {{ spot.people === 1 ? 'this one person' : `these ${people(spot.people)}` }}
            </button>
            <form class="row" @submit.prevent="around(spot, within, false)">
              <button class="link" type="submit">Everyone within</button
              ><input
                v-model.number="within"
                type="number"
                min="0.1"
                max="20000"
                step="any"
                :aria-label="`${distance.label} around ${spot.name}`"
              />
              {{ distance.unit }}
            </form>
            <span class="dim small">{{ spot.companies }} {{ spot.companies === 1 ? 'company' : 'companies' }}</span>
          </div>
        </li>
      </ol>
      <p v-if="found.spots.length > 200 || found.beyond" class="dim small">
        {{
          found.beyond
            ? `${people(found.beyond)} at other places are not on the map. Add a filter to see them.`
            : 'The list names the 200 places with the most people; the map has all.'
        }}
      </p>
      <p v-if="found.nowhere" class="dim small">
        {{ people(found.nowhere) }} {{ found.nowhere === 1 ? 'has' : 'have' }} no known address.
        <button class="link small" @click="emit('narrow', { op: 'unset' }, true)">Show them</button>
      </p>
    </aside>
  </div>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 250px;
  gap: 14px;
  flex: 1;
  min-height: 0;
}
.mapped {
  display: grid;
  grid-template-rows: minmax(300px, 1fr) auto;
  min-height: 0;
}
.side {
  display: flex;
  flex-direction: column;
  gap: 8px;
  min-height: 0;
  align-items: stretch;
}
.places {
  list-style: none;
  padding: 0;
  margin: 0;
  overflow-y: auto;
  min-height: 60px;
  flex: 0 1 auto;
  border-top: 1px solid var(--line);
}
.places li {
  border-bottom: 1px solid var(--line);
}
.places li.on {
  background: var(--pine-soft);
}
.spot {
  display: flex;
  justify-content: space-between;
  gap: 8px;
  width: 100%;
  padding: 4px 6px;
  text-align: left;
  min-width: 0;
}
.spot:hover {
  background: var(--shade);
}
.on .spot:hover {
  background: transparent;
}
.acts {
  display: grid;
  gap: 3px;
  padding: 0 6px 7px;
  justify-items: start;
}
.acts input {
  width: 70px;
}
.acts .row {
  gap: 5px;
}
@media (max-width: 800px) {
  .two {
    grid-template-columns: minmax(0, 1fr);
  }
  .mapped {
    min-height: 340px;
  }
}
</style>
