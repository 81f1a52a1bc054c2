<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'
import { listTags } from '#shared/api/settings/fields'
import { call } from '~/api/call'

/** Chooses one of the tags there are by a piece of its name, or a new one where there is none of that very name. */
const props = defineProps<{ taken: readonly string[] }>()
const emit = defineEmits<{
  /** The field is there; it takes what was typed before. */ ready: [take: (early: string) => void]
  choose: [name: string]
  close: []
}>()
const text = ref('')
const chosen = ref<string | null>(null)
const known = ref<string[]>([])
const same = (one: string, other: string) => one.toLowerCase() === other.toLowerCase()
const choices = computed(() => {
  const typed = text.value.trim()
  const free = known.value.filter(
    (name) => !props.taken.some((one) => same(one, name)) && name.toLowerCase().includes(typed.toLowerCase()),
  )
  const isNew = typed !== '' && ![...known.value, ...props.taken].some((name) => same(name, typed))
  return [
    ...free.map((name) => ({ value: name, title: name })),
    ...(isNew ? [{ value: typed, title: `New tag “${typed}”` }] : []),
  ]
})
onMounted(async () => {
  emit('ready', (early) => {
    text.value = early
  })
  known.value = await call(listTags).then(
    ({ tags }) => tags.map((tag) => tag.name),
    () => [],
  )
})
function choose(name: string | null): void {
  if (name) emit('choose', name)
  text.value = ''
  chosen.value = null
}
</script>

<template>
  <v-autocomplete
    v-model="chosen"
    v-model:search="text"
    v-focus
    :items="choices"
    no-filter
    auto-select-first
    hide-no-data
    aria-label="A tag"
    placeholder="Tag"
    maxlength="60"
    density="compact"
    @update:model-value="choose"
    @keydown.esc="emit('close')"
  />
</template>
