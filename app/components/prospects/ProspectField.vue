<script setup lang="ts">
import { ref, shallowRef, watch } from 'vue'
import { findAnything } from '#shared/api/find'
import { call } from '~/api/call'

/** One prospect, found by name, company, number or address. What is offered before anything is typed is given. */
const props = defineProps<{ offered: readonly { id: string; name: string }[] }>()
const prospectId = defineModel<string | null>({ required: true })
const search = ref('')
const items = shallowRef<{ value: string; title: string; props: { subtitle: string } }[]>([])
const offer = () => props.offered.map(({ id, name }) => ({ value: id, title: name, props: { subtitle: '' } }))
watch(
  () => props.offered,
  () => {
    items.value = offer()
  },
  { immediate: true },
)
let asked = new AbortController()
watch(search, async (text) => {
  asked.abort()
  asked = new AbortController()
  const { signal } = asked
  const chosen = items.value.find((item) => item.value === prospectId.value)
  if (text.trim().length < 2 || text === chosen?.title) {
    items.value = [...(chosen ? [chosen] : []), ...offer().filter((item) => item.value !== chosen?.value)]
    return
  }
  const hits = await call(findAnything, { query: { text }, signal }).catch(() => null)
  if (!hits || signal.aborted) return
  const found = hits.people.map(({ id, name, title, company }) => ({
    value: id,
    title: name,
    props: { subtitle: [title, company].filter(Boolean).join(', ') },
  }))
  items.value = [...found, ...(chosen && !found.some((item) => item.value === chosen.value) ? [chosen] : [])]
})
</script>

<template>
  <v-autocomplete
    v-model="prospectId"
    v-model:search="search"
    :items="items"
    no-filter
    auto-select-first
    clearable
    density="compact"
  />
</template>
