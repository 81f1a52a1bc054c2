import { useEventListener } from '@vueuse/core'
import { onBeforeUnmount, onMounted, shallowRef } from 'vue'

/** A key of the screen: what it does, and when. */
export interface ScreenKey {
  /** What is pressed, as the browser names it; "Shift+1" for a digit with Shift, whatever it types. */
  key: string
  /** What it does now; empty where it does nothing. */ label: string | (() => string)
  run: (event: KeyboardEvent) => void
  /** Works while typing too. */ always?: boolean
  /** Only where the cursor is on something of this selector. */ on?: string
}

/** The keys of the screen that is shown, for "?". */
export const screenKeys = shallowRef<readonly ScreenKey[]>([])

/** Whether what is pressed belongs to the text or the choice it is pressed in. Boxes to tick take no letters. */
export function isTyping(event: KeyboardEvent): boolean {
  const target = event.target as HTMLElement | null
  return Boolean(
    target?.closest(
      'input:not([type=checkbox], [type=radio]), textarea, select, [contenteditable], .v-overlay--active [role="listbox"]',
    ),
  )
}

/**
 * Takes a character that is typed away from everything else that listens, for a line that is not there to take it yet;
 * null for any other key.
 */
export function takeCharacter(event: KeyboardEvent): string | null {
  if (event.ctrlKey || event.metaKey || event.altKey || event.key.length !== 1) return null
  event.preventDefault()
  event.stopPropagation()
  return event.key
}

/**
 * Gives a screen its keys for as long as it is shown. Held keys count once; keys with Ctrl, Alt or Meta are left to the
 * browser, and whatever lies over the screen has its keys to itself.
 */
export function useKeys(keys: ScreenKey[]): void {
  const listen = (event: KeyboardEvent) => {
    if (event.repeat || event.ctrlKey || event.altKey || event.metaKey || event.isComposing) return
    if ((event.target as HTMLElement).closest('.v-overlay')) return
    const typing = isTyping(event)
    const shifted = event.shiftKey && event.code.startsWith('Digit') ? `Shift+${event.code.slice(5)}` : null
    const pressed = [event.key.toLowerCase(), shifted?.toLowerCase()]
    const found = keys.find(
      (key) =>
        pressed.includes(key.key.toLowerCase()) &&
        (key.always || !typing) &&
        (!key.on || (event.target as Element).matches(key.on)),
    )
    if (!found || document.querySelector('.v-dialog.v-overlay--active')) return
    event.preventDefault()
    found.run(event)
  }
  useEventListener('keydown', listen)
  onMounted(() => {
    screenKeys.value = [...screenKeys.value, ...keys]
  })
  onBeforeUnmount(() => {
    screenKeys.value = screenKeys.value.filter((key) => !keys.includes(key))
  })
}
