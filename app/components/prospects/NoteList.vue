<script setup lang="ts">
import { ref } from 'vue'
import type { Brief } from '#shared/api/desk/desk'
import { addNote, pinNote } from '#shared/api/prospects'
import { newId } from '#shared/newId'
import { call } from '~/api/call'
import { useTimes } from '~/composables/times'
import { useDrafts } from '~/stores/drafts'
import { useNotices } from '~/stores/notices'

/** The notes on a person; one of them can be pinned to the top of the page. */
const props = defineProps<{ prospectId: string; notes: Brief['notes'] }>()
const emit = defineEmits<{ changed: [] }>()
const times = useTimes()
const notices = useNotices()
const text = useDrafts().draft('note', () => props.prospectId)
const busy = ref(false)
async function act(work: () => Promise<unknown>): Promise<void> {
  try {
    await work()
    emit('changed')
  } catch (error) {
    notices.error(error)
  }
}
async function keep(): Promise<void> {
  if (busy.value) return
  busy.value = true
  await act(async () => {
    await call(addNote, { params: { id: props.prospectId }, body: { id: newId(), body: text.value } })
    text.value = ''
  })
  busy.value = false
}
const pin = (note: Brief['notes'][number]) =>
  act(() => call(pinNote, { params: { id: props.prospectId, note: note.id }, body: { pinned: !note.pinned } }))
</script>

<template>
  <section class="panel">
    <h3><label for="keep">Add a note</label></h3>
    <textarea id="keep" v-model="text" rows="2" class="keep" maxlength="10000" />
    <v-btn size="small" variant="outlined" :disabled="!text.trim()" :loading="busy" @click="keep">Save note</v-btn>
    <p v-for="note in notes" :key="note.id" class="small pre mt-2">
      <span class="dim num">{{ times.moment(note.at) }} {{ note.by }}</span>
      <button class="link" @click="pin(note)">{{ note.pinned ? 'Unpin' : 'Pin to the top' }}</button><br />{{
        note.body
      }}
    </p>
  </section>
</template>

<style scoped>
.keep {
  width: 100%;
  font: inherit;
  border: 1px solid var(--line);
  border-radius: 6px;
  padding: 6px;
  margin: 4px 0;
  background: var(--card);
}
.link {
  display: inline-block;
  min-height: 24px;
  line-height: 24px;
}
</style>
