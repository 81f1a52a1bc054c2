<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import { findAnything } from '#shared/api/find'
import { useAnswer } from '~/composables/answer'

/** One prospect, found by name, company, number or address. What is offered before anything is typed is given. */
const props = defineProps<{ offered: readonly { id: string; name: string }[] }>()
const prospectId = defineModel<string | null>({ required: true })
const search = ref('')
/** The one who is chosen, as found. */
const chosen = shallowRef<{ value: string; title: string; props: { subtitle: string } }>()
const { answer } = useAnswer(
  findAnything,
  () =>
    search.value.trim().length < 2 || search.value === chosen.value?.title ? null : { query: { text: search.value } },
  { failed: '', showsLast: true },
)
const found = computed(() =>
  (answer.value?.people ?? props.offered.map((one) => ({ ...one, title: '', company: '' }))).map(
    ({ id, name, title, company }) => ({
      value: id,
      title: name,
      props: { subtitle: [title, company].filter(Boolean).join(', ') },
    }),
  ),
)
watch(
  [prospectId, found],
  () => {
    if (chosen.value?.value === prospectId.value) return
    chosen.value = found.value.find((item) => item.value === prospectId.value)
  },
  { immediate: true },
)
/** Who is chosen stays among those who are offered. */
const items = computed(() => [
  ...(chosen.value && !found.value.some((item) => item.value === prospectId.value) ? [chosen.value] : []),
  ...found.value,
])
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
