<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { findPlaces, type Place } from '#shared/api/places'
import { useAnswer } from '~/composables/answer'

/** Finds a town of the world by name. */
const props = defineProps<{ name: string }>()
const emit = defineEmits<{ choose: [place: Place] }>()

const typed = ref(props.name)
const closed = ref(false)
const { answer, lastError } = useAnswer(
  findPlaces,
  () => (typed.value.trim() && typed.value !== props.name && !closed.value ? { query: { q: typed.value } } : null),
  { failed: 'The towns could not be read', showsLast: true },
)
const found = computed(() => answer.value?.places)
watch(typed, () => {
  closed.value = false
})
watch(
  () => props.name,
  (now) => {
    typed.value = now
  },
)
function choose(place: Place): void {
  closed.value = true
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
    <p v-if="lastError" class="clay small" role="alert">{{ lastError }}.</p>
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
