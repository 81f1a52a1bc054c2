<script setup lang="ts">
import { computed, nextTick, ref, shallowRef } from 'vue'
import type { TemplateKind } from '#core/enumerations'
import { mergeFieldsInWords } from '#core/text/mergeFields'
import { listEmailTemplates, previewEmail, type EmailTemplate } from '#shared/api/email/templates'
import { call } from '~/api/call'
import { useNotices } from '~/stores/notices'

/** Email templates or snippets to take from: those that fit the prospect first. */
const props = defineProps<{
  kind: TemplateKind
  prospectId?: string | null
  /** Whether what is taken is filled in for the prospect. */
  filled?: boolean
  /** The key that opens it, as it is shown. */
  keyHint?: string
}>()
const emit = defineEmits<{ pick: [template: EmailTemplate] }>()
const notices = useNotices()
const templates = shallowRef<readonly (EmailTemplate & { fits: boolean })[] | null>(null)
const search = ref('')
const open = ref(false)
const list = ref<{ $el: HTMLElement } | null>(null)
const found = computed(() => {
  const words = search.value.trim().toLowerCase()
  return (templates.value ?? []).filter((one) => `${one.category} ${one.name}`.toLowerCase().includes(words))
})
async function read(): Promise<void> {
  search.value = ''
  const query = { kind: props.kind, ...(props.prospectId && { prospectId: props.prospectId }) }
  templates.value = await call(listEmailTemplates, { query }).then(
    (answer) => answer.templates,
    (error) => {
      notices.error(error)
      return []
    },
  )
}
/** Opens it by a key: the first to choose has the cursor. */
async function openByKey(): Promise<void> {
  open.value = true
  await read()
  await nextTick()
  list.value?.$el.querySelector<HTMLElement>('input, .v-list-item')?.focus()
}
defineExpose({ open: openByKey })
async function pick(template: EmailTemplate): Promise<void> {
  if (!props.filled && !(props.kind === 'snippet' && props.prospectId)) return emit('pick', template)
  try {
    const { subject, body, html, attachments } = template
    const email = { subject, body, html, attachments }
    const own = await call(previewEmail, { body: { prospectId: props.prospectId ?? null, ...email } })
    if (own.missing.length) {
      notices.say(`There is no ${mergeFieldsInWords(own.missing)} on record: fill the gap yourself.`)
    }
    emit('pick', { ...template, subject: own.subject, body: own.body, html: own.html })
  } catch (error) {
    notices.error(error)
  }
}
</script>

<template>
  <v-menu v-model="open" @update:model-value="$event && read()">
    <template #activator="{ props: act }"
      ><button v-bind="act" type="button" class="plain" :aria-keyshortcuts="keyHint" :title="keyHint">
        {{ kind === 'email' ? 'Template' : 'Snippet' }}
      </button></template
    >
    <v-list ref="list" max-height="360" min-width="280" max-width="420">
      <v-list-item v-if="(templates?.length ?? 0) > 8" @click.stop>
        <v-text-field v-model="search" label="Search" autofocus @keydown.stop />
      </v-list-item>
      <v-list-item
        v-for="one in found"
        :key="one.id"
        :title="one.name"
        :subtitle="
          [one.fits ? 'For this prospect' : '', one.category, one.owner ? 'only mine' : '']
            .filter(Boolean)
            .join(' · ') || undefined
        "
        @click="pick(one)"
      />
      <v-list-item
        v-if="templates && !found.length"
        :title="kind === 'email' ? 'No email templates yet' : 'No snippets yet'"
        :subtitle="templates.length ? 'Nothing matches' : 'Add one'"
        to="/templates"
      />
    </v-list>
  </v-menu>
</template>
