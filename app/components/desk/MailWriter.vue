<script setup lang="ts">
import { onMounted, ref, watch } from 'vue'
import { writeEmail, type Brief } from '#shared/api/desk'
import { call } from '~/api/call'
import { useSending } from '~/composables/sending'
import { useDrafts } from '~/stores/drafts'
import { useNotices } from '~/stores/notices'
import { useSession } from '~/stores/session'

/** Writes a mail to one person; it goes at once. Answers carry the thread on. */
const props = defineProps<{
  brief: Pick<Brief, 'prospect' | 'mail' | 'task'>
  /** The email of a cadence’s step, to be looked at and sent. */
  message?: Brief['message']
  taskId?: string | null
  /** Has the cursor when it opens. */ begin?: boolean
}>()
const emit = defineEmits<{ sent: [] }>()
const notices = useNotices()
const drafts = useDrafts()
const session = useSession()
/** Of a step’s email the draft is the step’s own. */
const whose = () => (props.message && props.taskId ? props.taskId : props.brief.prospect.id)
const begun = () => {
  if (props.message) return props.message.subject
  const last = props.brief.mail[0]
  if (last) return last.subject.startsWith('Re:') ? last.subject : `Re: ${last.subject}`
  return ''
}
const subject = drafts.draft('subject', whose, begun)
const signed = () => (session.user?.signature ? `\n\n${session.user.signature}` : '')
const body = drafts.draft('mail', whose, () => props.message?.body ?? signed())
const { formError, busy, send: sending } = useSending()
watch(whose, () => {
  formError.value = null
})
const form = ref<HTMLFormElement | null>(null)
onMounted(() => {
  if (props.begin) form.value?.querySelector<HTMLElement>(subject.value ? 'textarea' : 'input')?.focus()
})
/** The text goes above the signature. */
function toTop(event: FocusEvent): void {
  if (body.value === signed()) (event.target as HTMLTextAreaElement).setSelectionRange(0, 0)
}

const send = () =>
  sending(async () => {
    const id = whose()
    const { summary: label } = await call(writeEmail, {
      params: { id: props.brief.prospect.id },
      body: {
        id: crypto.randomUUID(),
        subject: subject.value,
        body: !props.message && body.value.trim() === session.user?.signature ? '' : body.value,
        taskId: props.taskId ?? null,
        inReplyTo: props.message ? null : (props.brief.mail[0]?.id ?? null),
      },
    })
    notices.say([`Email to ${props.brief.prospect.name} is on its way.`, label].filter(Boolean).join(' '))
    drafts.write('subject', id, null)
    drafts.write('mail', id, null)
    emit('sent')
  })
defineExpose({ send })
</script>

<template>
  <form ref="form" class="writer" @submit.prevent="send" @keydown.ctrl.enter="send">
    <v-text-field v-model="subject" label="Subject" :error-messages="formError?.at('subject')" />
    <v-textarea v-model="body" label="Text" rows="5" auto-grow :error-messages="formError?.at('body')" @focus="toTop" />
    <p v-if="message?.missing.length" class="notice">
      There is no {{ message.missing.join(', ').replaceAll('_', ' ') }} on record: fill the gap before you send it.
    </p>
    <p v-if="formError && !formError.at('subject') && !formError.at('body')" class="notice clay">
      {{ formError.message }}
    </p>
    <div>
      <v-btn type="submit" color="primary" size="small" :loading="busy"
        >Send now <kbd class="ml-2">Ctrl Enter</kbd></v-btn
      >
    </div>
  </form>
</template>

<style scoped>
.writer {
  display: grid;
  gap: 10px;
}
</style>
