<script setup lang="ts">
import { computed } from 'vue'
import { useTimes } from '~/composables/times'
import { zonesInOrder } from '~/composables/zones'

/** A time zone, chosen by city; the usual ones come first. */
const timeZone = defineModel<string | null>({ required: true })
const times = useTimes()
const items = computed(() => {
  const { usual, others } = zonesInOrder()
  return [...usual, ...others].map((value) => ({ value, title: times.zoneName(value), props: { subtitle: value } }))
})
</script>

<template>
  <v-autocomplete v-model="timeZone" :items="items" :filter-keys="['title', 'value']" auto-select-first />
</template>
