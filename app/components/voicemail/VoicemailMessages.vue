<script setup lang="ts">
import { useFileDialog, useIntervalFn } from '@vueuse/core'
import { onMounted, ref } from 'vue'
import {
  addVoicemailMessage,
  editVoicemailMessage,
  removeVoicemailMessage,
  type VoicemailMessage,
} from '#shared/api/desk/voicemail'
import { call, upload } from '~/api/call'
import { stopwatch } from '~/composables/times'
import { useNotices } from '~/stores/notices'
import { useVoicemail } from '~/stores/voicemail'
import { useRecorder } from './recorder'

/** The messages a rep leaves in voicemail boxes: recorded here or chosen as files; the first is left by the key. */
const voicemail = useVoicemail()
const notices = useNotices()
onMounted(() => voicemail.read().catch(notices.error))
const formError = ref('')
const tick = ref(Date.now())
useIntervalFn(() => {
  tick.value = Date.now()
}, 500)

/** Keeps a message and reads them again; what is refused is said where it was chosen. */
async function keep(file: File, name: string): Promise<void> {
  formError.value = ''
  try {
    await upload(`${addVoicemailMessage.path}?name=${encodeURIComponent(name.slice(0, 60))}`, file, () => {})
    await voicemail.read()
  } catch (error) {
    formError.value = (error as Error).message
  }
}
const numbered = () => `Message ${(voicemail.messages?.length ?? 0) + 1}`
const { recording, startedAt, error: micError, start, stop } = useRecorder((file) => void keep(file, numbered()))
const { open: chooseFile, onChange } = useFileDialog({
  accept: '.wav,.ogg,audio/wav,audio/ogg',
  multiple: false,
  reset: true,
})
onChange((files) => {
  const [file] = files ?? []
  if (file) void keep(file, file.name.replace(/\.\w+$/, '') || numbered())
})
async function edit(work: () => Promise<unknown>): Promise<void> {
  await work().catch(notices.error)
  await voicemail.read().catch(notices.error)
}
function rename(one: VoicemailMessage, name: string): void {
  if (name.trim() && name.trim() !== one.name) {
    void edit(() => call(editVoicemailMessage, { params: { id: one.id }, body: { name } }))
  }
}
</script>

<template>
  <section aria-label="Voicemail messages">
    <h2>Voicemail messages</h2>
    <p class="dim mb-2">
      When a voicemail box answers your call, <kbd>V</kbd> on the Desk leaves the first of these, logs the outcome, and
      you go on while it plays.
    </p>
    <ul v-if="voicemail.messages?.length" class="messages">
      <li v-for="(one, index) in voicemail.messages" :key="one.id" class="row">
        <input
          :value="one.name"
          maxlength="60"
          :aria-label="`Name of ${one.name}`"
          @change="rename(one, ($event.target as HTMLInputElement).value)"
        />
        <span class="num dim">{{ stopwatch(one.seconds * 1000) }}</span>
        <audio
          controls
          preload="none"
          :src="`/api/voicemail-messages/${one.id}`"
          :aria-label="`Listen to ${one.name}`"
        />
        <span v-if="index === 0" class="chip pine">left by <kbd>V</kbd></span>
        <button
          v-else
          class="link small"
          @click="edit(() => call(editVoicemailMessage, { params: { id: one.id }, body: { first: true } }))"
        >
          Make first
        </button>
        <button
          class="link small"
          :aria-label="`Delete ${one.name}`"
          @click="edit(() => call(removeVoicemailMessage, { params: { id: one.id } }))"
        >
          Delete
        </button>
      </li>
    </ul>
    <p v-else-if="voicemail.messages" class="dim">None yet.</p>
    <div class="row mt-2">
      <v-btn v-if="recording" color="primary" @click="stop"
        >Stop and save <span class="num ml-2">{{ stopwatch(tick - startedAt) }} of 1:00</span></v-btn
      >
      <v-btn v-else variant="outlined" @click="start">Record a message</v-btn>
      <v-btn variant="text" :disabled="recording" @click="chooseFile()">Choose a file (WAV or OGG)</v-btn>
    </div>
    <p v-if="formError || micError" class="small clay mt-1" role="alert">{{ formError || micError }}</p>
  </section>
</template>

<style scoped>
.messages {
  list-style: none;
  padding: 0;
}
.messages li {
  padding: 6px 0;
  border-bottom: 1px solid var(--line);
  align-items: center;
}
audio {
  height: 32px;
  max-width: 240px;
}
input {
  width: 200px;
}
.clay {
  color: var(--clay-deep);
}
</style>
