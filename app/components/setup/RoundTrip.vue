<script setup lang="ts">
import { onBeforeUnmount, ref } from 'vue'
import { getTestEmail, startRoundTrip } from '#shared/api/email/testEmails'
import { newId } from '#shared/newId'
import { call, messageOf } from '~/api/call'

/** Sends an email that has to come back, and says how far it is. */
const emit = defineEmits<{ done: [] }>()
const state = ref<'idle' | 'sending' | 'waiting' | 'back' | 'failed'>('idle')
const label = ref('')
let timer: ReturnType<typeof setTimeout> | undefined
onBeforeUnmount(() => clearTimeout(timer))
/** For so long it is waited for, in seconds. */
const LONGEST = 90

async function start(): Promise<void> {
  const id = newId()
  state.value = 'sending'
  label.value = 'Sending …'
  try {
    await call(startRoundTrip, { body: { id } })
    look(id, 0)
  } catch (error) {
    fail(messageOf(error, 'It could not be sent'))
  }
}
function fail(message: string): void {
  state.value = 'failed'
  label.value = message
}
function look(id: string, seconds: number): void {
  timer = setTimeout(async () => {
    const found = await call(getTestEmail, { params: { id } }).catch(() => null)
    if (found?.error) return fail(`The mail server refused it: ${found.error}. Check SMTP_URL.`)
    if (found?.returnedAt) {
      state.value = 'back'
      label.value = 'It came back: email out and in both work.'
      return emit('done')
    }
    if (found?.sentAt) {
      state.value = 'waiting'
      label.value = 'Sent. Waiting for it to come back …'
    }
    if (seconds >= LONGEST) {
      return fail(
        found?.sentAt
          ? 'It was sent but has not come back. Check that mail for MAIL_DOMAIN is forwarded to this machine.'
          : 'It has not been sent yet. Check that a worker is running.',
      )
    }
    look(id, seconds + 1)
  }, 1_000)
}
</script>

<template>
  <span class="trip">
    <button class="link small" :disabled="state === 'sending' || state === 'waiting'" @click="start">
      {{ state === 'failed' ? 'Send another test email' : 'Send test email' }}
    </button>
    <span v-if="label" class="small" :class="{ wrong: state === 'failed' }" role="status">{{ label }}</span>
  </span>
</template>

<style scoped>
.trip {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 10px;
  align-items: center;
}
.link {
  min-height: 24px;
}
.link:disabled {
  color: var(--bark);
  text-decoration: none;
  cursor: default;
}
.formError {
  color: var(--clay-deep);
}
</style>
