<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import type { StepDraft } from '#shared/api/cadences/cadences'
import { addEmailTemplate, getEmailTemplate, type EmailTemplate } from '#shared/api/email/templates'
import { call } from '~/api/call'
import { useSending } from '~/composables/sending'
import { useNotices } from '~/stores/notices'

/** What the email of a step says: a text of its own, or that of a template, which many steps may use. */
const props = defineProps<{
  step: StepDraft
  /** What the step before is called; empty for the first. */
  previous: string
  editable: boolean
  errorAt: (field: string) => string | undefined
}>()
const emit = defineEmits<{ change: [changed: Partial<StepDraft>] }>()
const notices = useNotices()
/** The place of the version that is shown: 0 is the step’s own text. */
const shown = ref(0)
const versionAt = (place: number) => props.step.versions[place - 1]
const email = computed({
  get: () => {
    const { subject, body, html } = versionAt(shown.value) ?? props.step
    return { subject, body, html, attachments: props.step.attachments }
  },
  set: (changed) => {
    if (!versionAt(shown.value)) return emit('change', changed)
    const { attachments, ...text } = changed
    const versions = props.step.versions.map((one, place) => (place === shown.value - 1 ? { ...one, ...text } : one))
    emit('change', { versions, attachments })
  },
})
const readonly = computed(() => !props.editable || (shown.value === 0 && props.step.templateId !== null))
/** What is wrong with the version that is shown; attachments go with all of them. */
const errorOfShown = (field: string) =>
  props.errorAt(shown.value && field !== 'attachments' ? `versions.${shown.value - 1}.${field}` : field)
const template = shallowRef<EmailTemplate | null>(null)
watch(
  () => props.step.templateId,
  async (id) => {
    if (template.value?.id === id) return
    template.value = id ? await call(getEmailTemplate, { params: { id } }).catch(() => null) : null
  },
  { immediate: true },
)
function use(picked: EmailTemplate): void {
  if (shown.value) {
    const { subject, body, html } = picked
    email.value = { ...email.value, subject, body, html }
    return
  }
  const before = { ...email.value }
  template.value = picked
  const { id, subject, body, html, attachments } = picked
  emit('change', { templateId: id, subject, body, html, attachments })
  notices.say(`This step now uses the template “${picked.name}”.`, {
    label: 'Undo',
    run: () => emit('change', { templateId: null, ...before }),
  })
}
const naming = ref(false)
const name = ref('')
function startNaming(): void {
  name.value = props.step.name
  naming.value = true
}
const { formError, busy, send } = useSending()
const saveAsTemplate = () =>
  send(async () => {
    const { id } = await call(addEmailTemplate, { body: { kind: 'email', name: name.value, ...email.value } })
    template.value = await call(getEmailTemplate, { params: { id } })
    emit('change', { templateId: id })
    naming.value = false
    notices.say(`“${name.value}” is a template now, and this step uses it.`)
  })
</script>

<template>
  <div class="step-email">
    <p v-if="step.templateId && shown === 0" class="row small">
      <span
        >From the template <b>{{ template?.name ?? '…' }}</b><template v-if="(template?.usedBy.length ?? 0) > 1"
          >, which {{ template!.usedBy.length }} steps use</template
        >.</span
      >
      <NuxtLink :to="`/templates?open=${step.templateId}`" class="link">Edit the template</NuxtLink>
      <button v-if="editable" type="button" class="link" @click="emit('change', { templateId: null })">
        Write this step’s own text
      </button>
    </p>
    <StepVersions
      v-model="shown"
      :step="step"
      :editable="editable"
      :error-at="errorAt"
      @change="emit('change', $event)"
    />
    <EmailEditor
      :key="`${shown} ${step.templateId ?? 'own'}`"
      v-model="email"
      template
      offer-templates
      :readonly="readonly"
      :no-subject="previous ? 'Empty: goes on in the thread of the email before' : ''"
      :error-at="errorOfShown"
      @template="use"
    />
    <p v-if="errorAt('templateId')" class="clay small" role="alert">{{ errorAt('templateId') }}</p>
    <template v-if="editable && !step.templateId && shown === 0">
      <form v-if="naming" class="row" @submit.prevent="saveAsTemplate">
        <v-text-field
          v-model="name"
          label="Name of the template"
          maxlength="200"
          autofocus
          :error-messages="formError?.message"
        />
        <v-btn type="submit" size="small" color="primary" :loading="busy" :disabled="!name.trim()">Save</v-btn>
        <v-btn size="small" variant="text" @click="naming = false">Cancel</v-btn>
      </form>
      <p v-else class="small">
        <button type="button" class="link" @click="startNaming">Save as a template</button>
      </p>
    </template>
  </div>
</template>

<style scoped>
.step-email {
  display: grid;
  gap: 10px;
}
.row {
  gap: 12px;
  flex-wrap: wrap;
}
</style>
