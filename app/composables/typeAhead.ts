import { useEventListener, useRafFn } from '@vueuse/core'
import { isTyping, takeCharacter } from './keys'

/** How long a field is waited for, in milliseconds. */
const PATIENCE = 10_000

/**
 * Puts the cursor in a field that may still be on its way; characters that are typed until it is there go into it, and
 * to nothing else. `find` gives the field, null while it is to be waited for, and undefined where there is none. `of`
 * names what the field belongs to: once that is another, or after Escape, the waiting ends.
 */
export function useTypeAhead(find: () => HTMLElement | null | undefined, of: () => unknown): () => void {
  let typed = ''
  let waited: { of: unknown; since: number } | null = null
  const { resume, pause } = useRafFn(look, { immediate: false })
  function end(): void {
    pause()
    waited = null
    typed = ''
  }
  function look(): void {
    if (!waited) return
    const field = find()
    const isOver = field === undefined || waited.of !== of() || performance.now() - waited.since > PATIENCE
    if (field && !isOver) {
      field.focus()
      if (typed) insert(field, typed)
    }
    if (field || isOver) end()
  }
  useEventListener(
    'keydown',
    (event) => {
      if (!waited || isTyping(event)) return
      if (event.key === 'Escape') end()
      else typed += takeCharacter(event) ?? ''
    },
    true,
  )
  return () => {
    waited ??= { of: of(), since: performance.now() }
    look()
    if (waited) resume()
  }
}

/** The line of text that has the cursor in the dialog that is open; null while it is on its way. */
export function fieldInDialog(): HTMLElement | null | undefined {
  const at = document.activeElement
  if (!(at instanceof HTMLElement) || !at.closest('.v-dialog.v-overlay--active')) return null
  if (at.matches('textarea, input:is(:not([type]), [type=text]), [contenteditable=true]')) return at
  return at.matches('button, a, input, select') ? undefined : null
}

/** Puts text where the cursor is, as if it were typed. */
function insert(field: HTMLElement, text: string): void {
  if (field instanceof HTMLTextAreaElement || field instanceof HTMLInputElement) {
    const [from, to] = [field.selectionStart ?? field.value.length, field.selectionEnd ?? field.value.length]
    field.setRangeText(text, from, to, 'end')
    field.dispatchEvent(new Event('input', { bubbles: true }))
  } else {
    getSelection()?.getRangeAt(0).insertNode(document.createTextNode(text))
    getSelection()?.collapseToEnd()
  }
}
