<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import type { z } from 'zod'
import { mapProspects, type Place, type Spot } from '#shared/api/places'
import { call } from '~/api/call'
import { useDistance } from '~/composables/distance'

/** Where a company and its people are, with the way to anyone who is near. */
const props = defineProps<{ id: string; name: string; place: Place | null }>()
const found = shallowRef<z.output<typeof mapProspects.response> | null>(null)
watch(
  () => [props.id, props.place?.id],
  async () => {
    found.value = await call(mapProspects, { body: { company: props.id } }).catch(() => null)
  },
  { immediate: true },
)
const spots = computed<Spot[]>(() => {
  const people = found.value?.spots ?? []
  const { place } = props
  return place && !people.some((spot) => spot.id === place.id)
    ? [{ ...place, people: 0, companies: 1 }, ...people]
    : people
})
const distance = useDistance()
const within = ref(distance.usual)
const middle = computed(() => props.place ?? spots.value[0] ?? null)
const nearby = computed(
  () =>
    middle.value && {
      path: '/prospects',
      query: {
        by: 'map',
        filter: `place is within ${Math.max(0.1, within.value || distance.usual)} ${distance.unit} of "${[middle.value.name, middle.value.region, middle.value.country].filter(Boolean).join(', ')}" (${middle.value.latitude} ${middle.value.longitude})`,
      },
    },
)
</script>

<template>
  <section v-if="found && spots.length" class="panel">
    <PlaceMap :spots="spots" :chosen="place?.id" :nearest="3.5" class="small-map" :label="`Map of where ${name} is`" />
    <p v-if="nearby" class="row small near">
      <NuxtLink :to="nearby" class="link">Everyone within</NuxtLink
      ><input
        v-model.number="within"
        type="number"
        min="0.1"
        step="any"
        :aria-label="`${distance.label} around ${middle!.name}`"
      />
      {{ distance.unit }} of {{ middle!.name }}
    </p>
  </section>
</template>

<style scoped>
.small-map {
  height: 190px;
}
.near {
  gap: 5px;
  margin-top: 6px;
  flex-wrap: wrap;
}
.near input {
  width: 62px;
}
.link {
  display: inline-block;
  min-height: 24px;
  line-height: 24px;
}
</style>
