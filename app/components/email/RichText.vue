<script setup lang="ts">
import { Image } from '@tiptap/extension-image'
import { StarterKit } from '@tiptap/starter-kit'
import { EditorContent, useEditor } from '@tiptap/vue-3'
import { onMounted, ref, watch } from 'vue'
import { isPlain, paragraphs, plainText } from '#core/text/html'
import { useMergeFields } from '~/composables/mergeFields'
import { uploadForEmail } from './uploadForEmail'
import { useNotices } from '~/stores/notices'
import { mergeFieldNode, withChips, withoutChips } from './mergeFieldNode'

/**
 * A text with its formatting. What has none is plain text: then `html` is null and `body` is all there is. Of the
 * other, the plain text that is sent beside it is made by the server.
 */
interface Text {
  body: string
  html: string | null
}
const props = defineProps<{
  label: string
  /** Whether merge fields can be put in: not where everything is filled in already. */
  template?: boolean
  readonly?: boolean
  errorMessage?: string | undefined
  /** Has the cursor when it opens, at the top. */
  begin?: boolean
}>()
const model = defineModel<Text>({ required: true })
const notices = useNotices()
const { fields } = useMergeFields()
const asHtml = ({ body, html }: Text) => html ?? paragraphs(body)
/** What the editor shows, so that only changes from outside are put into it. */
let shown = asHtml(model.value)

/** Spaces stay as they were typed. */
const SPACES = { preserveWhitespace: true } as const
const editor = useEditor({
  content: withChips(shown),
  parseOptions: SPACES,
  editable: !props.readonly,
  // Its few rules stand below: the page takes no styles from scripts.
  injectCSS: false,
  extensions: [
    StarterKit.configure({
      heading: { levels: [2, 3] },
      code: false,
      codeBlock: false,
      horizontalRule: false,
      link: { openOnClick: false, autolink: false },
    }),
    Image.configure({ inline: true }),
    mergeFieldNode,
  ],
  editorProps: {
    attributes: { 'aria-label': props.label, role: 'textbox', 'aria-multiline': 'true' },
    // Ctrl+Enter is the form’s.
    handleKeyDown: (_, event) => (event.ctrlKey || event.metaKey) && event.key === 'Enter',
    handlePaste: (_, event) => takePictures(event.clipboardData?.files),
    handleDrop: (_, event) => takePictures((event as DragEvent).dataTransfer?.files),
  },
  onUpdate({ editor: now }) {
    const html = withoutChips(now.getHTML())
    const text = isPlain(html)
      ? { html: null, body: plainText(html) }
      : { html, body: now.getText({ blockSeparator: '\n\n' }) }
    shown = asHtml(text)
    model.value = { ...model.value, ...text }
  },
})
watch(model, (now) => {
  const html = asHtml(now)
  if (html === shown || !editor.value) return
  shown = html
  editor.value.commands.setContent(withChips(html), { emitUpdate: false, parseOptions: SPACES })
})
watch(
  () => props.readonly,
  (readonly) => editor.value?.setEditable(!readonly),
)
onMounted(() => {
  if (props.begin) editor.value?.commands.focus('start')
})
const chain = () => editor.value!.chain().focus()
const isOn = (name: string) => editor.value?.isActive(name) ?? false

const linking = ref(false)
const url = ref('')
function startLink(): void {
  url.value = (editor.value?.getAttributes('link').href as string | undefined) ?? 'https://'
}
function setLink(): void {
  const href = url.value.trim()
  linking.value = false
  if (!href || href === 'https://') return void chain().unsetLink().run()
  const selected = !editor.value!.state.selection.empty
  if (selected || isOn('link')) chain().extendMarkRange('link').setLink({ href }).run()
  else {
    chain()
      .insertContent({ type: 'text', text: href, marks: [{ type: 'link', attrs: { href } }] })
      .run()
  }
}
function removeLink(): void {
  linking.value = false
  chain().extendMarkRange('link').unsetLink().run()
}

const picker = ref<HTMLInputElement | null>(null)
async function addPicture(file: File): Promise<void> {
  try {
    const { id, name } = await uploadForEmail(file)
    chain()
      .setImage({ src: `/api/files/${id}`, alt: name.replace(/\.\w+$/, '') })
      .run()
  } catch (error) {
    notices.error(error)
  }
}
/** Takes pictures that are pasted or dropped; gives whether there were any. */
function takePictures(files: FileList | null | undefined): boolean {
  const pictures = [...(files ?? [])].filter((file) => /^image\/(?:png|jpeg|gif)$/.test(file.type))
  for (const picture of pictures) void addPicture(picture)
  return pictures.length > 0
}
function choosePicture(event: Event): void {
  const input = event.target as HTMLInputElement
  takePictures(input.files)
  input.value = ''
}
/** Puts a text in where the cursor is. */
function insert(text: Text): void {
  chain()
    .insertContent(withChips(asHtml(text)))
    .run()
}
defineExpose({ insert, focus: () => editor.value?.commands.focus() })
const MARKS = [
  { name: 'bold', label: 'Bold', run: () => chain().toggleBold().run() },
  { name: 'italic', label: 'Italic', run: () => chain().toggleItalic().run() },
  { name: 'bulletList', label: 'List', run: () => chain().toggleBulletList().run() },
  { name: 'orderedList', label: 'Numbers', run: () => chain().toggleOrderedList().run() },
]
</script>

<template>
  <div class="rich" :class="{ wrong: errorMessage, readonly }">
    <span class="dim label">{{ label }}</span>
    <div v-if="!readonly" class="tools" role="toolbar" aria-label="Formatting">
      <button
        v-for="mark in MARKS"
        :key="mark.name"
        type="button"
        class="plain"
        :class="[mark.name, { on: isOn(mark.name) }]"
        :aria-pressed="isOn(mark.name)"
        @click="mark.run"
      >
        {{ mark.label }}
      </button>
      <v-menu v-model="linking" :close-on-content-click="false" @update:model-value="$event && startLink()">
        <template #activator="{ props: act }"
          ><button v-bind="act" type="button" class="plain" :class="{ on: isOn('link') }">Link</button></template
        >
        <v-card class="pa-4" min-width="320">
          <v-text-field v-model="url" label="Address it leads to" autofocus @keydown.enter.prevent="setLink" />
          <div class="row mt-3">
            <v-btn size="small" color="primary" @click="setLink">Set link</v-btn
            ><v-btn v-if="isOn('link')" size="small" variant="text" @click="removeLink">Remove</v-btn>
          </div>
        </v-card>
      </v-menu>
      <button type="button" class="plain" @click="picker?.click()">Picture</button
      ><input ref="picker" type="file" accept="image/png,image/jpeg,image/gif" hidden @change="choosePicture" />
      <v-menu v-if="template">
        <template #activator="{ props: act }"><button v-bind="act" type="button" class="plain">Field</button></template>
        <v-list max-height="320">
          <v-list-item
            v-for="field in fields"
            :key="field.name"
            :title="field.label"
            @click="
              chain()
                .insertContent({ type: 'mergeField', attrs: { name: field.name } })
                .run()
            "
          />
        </v-list>
      </v-menu>
      <slot name="tools" />
    </div>
    <EditorContent :editor="editor" />
    <p v-if="errorMessage" class="clay small" role="alert">{{ errorMessage }}</p>
  </div>
</template>

<style scoped>
.label {
  font-size: 12.5px;
}
.tools {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 12px;
  padding: 2px 0 4px;
  border-bottom: 1px dashed var(--line);
}
.tools :deep(button) {
  padding: 2px 0;
  color: var(--dim);
  font-size: 13px;
}
.tools :deep(button:hover),
.tools .on {
  color: var(--ink);
}
.tools .on {
  box-shadow: inset 0 -2px var(--amber);
}
.tools .bold {
  font-weight: 700;
}
.tools .italic {
  font-style: italic;
}
.rich :deep(.tiptap) {
  white-space: break-spaces;
  overflow-wrap: break-word;
  min-height: 120px;
  padding: 8px 2px;
  border-bottom: 1px solid var(--stone);
  outline: none;
}
.rich :deep(.tiptap:focus-visible) {
  border-bottom-color: var(--amber);
  box-shadow: 0 1px 0 var(--amber);
}
.readonly :deep(.tiptap) {
  border-bottom-color: transparent;
}
.wrong :deep(.tiptap) {
  border-bottom-color: var(--clay);
}
.rich :deep(.tiptap p) {
  margin: 0 0 10px;
}
.rich :deep(.tiptap ul),
.rich :deep(.tiptap ol) {
  padding-left: 22px;
  margin: 0 0 10px;
}
.rich :deep(.tiptap img) {
  max-width: 100%;
}
.rich :deep(.tiptap a) {
  color: var(--pine);
}
</style>
