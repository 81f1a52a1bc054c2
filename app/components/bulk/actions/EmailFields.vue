<script setup lang="ts">
import { reactive, ref, watchEffect } from 'vue'
import { EMAIL_TYPES, choicesOf, type EmailType } from '#core/enumerations'
import type { BulkAction } from '#shared/api/bulk'
import { getCadence, listCadences } from '#shared/api/cadences'
import { mergeFields } from '#shared/api/settings/fields'
import { ApiError, call } from '~/api/call'
import { useOptions } from '~/composables/options'

const action = defineModel<BulkAction | null>({ required: true })
const given = reactive({ subject: '', body: '', kind: 'marketing' as EmailType, at: null as number | null })
/** Emails of cadences, to start from. */
const templates = useOptions(async () =>
  (await call(listCadences)).cadences
    .filter((one) => one.status !== 'archived')
    .flatMap((one) =>
      one.steps
        .filter((step) => step.kind === 'email')
        .map((step) => ({ value: `${one.id} ${step.id}`, title: `${one.name}: ${step.name}` })),
    ),
)
const template = ref<string | null>(null)
const templateError = ref('')
const fields = useOptions(() => call(mergeFields).then((answer) => answer.fields))
watchEffect(() => {
  const { subject, body, kind, at } = given
  action.value =
    subject.trim() && body.trim() ? { type: 'email', subject: subject.trim(), body, kind, sendAt: at } : null
})
async function takeTemplate(): Promise<void> {
  const [cadenceId, stepId] = template.value?.split(' ') ?? []
  if (!cadenceId) return
  templateError.value = ''
  try {
    const { steps } = await call(getCadence, { params: { id: cadenceId } })
    const step = steps.find((one) => one.id === stepId)
    if (step) Object.assign(given, { subject: step.subject, body: step.body })
  } catch (error) {
    templateError.value = error instanceof ApiError ? error.message : 'The email could not be read'
  }
}
</script>

<template>
  <v-select
    v-if="templates.length"
    v-model="template"
    :items="templates"
    :error-messages="templateError"
    label="Start from a cadence email (optional)"
    @update:model-value="takeTemplate"
  />
  <v-text-field v-model="given.subject" label="Subject" maxlength="300" />
  <v-textarea
    v-model="given.body"
    label="Text"
    rows="5"
    :hint="fields.length ? `Fields: ${fields.map(({ name }) => `{{ ${name} }}`).join(' ')}` : ''"
    persistent-hint
  />
  <v-select v-model="given.kind" :items="choicesOf(EMAIL_TYPES)" label="Email type" />
  <WhenField v-model="given.at" kind="task" :prospect-id="null" :time-zone="null" label="Send later (optional)" />
</template>
