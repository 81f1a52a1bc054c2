import { defineStore } from 'pinia'
import { shallowRef } from 'vue'
import { listVoicemailMessages, type VoicemailMessage } from '#shared/api/desk/voicemail'
import { call } from '~/api/call'

/** The user's voicemail messages, the one that is left by the key first; null until they are read. */
export const useVoicemail = defineStore('voicemail', () => {
  const messages = shallowRef<VoicemailMessage[] | null>(null)
  async function read(): Promise<void> {
    messages.value = (await call(listVoicemailMessages)).messages
  }
  /** Reads them unless they are known. */
  async function know(): Promise<void> {
    if (!messages.value) await read()
  }
  return { messages, read, know }
})
