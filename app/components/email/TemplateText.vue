<script setup lang="ts">
import { StarterKit } from '@tiptap/starter-kit'
import { Extension } from '@tiptap/core'
import { EditorContent, useEditor } from '@tiptap/vue-3'
import { ref, watch } from 'vue'
import { paragraphs } from '#core/text/html'
import { useMergeFields } from '~/composables/mergeFields'
import { mergeFieldNode, withChips } from './mergeFieldNode'

/** Text without formatting, in which merge fields are chips: one line, or as many as it needs. */
const props = defineProps<{
  label: string
  /** Its most characters. */
  longest: number
  /** Whether it may have several lines. */
  lines?: boolean
  readonly?: boolean
  /** What stands there while it is empty. */
  placeholder?: string | undefined
  errorMessage?: string | undefined
}>()
const model = defineModel<string>({ required: true })
const { fields } = useMergeFields()
const asHtml = (text: string) => withChips(paragraphs(text))
let shown = model.value
const isEmpty = ref(!shown)
const inLines = (text: string) => (props.lines ? text : text.replaceAll(/\s*[\r\n]+\s*/g, ' '))
/** Enter ends a line, as in any text without formatting; on the only line it does nothing. Ctrl Enter is the form’s. */
const enter = Extension.create({
  name: 'enter',
  addKeyboardShortcuts() {
    const end = () => !props.lines || this.editor.commands.setHardBreak()
    return { Enter: end, 'Shift-Enter': end, 'Mod-Enter': () => true }
  },
})
const editor = useEditor({
  content: asHtml(shown),
  parseOptions: { preserveWhitespace: true },
  editable: !props.readonly,
  injectCSS: false,
  extensions: [
    StarterKit.configure({
      heading: false,
      bold: false,
      italic: false,
      strike: false,
      underline: false,
      link: false,
      code: false,
      codeBlock: false,
      blockquote: false,
      bulletList: false,
      orderedList: false,
      listItem: false,
      listKeymap: false,
      horizontalRule: false,
      hardBreak: props.lines ? {} : false,
      trailingNode: false,
    }),
    props.lines ? mergeFieldNode.configure({ otherwise: 'nothing stands here' }) : mergeFieldNode,
    enter,
  ],
  editorProps: {
    attributes: { 'aria-label': props.label, role: 'textbox', 'aria-multiline': String(Boolean(props.lines)) },
    handlePaste(_, event) {
      const text = event.clipboardData?.getData('text/plain') ?? ''
      const pasted = paragraphs(inLines(text))
      editor.value?.commands.insertContent(withChips(/<\/p>./.test(pasted) ? pasted : pasted.replaceAll(/<\/?p>/g, '')))
      return true
    },
    handleDrop: () => true,
    handleTextInput: (view, _from, _to, text) => view.state.doc.textContent.length + text.length > props.longest,
  },
  onUpdate({ editor: now }) {
    shown = inLines(now.getText({ blockSeparator: '\n\n' }))
    isEmpty.value = !shown
    model.value = shown
  },
})
watch(model, (now) => {
  if (now === shown || !editor.value) return
  shown = now
  isEmpty.value = !now
  editor.value.commands.setContent(asHtml(now), { emitUpdate: false, parseOptions: { preserveWhitespace: true } })
})
watch(
  () => props.readonly,
  (readonly) => editor.value?.setEditable(!readonly),
)
const insert = (name: string) =>
  editor.value!.chain().focus().insertContent({ type: 'mergeField', attrs: { name } }).run()
</script>

<template>
  <div :class="{ wrong: errorMessage, lines }">
    <div class="spread">
      <span class="dim label">{{ label }}</span>
      <v-menu v-if="!readonly">
        <template #activator="{ props: act }"
          ><button v-bind="act" type="button" class="link small">Add a field</button></template
        >
        <v-list max-height="320">
          <v-list-item v-for="field in fields" :key="field.name" :title="field.label" @click="insert(field.name)" />
        </v-list>
      </v-menu>
    </div>
    <div class="text">
      <span v-if="isEmpty && placeholder" class="dim none" aria-hidden="true">{{ placeholder }}</span>
      <EditorContent :editor="editor" />
    </div>
    <p v-if="errorMessage" class="clay small" role="alert">{{ errorMessage }}</p>
  </div>
</template>

<style scoped>
.label {
  font-size: 12.5px;
}
.text {
  position: relative;
  border-bottom: 1px solid var(--stone);
}
.text:focus-within {
  border-bottom-color: var(--amber);
  box-shadow: 0 1px 0 var(--amber);
}
.wrong .text {
  border-bottom-color: var(--clay);
}
.none {
  position: absolute;
  left: 0;
  top: 2px;
  pointer-events: none;
}
.text :deep(.tiptap) {
  white-space: break-spaces;
  overflow-wrap: break-word;
  padding: 2px 0 4px;
  outline: none;
}
.text :deep(.tiptap p) {
  margin: 0 0 0.8em;
}
.text :deep(.tiptap p:last-child) {
  margin: 0;
}
.lines :deep(.tiptap) {
  min-height: 5em;
}
</style>
