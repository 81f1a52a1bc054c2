<script setup lang="ts">
import { computed, ref } from 'vue'
import { sendTestEmail } from '#shared/api/email/testEmails'
import { newId } from '#shared/newId'
import { call, messageOf } from '~/api/call'

/** The email of a bulk action as its first readers would get it, and as a test to oneself. */
interface Email {
  subject: string
  body: string
  html: string | null
}
const props = defineProps<{
  email: Email & { attachments: string[] }
  examples: readonly (Email & { id: string; name: string })[]
}>()
const shown = ref(0)
const example = computed(() => props.examples[Math.min(shown.value, props.examples.length - 1)] ?? null)
const tested = ref('')
async function sendTest(): Promise<void> {
  tested.value = ''
  const { subject, body, html } = props.email
  try {
    const { to } = await call(sendTestEmail, {
      body: { id: newId(), subject, body, html, prospectId: example.value!.id },
    })
    tested.value = `Sent to ${to}.`
  } catch (error) {
    tested.value = messageOf(error, 'It could not be sent')
  }
}
</script>

<template>
  <div v-if="example" class="panel mt-2">
    <p class="spread dim small">
      <span>As {{ example.name }} would read it</span
      ><span v-if="examples.length > 1" class="row"
        ><button type="button" class="link" :disabled="shown === 0" @click="shown--">Previous reader</button
        ><button type="button" class="link" :disabled="shown >= examples.length - 1" @click="shown++">
          Next reader
        </button></span
      >
    </p>
    <EmailPreview :email="example" />
    <p class="row small mt-2">
      <button type="button" class="link" @click="sendTest">Send me this as a test</button
      ><span role="status">{{ tested }}</span>
    </p>
  </div>
</template>

<style scoped>
.link:disabled {
  color: var(--bark);
  text-decoration: none;
  cursor: default;
}
</style>
