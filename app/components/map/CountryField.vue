<script setup lang="ts">
import { COUNTRIES } from '#core/places/lookUp'

/** A country, chosen by name or two-letter code. */
const country = defineModel<string | null>({ required: true })
const USUAL = ['US', 'CA', 'GB', 'AU']
const all = [...COUNTRIES.values()]
  .map(({ code, name }) => ({ value: code, title: name }))
  .sort((a, b) => a.title.localeCompare(b.title))
const items = [
  ...USUAL.flatMap((code) => all.filter((one) => one.value === code)),
  ...all.filter((one) => !USUAL.includes(one.value)),
]
</script>

<template>
  <v-autocomplete v-model="country" :items="items" :filter-keys="['title', 'value']" auto-select-first />
</template>
