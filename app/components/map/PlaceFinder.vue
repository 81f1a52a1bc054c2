<script setup lang="ts">
import { ref, shallowRef, watch } from 'vue'
import { findPlaces, type Place } from '#shared/api/places'
import { call } from '~/api/call'

/** Finds a town of the world by name. */
const props = defineProps<{ name: string }>()
const emit = defineEmits<{ choose: [place: Place] }>()

const typed = ref(props.name)
const found = shallowRef<Place[] | null>(null)
const lastError = ref(false)
let reading: AbortController | null = null
watch(typed, async (now) => {
  reading?.abort()
  if (!now.trim() || now === props.name) return void (found.value = null)
  reading = new AbortController()
  try {
    found.value = (await call(findPlaces, { query: { q: now }, signal: reading.signal })).places
    lastError.value = false
  } catch (error) {
    if ((error as Error).name !== 'AbortError') lastError.value = true
  }
})
watch(
  () => props.name,
  (now) => {
    typed.value = now
  },
)
function choose(place: Place): void {
  found.value = null
  emit('choose', place)
}
</script>

<template>
  <div>
    <input
      v-model="typed"
      class="town"
      placeholder="Town, like Springfield, IL"
      aria-label="Town"
      autocomplete="off"
      @keydown.enter.stop.prevent="found?.[0] && choose(found[0])"
    />
    <ul v-if="found" class="towns" aria-label="Towns of this name">
      <li v-for="place in found" :key="place.id">
        <button class="plain cut" @click="choose(place)">
          {{ place.name }} <span class="dim">{{ [place.region, place.country].filter(Boolean).join(', ') }}</span>
        </button>
      </li>
      <li v-if="!found.length" class="dim">No town starts with this.</li>
    </ul>
    <p v-if="lastError" class="clay small" role="alert">The towns could not be read.</p>
  </div>
</template>

<style scoped>
.town {
  width: 100%;
}
.towns {
  list-style: none;
  padding: 0;
  margin: 4px 0 0;
  max-height: 190px;
  overflow-y: auto;
}
.towns button {
  width: 100%;
  text-align: left;
  padding: 3px 6px;
  border-radius: 5px;
}
.towns button:hover {
  background: var(--shade);
}
</style>
