<script setup lang="ts">
import { reactive, ref, watchEffect } from 'vue'
import { EMAIL_TYPES, choicesOf, type EmailType } from '#core/enumerations'
import type { BulkAction } from '#shared/api/bulk'
import type { EmailTemplate } from '#shared/api/email/templates'
import { useNotices } from '~/stores/notices'

const action = defineModel<BulkAction | null>({ required: true })
const email = ref({ subject: '', body: '', html: null as string | null, attachments: [] as string[] })
const given = reactive({ kind: 'marketing' as EmailType, at: null as number | null })
watchEffect(() => {
  const { subject, body } = email.value
  action.value =
    subject.trim() && body.trim()
      ? { type: 'email', ...email.value, subject: subject.trim(), kind: given.kind, sendAt: given.at }
      : null
})
const notices = useNotices()
function take({ name, subject, body, html, attachments }: EmailTemplate): void {
  const before = email.value
  if (before.body.trim()) {
    notices.say(`The text is now that of “${name}”.`, {
      label: 'Undo',
      run: () => {
        email.value = before
      },
    })
  }
  email.value = { subject, body, html, attachments }
}
</script>

<template>
  <EmailEditor v-model="email" template offer-templates @template="take" />
  <v-select v-model="given.kind" :items="choicesOf(EMAIL_TYPES)" label="Email type" />
  <WhenField v-model="given.at" kind="task" :prospect-id="null" :time-zone="null" label="Send later (optional)" />
</template>
