<script setup lang="ts">
import { computed, onMounted, ref, shallowRef } from 'vue'
import { useTimeoutFn } from '@vueuse/core'
import type { z } from 'zod'
import { getBulk, undoBulk } from '#shared/api/bulk'
import { newId } from '#shared/newId'
import { call, messageOf } from '~/api/call'
import { wordsOf } from './bulkActions'

/**
 * How far a bulk action is, then its result, with its undo. It is read again until it is done; closing the dialog
 * leaves the action to go on by itself.
 */
const props = defineProps<{ id: string }>()
const emit = defineEmits<{ done: []; close: [] }>()
const result = shallowRef<z.output<typeof getBulk.response> | null>(null)
const formError = ref('')
const wait = ref(400)
const shownId = ref(props.id)
const { start } = useTimeoutFn(() => read(), wait, { immediate: false })
async function read(): Promise<void> {
  try {
    result.value = await call(getBulk, { params: { id: shownId.value } })
    wait.value = 400
    if (result.value.status === 'done') emit('done')
    else start()
  } catch {
    wait.value = 3_000
    start()
  }
}
onMounted(read)
/** Undoes what has just been done, and shows that the same way. */
async function undoIt(): Promise<void> {
  const id = newId()
  try {
    await call(undoBulk, { params: { id: shownId.value }, body: { id } })
    shownId.value = id
    await read()
  } catch (error) {
    formError.value = messageOf(error, 'It could not be undone')
  }
}
const doneWords = computed(() => {
  const { type } = result.value!.action
  return type === 'undo' ? 'changed back' : wordsOf(type).done
})
const people = (count: number) => `${count.toLocaleString('en-US')} ${count === 1 ? 'person' : 'people'}`
</script>

<template>
  <div v-if="result" class="stack">
    <v-progress-linear
      v-if="result.status !== 'done'"
      :model-value="result.touches ? (100 * result.done) / result.touches : 0"
      color="primary"
      aria-label="Progress"
    />
    <p role="status">
      <b>{{
        result.status === 'done'
          ? `${people(result.done)} ${doneWords}.`
          : `${result.done} of ${people(result.touches)} changed; it goes on when you leave.`
      }}</b>
    </p>
    <p v-if="formError" class="notice clay" role="alert">{{ formError }}</p>
    <BulkToDos v-if="result.status === 'done'" :id="result.id" :to-dos="result.toDos" />
    <LeftOut :left-out="result.leftOut" />
    <template v-if="result.unchanged.length"
      ><p>Undone, except for this:</p>
      <LeftOut :left-out="result.unchanged" unchanged
    /></template>
    <div class="row">
      <v-btn color="primary" @click="emit('close')">Done</v-btn
      ><v-btn
        v-if="result.status === 'done' && result.done && result.action.type !== 'undo'"
        variant="outlined"
        @click="undoIt"
        >Undo</v-btn
      ><NuxtLink to="/changes" class="link small">All bulk actions</NuxtLink>
    </div>
  </div>
  <p v-else class="dim">Loading …</p>
</template>
