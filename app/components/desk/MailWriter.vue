<script setup lang="ts">
import { ref, watch } from 'vue'
import { writeEmail, type Brief } from '#shared/api/desk'
import { call } from '~/composables/api'
import { useSending } from '~/composables/sending'
import { useNotices } from '~/stores/notices'

/** Writes a mail to one person; it goes at once. Answers carry the thread on. */
const props = defineProps<{ brief: Pick<Brief, 'prospect' | 'mail' | 'task'>, taskId?: string | null }>()
const emit = defineEmits<{ sent: [] }>()
const notices = useNotices()
const subject = ref('')
const body = ref('')
const { wrong, busy, send: sending } = useSending()
watch(() => props.brief.prospect.id, () => {
  const last = props.brief.mail[0]
  subject.value = last ? last.subject.startsWith('Re:') ? last.subject : `Re: ${last.subject}` : ''
  body.value = ''
  wrong.value = null
}, { immediate: true })

const send = () => sending(async () => {
  await call(writeEmail, { params: { id: props.brief.prospect.id }, body: { id: crypto.randomUUID(), subject: subject.value, body: body.value, taskId: props.taskId ?? null, inReplyTo: props.brief.mail[0]?.id ?? null } })
  notices.say(`Mail to ${props.brief.prospect.name} is on its way.`)
  body.value = ''
  emit('sent')
})
</script>

<template>
  <form class="writer" @submit.prevent="send" @keydown.ctrl.enter="send">
    <v-text-field v-model="subject" label="Subject" :error-messages="wrong?.at('subject')" />
    <v-textarea v-model="body" label="Text" rows="5" auto-grow :error-messages="wrong?.at('body')" />
    <p v-if="wrong && !wrong.at('subject') && !wrong.at('body')" class="notice clay">{{ wrong.message }}</p>
    <div><v-btn type="submit" color="primary" size="small" :loading="busy">Send now <kbd class="ml-2">Ctrl Enter</kbd></v-btn></div>
  </form>
</template>

<style scoped>
.writer { display: grid; gap: 10px; }
</style>
