<script setup lang="ts">
import { nextTick, ref } from 'vue'
import type { Brief } from '#shared/api/desk/desk'
import { addNote, deleteNote, editNote, pinNote } from '#shared/api/prospects'
import { newId } from '#shared/newId'
import { ApiError, call } from '~/api/call'
import { useTimes } from '~/composables/times'
import { useDrafts } from '~/stores/drafts'
import { useNotices } from '~/stores/notices'

/** The notes on a person: added, changed and deleted by who wrote them; one can be pinned to the top of the page. */
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
type Note = Brief['notes'][number]
/** The note that is being changed: what it is to say, and what it said when that began. */
const edited = ref<{ note: Note; body: string; was: string } | null>(null)
const editor = ref<HTMLTextAreaElement[]>([])
async function edit(note: Note): Promise<void> {
  edited.value = { note, body: note.body, was: note.body }
  await nextTick()
  editor.value[0]?.focus()
}
async function saveEdit(): Promise<void> {
  const { note, body, was } = edited.value!
  if (!body.trim()) return remove(note)
  try {
    await call(editNote, { params: { id: props.prospectId, note: note.id }, body: { body, was } })
    edited.value = null
  } catch (error) {
    notices.error(error)
    // What was typed stays beside what it says now; saved once more, it takes its place.
    if (edited.value && error instanceof ApiError && error.code === 'conflict') {
      edited.value.was = (error.current as { body: string }).body
    }
  }
  emit('changed')
}
async function remove(note: Note): Promise<void> {
  await act(async () => {
    await call(deleteNote, { params: { id: props.prospectId, note: note.id } })
    edited.value = null
    notices.say('Note deleted.', {
      label: 'Undo',
      run: () =>
        void act(() => call(addNote, { params: { id: props.prospectId }, body: { id: newId(), body: note.body } })),
    })
  })
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
const pin = (note: Note) =>
  act(() => call(pinNote, { params: { id: props.prospectId, note: note.id }, body: { pinned: !note.pinned } }))
</script>

<template>
  <section class="panel">
    <h3><label for="keep">Add a note</label> <kbd aria-hidden="true">N</kbd></h3>
    <textarea id="keep" v-model="text" rows="2" class="keep" maxlength="10000" />
    <v-btn size="small" variant="outlined" :disabled="!text.trim()" :loading="busy" @click="keep">Save note</v-btn>
    <div v-for="note in notes" :key="note.id" class="small mt-2">
      <div class="row">
        <span class="dim num">{{ times.moment(note.at) }} {{ note.by }}</span>
        <button class="link" @click="pin(note)">{{ note.pinned ? 'Unpin' : 'Pin to the top' }}</button>
        <template v-if="note.mayEdit && edited?.note.id !== note.id">
          <button class="link" @click="edit(note)">Edit</button>
          <button class="link" @click="remove(note)">Delete</button>
        </template>
      </div>
      <form v-if="edited?.note.id === note.id" @submit.prevent="saveEdit">
        <textarea
          ref="editor"
          v-model="edited.body"
          rows="3"
          class="keep"
          maxlength="10000"
          aria-label="Note"
          @keydown.ctrl.enter.prevent="saveEdit"
          @keydown.esc.stop="edited = null"
        />
        <div class="row">
          <v-btn type="submit" size="small" variant="outlined">Save <kbd class="ml-2">Ctrl Enter</kbd></v-btn
          ><v-btn size="small" variant="text" @click="edited = null">Cancel</v-btn>
        </div>
      </form>
      <p v-if="edited?.note.id !== note.id || edited.was !== edited.note.body" class="pre">{{ note.body }}</p>
    </div>
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
.row {
  flex-wrap: wrap;
  column-gap: 10px;
}
.link {
  display: inline-block;
  min-height: 24px;
  line-height: 24px;
}
</style>
