import { InputRule, Node, mergeAttributes } from '@tiptap/core'
import { VueNodeViewRenderer } from '@tiptap/vue-3'
import MergeFieldChip from './MergeFieldChip.vue'

/** A merge field as templates write it: its name, and what stands there where it has no value. */
const FIELD = /\{\{\s*([a-z]\w*)\s*(?:\|\s*default:\s*(?:"([^"]*)"|'([^']*)')\s*)?\}\}/g

/** A merge field as it is written in a template. */
function fieldTag(name: string, fallback: string | null = null): string {
  if (fallback === null) return `{{ ${name} }}`
  const quote = fallback.includes('"') ? "'" : '"'
  return `{{ ${name} | default: ${quote}${fallback.replaceAll(quote, '’')}${quote} }}`
}

const parse = (html: string) => new DOMParser().parseFromString(html, 'text/html').body

/** A template’s HTML as the editor shows it: every merge field in its text is a chip. */
export function withChips(html: string): string {
  const body = parse(html)
  const walker = document.createTreeWalker(body, NodeFilter.SHOW_TEXT)
  const texts: Text[] = []
  while (walker.nextNode()) texts.push(walker.currentNode as Text)
  for (const text of texts) {
    const pieces: (string | HTMLElement)[] = []
    let at = 0
    for (const match of text.data.matchAll(FIELD)) {
      const chip = document.createElement('span')
      chip.dataset.mergeField = match[1]!
      const fallback = match[2] ?? match[3]
      if (fallback !== undefined) chip.dataset.fallback = fallback
      pieces.push(text.data.slice(at, match.index), chip)
      at = match.index + match[0].length
    }
    if (at) text.replaceWith(...pieces.filter(Boolean), text.data.slice(at))
  }
  return body.innerHTML
}

/** The editor’s HTML as a template: every chip is its merge field again. */
export function withoutChips(html: string): string {
  const body = parse(html)
  for (const chip of body.querySelectorAll<HTMLElement>('[data-merge-field]')) {
    chip.replaceWith(fieldTag(chip.dataset.mergeField!, chip.dataset.fallback ?? null))
  }
  return body.innerHTML
}

/** Merge fields in a text that is edited: one piece, which cannot be broken by typing. */
export const mergeFieldNode = Node.create<{
  /** What becomes of the text for who has neither a value nor a fallback. */
  otherwise: string
}>({
  name: 'mergeField',
  addOptions: () => ({ otherwise: 'the email is not sent' }),
  group: 'inline',
  inline: true,
  atom: true,
  addAttributes: () => ({
    name: { default: '', parseHTML: (element: HTMLElement) => element.dataset.mergeField ?? '', rendered: false },
    fallback: { default: null, parseHTML: (element: HTMLElement) => element.dataset.fallback ?? null, rendered: false },
  }),
  parseHTML: () => [{ tag: 'span[data-merge-field]' }],
  renderHTML: ({ node, HTMLAttributes }) => [
    'span',
    mergeAttributes(HTMLAttributes, {
      'data-merge-field': node.attrs.name as string,
      ...(node.attrs.fallback !== null && { 'data-fallback': node.attrs.fallback as string }),
    }),
  ],
  renderText: ({ node }) => fieldTag(node.attrs.name as string, node.attrs.fallback as string | null),
  // What is typed as a template writes it becomes a piece, too.
  addInputRules() {
    return [
      new InputRule({
        find: new RegExp(`${FIELD.source}$`),
        handler: ({ state, range, match: [, name, double, single] }) => {
          // Of more than a letter at once, what is before the match is not there yet.
          if (range.from > range.to) return
          const field = this.type.create({ name, fallback: double ?? single ?? null })
          state.tr.replaceWith(range.from, range.to, field)
        },
      }),
    ]
  },
  addNodeView: () => VueNodeViewRenderer(MergeFieldChip),
})
