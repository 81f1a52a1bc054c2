<script setup lang="ts">
import { nextTick, ref } from 'vue'
import { listTags, setTags } from '#shared/api/fields'
import { ApiError, call } from '~/composables/api'

/** A person's tags, with one more added or one taken off where they stand. */
const props = defineProps<{ prospectId: string, tags: readonly { id: string, name: string }[] }>()
const emit = defineEmits<{ changed: [] }>()
const adding = ref(false)
const text = ref('')
const known = ref<string[]>([])
const box = ref<HTMLInputElement | null>(null)
const wrong = ref('')

async function change(add: string[], remove: string[]): Promise<boolean> {
  wrong.value = ''
  try {
    await call(setTags, { params: { id: props.prospectId }, body: { add, remove } })
    emit('changed')
    return true
  }
  catch (error) {
    wrong.value = error instanceof ApiError ? error.message : 'The tag could not be kept'
    return false
  }
}
async function open(): Promise<void> {
  adding.value = true
  await nextTick()
  box.value?.focus()
  known.value = await call(listTags).then(({ tags }) => tags.map(tag => tag.name), () => [])
}
async function add(): Promise<void> {
  if (!text.value.trim()) return void (adding.value = false)
  if (await change([text.value.trim()], [])) text.value = ''
}
</script>

<template>
  <div class="tags">
    <span v-for="tag in tags" :key="tag.id" class="chip tag">{{ tag.name }} <button class="plain out" :aria-label="`Take off the tag ${tag.name}`" @click="change([], [tag.name])">×</button></span>
    <form v-if="adding" class="add" @submit.prevent="add" @keydown.esc="adding = false"><input ref="box" v-model="text" list="known-tags" maxlength="60" aria-label="A tag" placeholder="A tag, Enter" @blur="text.trim() || (adding = false)"><datalist id="known-tags"><option v-for="name in known" :key="name" :value="name" /></datalist></form>
    <button v-else class="link small" @click="open">{{ tags.length ? 'Tag' : 'Add a tag' }}</button>
    <span v-if="wrong" class="wrong small" role="alert">{{ wrong }}</span>
  </div>
</template>

<style scoped>
.tags { display: flex; flex-wrap: wrap; gap: 5px; align-items: center; margin-top: 4px; } .out { padding: 0 3px; color: var(--dim); min-width: 18px; text-align: center; } .out:hover { color: var(--clay-deep); } .add input { font: inherit; font-size: 13px; border: 1px solid var(--stone); border-radius: 5px; padding: 2px 7px; background: #fff; width: 150px; } .wrong { color: var(--clay-deep); }
</style>
