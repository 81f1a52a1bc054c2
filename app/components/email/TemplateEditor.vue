<script setup lang="ts">
import { watchDebounced } from '@vueuse/core'
import { computed, onMounted, ref, shallowRef } from 'vue'
import type { z } from 'zod'
import { TEMPLATE_KINDS, type TemplateKind } from '#core/enumerations'
import { mergeFieldsInWords } from '#core/text/mergeFields'
import { onBeforeRouteLeave, onBeforeRouteUpdate } from '#imports'
import {
  addEmailTemplate,
  archiveEmailTemplate,
  editEmailTemplate,
  getEmailTemplate,
  previewEmail,
  type EmailTemplate,
} from '#shared/api/email/templates'
import { listProspects } from '#shared/api/prospects'
import { stages as listStages } from '#shared/api/settings/stages'
import { listSources } from '#shared/api/settings/settings'
import { call, messageOf } from '~/api/call'
import { useOptions } from '~/composables/options'
import { useSending } from '~/composables/sending'
import { useNotices } from '~/stores/notices'

/** One template or snippet: its text, to whom it is offered first, and what a prospect would get. */
const props = defineProps<{ id: string; kind: TemplateKind }>()
const emit = defineEmits<{ saved: [id: string | null] }>()
const notices = useNotices()
const { formError, busy, send } = useSending()
type Content = Pick<
  EmailTemplate,
  'name' | 'category' | 'shared' | 'subject' | 'body' | 'html' | 'attachments' | 'sources' | 'stages'
>
const blank: Content = {
  name: '',
  category: '',
  shared: true,
  subject: '',
  body: props.kind === 'email' ? 'Hello {{ first_name | default: "there" }},\n\n' : '',
  html: null,
  attachments: [],
  sources: [],
  stages: [],
}
const contentOf = (from: Content): Content => {
  const { name, category, shared, subject, body, html, attachments, sources, stages } = from
  return { name, category, shared, subject, body, html, attachments, sources, stages }
}
const template = shallowRef<EmailTemplate | null>(null)
const content = ref<Content>({ ...blank })
const ready = ref(props.id === 'new')
const saved = ref(JSON.stringify(blank))
const lastError = ref('')
const kind = computed(() => template.value?.kind ?? props.kind)
const mayEdit = computed(() => template.value?.mayEdit ?? true)
const dirty = computed(() => ready.value && JSON.stringify(content.value) !== saved.value)
const email = computed({
  get: () => {
    const { subject, body, html, attachments } = content.value
    return { subject, body, html, attachments }
  },
  set: (changed) => Object.assign(content.value, changed),
})

const people = useOptions(() => call(listProspects, { query: { limit: 10 } }).then((answer) => answer.prospects))
const stages = useOptions(() => call(listStages).then(({ stages: found }) => found))
const sources = useOptions(() => call(listSources).then((answer) => answer.sources))
const prospectId = ref<string | null>(null)
const preview = shallowRef<z.output<typeof previewEmail.response> | null>(null)

async function read(): Promise<void> {
  if (props.id === 'new') return
  try {
    template.value = await call(getEmailTemplate, { params: { id: props.id } })
    content.value = contentOf(template.value)
    saved.value = JSON.stringify(content.value)
    ready.value = true
  } catch (error) {
    lastError.value = messageOf(error, 'This template could not be read')
  }
}
onMounted(read)
watchDebounced(
  [email, prospectId, people, ready],
  async () => {
    if (!ready.value) return
    prospectId.value ??= people.value[0]?.id ?? null
    preview.value = await call(previewEmail, { body: { prospectId: prospectId.value, ...email.value } }).catch(
      () => null,
    )
  },
  { deep: true, debounce: 250, immediate: true },
)
const stay = () => !dirty.value || window.confirm('This text has unsaved changes. Leave without saving?')
onBeforeRouteLeave(stay)
onBeforeRouteUpdate(stay)

const save = () =>
  send(async () => {
    const body = { ...content.value }
    if (!template.value) {
      const { id } = await call(addEmailTemplate, { body: { kind: props.kind, ...body } })
      saved.value = JSON.stringify(content.value)
      notices.say('Saved.')
      return emit('saved', id)
    }
    const { id, version, usedBy } = template.value
    const next = await call(editEmailTemplate, { params: { id }, body: { version, ...body } })
    template.value = { ...template.value, ...body, version: next.version }
    saved.value = JSON.stringify(content.value)
    const steps = usedBy.length === 1 ? '1 step says' : `${usedBy.length} steps say`
    notices.say(usedBy.length ? `Saved. ${steps} the new text from now on.` : 'Saved.')
    emit('saved', id)
  })
async function archive(): Promise<void> {
  const { id, archived } = template.value!
  try {
    await call(archiveEmailTemplate, { params: { id }, body: { archived: !archived } })
    notices.say(archived ? 'It is offered again.' : 'Archived: it is no longer offered. Steps that use it keep it.')
    emit('saved', null)
  } catch (error) {
    notices.error(error)
  }
}
const errorAt = (field: string) =>
  formError.value?.at(field) ??
  preview.value?.faults
    .filter((fault) => fault.field === field)
    .map((fault) => `Line ${fault.line}: ${fault.message}`)[0]
const FIELDS = ['name', 'category', 'subject', 'body', 'attachments', 'shared']
const elsewhere = computed(() => formError.value && !FIELDS.some((field) => formError.value!.at(field)))
</script>

<template>
  <form class="panel editor" @submit.prevent="save">
    <p v-if="lastError" class="notice clay" role="alert">{{ lastError }}</p>
    <template v-if="ready">
      <div class="two">
        <v-text-field
          v-model="content.name"
          label="Name"
          maxlength="200"
          :readonly="!mayEdit"
          :autofocus="id === 'new'"
          :error-messages="errorAt('name')"
        />
        <v-text-field
          v-model="content.category"
          label="Category (optional)"
          maxlength="60"
          :readonly="!mayEdit"
          :error-messages="errorAt('category')"
        />
      </div>
      <p v-if="template?.usedBy.length" class="small">
        Used by
        <template v-for="(use, index) in template.usedBy.slice(0, 5)" :key="`${use.cadenceId} ${use.step}`"
          ><template v-if="index">, </template
          ><NuxtLink :to="`/cadences/${use.cadenceId}`" class="link"
            >{{ use.cadence }}: {{ use.step }}</NuxtLink
          ></template
        ><template v-if="template.usedBy.length > 5"> and {{ template.usedBy.length - 5 }} more</template>.
      </p>
      <EmailEditor v-if="kind === 'email'" v-model="email" template :readonly="!mayEdit" :error-at="errorAt" />
      <LazyRichText
        v-else
        v-model="email"
        label="Text"
        template
        :readonly="!mayEdit"
        :error-message="errorAt('body')"
      />
      <div v-if="kind === 'email'" class="two">
        <v-select
          v-model="content.sources"
          :items="sources.map(({ name }) => name)"
          label="Offer first for sources (optional)"
          multiple
          :readonly="!mayEdit"
        />
        <v-select
          v-model="content.stages"
          :items="stages.map(({ id: value, name }) => ({ value, title: name }))"
          label="Offer first for stages (optional)"
          multiple
          :readonly="!mayEdit"
        />
      </div>
      <CheckBox v-model="content.shared" label="Shared with the team" :disabled="!mayEdit" />
      <p v-if="errorAt('shared')" class="clay small" role="alert">{{ errorAt('shared') }}</p>
      <p v-if="elsewhere" class="notice clay" role="alert">{{ formError!.message }}</p>
      <div v-if="mayEdit" class="row">
        <v-btn type="submit" color="primary" size="small" :loading="busy" :disabled="!dirty || !content.name.trim()"
          >Save</v-btn
        ><v-btn v-if="template" size="small" variant="text" @click="archive">{{
          template.archived ? 'Bring back' : 'Archive'
        }}</v-btn>
      </div>
      <p v-else class="dim small">Shared with the team: a manager can change it.</p>
      <section class="preview">
        <ProspectField v-model="prospectId" :offered="people" label="Preview for" class="who" />
        <p v-if="preview?.missing.length" class="notice small">
          There is no {{ mergeFieldsInWords(preview.missing) }} on record, and no fallback: a
          {{ TEMPLATE_KINDS[kind] }} with a gap is not sent.
        </p>
        <EmailPreview v-if="preview" :email="preview" />
      </section>
    </template>
  </form>
</template>

<style scoped>
.editor,
.preview {
  display: grid;
  gap: 12px;
}
.preview {
  border-top: 1px solid var(--line);
  padding-top: 12px;
}
.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 20px;
}
.who {
  max-width: 300px;
}
@media (max-width: 760px) {
  .two {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
