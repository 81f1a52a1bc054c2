<script setup lang="ts">
import { onBeforeUnmount, ref } from 'vue'
import { setTags } from '#shared/api/settings/fields'
import { call, messageOf } from '~/api/call'
import { takeCharacter } from '~/composables/keys'

/** A person's tags, with one more added or one taken off where they stand. */
const props = defineProps<{ prospectId: string; tags: readonly { id: string; name: string }[] }>()
const emit = defineEmits<{ changed: [] }>()
const adding = ref(false)
const formError = ref('')
/** What is typed before the field is there to take it: no letter is lost, nor taken for a key of the screen. */
const early = ref('')
function hold(event: KeyboardEvent): void {
  early.value += takeCharacter(event) ?? ''
}
const release = () => window.removeEventListener('keydown', hold, true)
function begin(): void {
  early.value = ''
  adding.value = true
  window.addEventListener('keydown', hold, true)
}
/** The field is there: it takes what was typed before. */
function takeEarly(take: (text: string) => void): void {
  take(early.value)
  release()
}
onBeforeUnmount(release)

async function change(add: string[], remove: string[]): Promise<void> {
  formError.value = ''
  try {
    await call(setTags, { params: { id: props.prospectId }, body: { add, remove } })
    emit('changed')
  } catch (error) {
    formError.value = messageOf(error, 'The tag could not be saved')
  }
}
</script>

<template>
  <div class="tags">
    <span v-for="tag in tags" :key="tag.id" class="chip tag"
      >{{ tag.name }}
      <button class="plain out" :aria-label="`Remove the tag ${tag.name}`" @click="change([], [tag.name])">
        ×
      </button></span
    >
    <LazyTagField
      v-if="adding"
      :taken="tags.map((tag) => tag.name)"
      class="add"
      @ready="takeEarly($event)"
      @choose="change([$event], [])"
      @close="adding = false"
    />
    <button v-else class="link small" @click="begin">{{ tags.length ? 'Tag' : 'Add a tag' }}</button>
    <span v-if="formError" class="wrong small" role="alert">{{ formError }}</span>
  </div>
</template>

<style scoped>
.tags {
  display: flex;
  flex-wrap: wrap;
  gap: 5px;
  align-items: center;
  margin-top: 4px;
}
.out {
  padding: 0 3px;
  color: var(--dim);
  min-width: 18px;
  text-align: center;
}
.out:hover {
  color: var(--clay-deep);
}
.add {
  min-width: 220px;
  max-width: 300px;
}
.wrong {
  color: var(--clay-deep);
}
</style>
