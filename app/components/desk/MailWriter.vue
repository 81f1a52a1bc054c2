<script setup lang="ts">
import { computed, onMounted, ref, watch } from 'vue'
import { mergeFieldsInWords } from '#core/text/mergeFields'
import { writeEmail, type Brief } from '#shared/api/desk/desk'
import type { EmailTemplate } from '#shared/api/email/templates'
import { newId } from '#shared/newId'
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
/** Formatting and files, put by as one text. */
const extras = drafts.draft('mail extras', whose, () =>
  JSON.stringify({ html: props.message?.html ?? null, attachments: props.message?.attachments ?? [] }),
)
interface Email {
  subject: string
  body: string
  html: string | null
  attachments: string[]
}
const email = computed<Email>({
  get: () => ({
    subject: subject.value,
    body: body.value,
    ...(JSON.parse(extras.value) as Pick<Email, 'html' | 'attachments'>),
  }),
  set: ({ html, attachments, ...texts }) => {
    subject.value = texts.subject
    body.value = texts.body
    extras.value = JSON.stringify({ html, attachments })
  },
})
/** Takes what a template says, which can be taken back; an answer keeps its subject. */
function take(template: EmailTemplate): void {
  const { html, attachments } = template
  const [before, id] = [email.value, whose()]
  if (before.body.trim() && before.body !== signed()) {
    notices.say(`The text is now that of “${template.name}”.`, {
      label: 'Undo',
      run: () => {
        if (whose() === id) email.value = before
      },
    })
  }
  email.value = { subject: subject.value || template.subject, body: template.body, html, attachments }
}
const { formError, busy, send: sending } = useSending()
watch(whose, () => {
  formError.value = null
})
const form = ref<HTMLFormElement | null>(null)
onMounted(() => {
  if (props.begin && !subject.value) form.value?.querySelector<HTMLElement>('input')?.focus()
})

const send = () =>
  sending(async () => {
    const id = whose()
    const { html, attachments } = email.value
    const { summary: label } = await call(writeEmail, {
      params: { id: props.brief.prospect.id },
      body: {
        id: newId(),
        subject: subject.value,
        body: !props.message && body.value.trim() === session.user?.signature ? '' : body.value,
        html,
        attachments,
        taskId: props.taskId ?? null,
        inReplyTo: props.message ? null : (props.brief.mail[0]?.id ?? null),
      },
    })
    notices.say([`Email to ${props.brief.prospect.name} is on its way.`, label].filter(Boolean).join(' '))
    drafts.write('subject', id, null)
    drafts.write('mail', id, null)
    drafts.write('mail extras', id, null)
    emit('sent')
  })
defineExpose({ send })
</script>

<template>
  <form ref="form" class="writer" @submit.prevent="send" @keydown.ctrl.enter="send">
    <EmailEditor
      :key="whose()"
      v-model="email"
      :prospect-id="brief.prospect.id"
      offer-templates
      :simple="!begin"
      :begin="begin"
      :error-at="(field) => formError?.at(field)"
      @template="take"
    />
    <p v-if="message?.missing.length" class="notice">
      There is no {{ mergeFieldsInWords(message.missing) }} on record: fill the gap before you send it.
    </p>
    <p
      v-if="formError && !['subject', 'body', 'attachments'].some((field) => formError!.at(field))"
      class="notice clay"
    >
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
