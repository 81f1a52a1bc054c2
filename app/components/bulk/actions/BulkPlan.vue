<script setup lang="ts">
import { computed, reactive, ref, watchEffect } from 'vue'
import { TO_DO_KINDS, choicesOf, type ToDoKind } from '#core/enumerations'
import type { BulkAction } from '#shared/api/bulk'
import type { EmailTemplate } from '#shared/api/email/templates'
import { listUsers } from '#shared/api/settings/settings'
import { call } from '~/api/call'
import { useOptions } from '~/composables/options'

/** A to-do for everyone: what kind, what it says, when, and for whom. */
const action = defineModel<BulkAction | null>({ required: true })
const given = reactive({
  task: 'call' as ToDoKind,
  title: '',
  body: '',
  at: null as number | null,
  ownerId: null as string | null,
})
const email = ref({ subject: '', body: '', html: null as string | null, attachments: [] as string[] })
const users = useOptions(() => call(listUsers).then((answer) => answer.users.filter((user) => user.active)))
const isEmail = computed(() => given.task === 'email')
/** What the text of each kind is. */
const BODY: Readonly<Record<Exclude<ToDoKind, 'email'>, string>> = {
  call: 'What to say (optional)',
  text: 'Text message (optional)',
  task: 'Details (optional)',
}
const PLAIN = { subject: '', html: null, attachments: [] }
watchEffect(() => {
  const { task, at, ownerId, body } = given
  const subject = email.value.subject.trim()
  const title = isEmail.value ? subject.slice(0, 200) : given.title.trim()
  const content = isEmail.value ? { ...email.value, subject } : { ...PLAIN, body }
  action.value = title && at !== null ? { type: 'plan', task, title, ...content, dueAt: at, ownerId } : null
})
function take({ subject, body, html, attachments }: EmailTemplate): void {
  email.value = { subject, body, html, attachments }
}
</script>

<template>
  <div class="pair">
    <v-select v-model="given.task" :items="choicesOf(TO_DO_KINDS)" label="Type" /><v-select
      v-model="given.ownerId"
      :items="[{ id: null, name: 'Each one’s own owner' }, ...users]"
      item-value="id"
      item-title="name"
      label="Assign to"
    />
  </div>
  <v-text-field v-if="!isEmail" v-model="given.title" label="Title" maxlength="200" />
  <WhenField v-model="given.at" kind="task" :prospect-id="null" :time-zone="null" />
  <EmailEditor v-if="isEmail" v-model="email" template offer-templates @template="take" />
  <LazyTemplateText
    v-else
    :key="given.task"
    v-model="given.body"
    lines
    :label="BODY[given.task as Exclude<ToDoKind, 'email'>]"
    :longest="50000"
  />
  <p v-if="given.task === 'email' || given.task === 'text'" class="dim small">
    It waits on its owner’s Desk to be reviewed and sent.
  </p>
</template>

<style scoped>
.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px;
}
</style>
