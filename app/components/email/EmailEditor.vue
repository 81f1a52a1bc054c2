<script setup lang="ts">
import { until, useEventListener } from '@vueuse/core'
import { computed, ref, watch, type Ref } from 'vue'
import { emailHints } from '#core/email/hints'
import type { EmailTemplate } from '#shared/api/email/templates'

/** An email as it is written: subject, text with its formatting, and files; with what may keep it from being read. */
interface EmailText {
  subject: string
  body: string
  html: string | null
  attachments: string[]
}
const props = defineProps<{
  /** Whether merge fields are filled in later: a template, not a text to one person. */
  template?: boolean
  /** To whom it goes; what is taken from a template is filled in for them. */
  prospectId?: string | null
  readonly?: boolean
  /** What stands in an empty subject. */
  noSubject?: string
  errorAt?: (field: string) => string | undefined
  /** Has the cursor when it opens. */
  begin?: boolean
  /** Whether a whole template can be taken. */
  offerTemplates?: boolean
  /** Begins as a plain field, which is there at once; formatting is loaded when it is asked for. */
  simple?: boolean
}>()
const emit = defineEmits<{ template: [template: EmailTemplate] }>()
const email = defineModel<EmailText>({ required: true })
const set = (changed: Partial<EmailText>) => {
  email.value = { ...email.value, ...changed }
}
const subject = computed({ get: () => email.value.subject, set: (text) => set({ subject: text }) })
const attachments = computed({ get: () => email.value.attachments, set: (ids) => set({ attachments: ids }) })
const text = computed({
  get: () => ({ body: email.value.body, html: email.value.html }),
  set: ({ body, html }) => set({ body, html }),
})
/** What is typed into an empty subject while the text is fetched does not take the cursor there. */
const beginsInText = props.begin && Boolean(email.value.subject)
const rich = ref(!props.simple || email.value.html !== null)
watch(
  () => email.value.html,
  (html) => {
    rich.value ||= html !== null
  },
)
const body = computed({ get: () => email.value.body, set: (typed) => set({ body: typed }) })
/** What is typed goes above the signature. */
function toTop(event: FocusEvent): void {
  if (body.value.startsWith('\n')) (event.target as HTMLTextAreaElement).setSelectionRange(0, 0)
}
const bytes = ref(0)
const hints = computed(() =>
  email.value.body.trim() ? emailHints({ ...email.value, bytes: bytes.value, isAnswer: !props.template }) : [],
)
interface Editor {
  insert: (piece: { body: string; html: string | null }) => void
  focus: () => void
}
const editor = ref<Editor | null>(null)
interface Menu {
  open: () => Promise<void>
}
const snippets = ref<Menu | null>(null)
const templates = ref<Menu | null>(null)
/** Opens the templates or the snippets, with formatting: what is taken may have some. */
async function openMenu(menu: Ref<Menu | null>): Promise<void> {
  rich.value = true
  await until(menu).toBeTruthy({ timeout: 5_000 })
  await menu.value?.open()
}
const openTemplates = () => openMenu(templates)
const openSnippets = () => openMenu(snippets)
const root = ref<HTMLElement | null>(null)
/**
 * Alt with T or S opens the templates or the snippets, wherever in the email the cursor is, or while nothing else has
 * it.
 */
function onKey(event: KeyboardEvent): void {
  if (!event.altKey || event.ctrlKey || event.metaKey || props.readonly) return
  const here = event.target as Element
  if (here !== document.body && !root.value?.contains(here)) return
  const open = { KeyT: props.offerTemplates ? openTemplates : undefined, KeyS: openSnippets }[event.code]
  if (!open) return
  event.preventDefault()
  void open()
}
useEventListener(document, 'keydown', onKey)
function take(template: EmailTemplate): void {
  emit('template', template)
  editor.value?.focus()
}
const errorOf = (field: string) => props.errorAt?.(field)
</script>

<template>
  <div ref="root" class="email">
    <LazyTemplateText
      v-if="template"
      v-model="subject"
      label="Subject"
      :longest="300"
      :readonly="readonly"
      :placeholder="noSubject"
      :error-message="errorOf('subject')"
    />
    <v-text-field
      v-else
      v-model="subject"
      label="Subject"
      maxlength="300"
      :readonly="readonly"
      :placeholder="noSubject"
      persistent-placeholder
      :error-messages="errorOf('subject')"
    />
    <template v-if="!rich">
      <v-textarea v-model="body" label="Text" rows="5" auto-grow :error-messages="errorOf('body')" @focus="toTop" />
      <p class="row small ways">
        <button v-if="offerTemplates" type="button" class="link" @click="openTemplates">
          Template <kbd aria-hidden="true">Alt T</kbd>
        </button>
        <button type="button" class="link" @click="openSnippets">Snippet <kbd aria-hidden="true">Alt S</kbd></button>
        <button type="button" class="link" @click="rich = true">Formatting, files</button>
      </p>
    </template>
    <LazyRichText
      v-else
      ref="editor"
      v-model="text"
      label="Text"
      :template="template"
      :readonly="readonly"
      :begin="beginsInText"
      :error-message="errorOf('body')"
    >
      <template #tools>
        <LazyTemplateMenu
          ref="snippets"
          kind="snippet"
          key-hint="Alt+S"
          :prospect-id="template ? null : prospectId"
          @pick="editor?.insert($event)"
        />
        <TemplateMenu
          v-if="offerTemplates"
          ref="templates"
          kind="email"
          key-hint="Alt+T"
          :prospect-id="prospectId"
          :filled="!template"
          @pick="take"
        />
      </template>
    </LazyRichText>
    <LazyAttachedFiles
      v-if="rich || email.attachments.length"
      v-model="attachments"
      :html="email.html"
      :readonly="readonly"
      :error-message="errorOf('attachments')"
      @bytes="bytes = $event"
    />
    <ul v-if="hints.length && !readonly" class="hints small" aria-label="What may keep it from being read">
      <li v-for="hint in hints" :key="hint.message">
        <b>{{ hint.field === 'subject' ? 'Subject' : hint.field === 'body' ? 'Text' : 'Files' }}:</b>
        {{ hint.message }}.
      </li>
    </ul>
  </div>
</template>

<style scoped>
.email {
  display: grid;
  gap: 10px;
}
.ways {
  flex-wrap: wrap;
  column-gap: 14px;
}
.ways .link {
  white-space: nowrap;
}
.hints {
  margin: 0;
  padding: 8px 10px 8px 26px;
  background: var(--amber-soft);
  color: var(--amber-deep);
  border-radius: 6px;
}
</style>
