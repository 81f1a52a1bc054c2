import { useEventListener } from '@vueuse/core'
import { onBeforeUnmount, onMounted } from 'vue'

/**
 * Gives the cursor back to where it was before a dialog opened, once the last one is closed and nothing else has it.
 */
export function useFocusReturn(): void {
  let before: HTMLElement | null = null
  let open = false
  const noted = (event: FocusEvent) => {
    const target = event.target as HTMLElement
    if (!target.closest('.v-overlay')) before = target
  }
  const dialogs = new MutationObserver(() => {
    const now = document.querySelector('.v-dialog.v-overlay--active') !== null
    const nowhere = document.activeElement === document.body || document.activeElement?.closest('.v-dialog')
    if (open && !now && nowhere && before?.isConnected) before.focus({ preventScroll: true })
    open = now
  })
  // What lies over the page lies in one place, which is made for the first of it.
  const page = new MutationObserver(() => watchOverlays())
  function watchOverlays(): void {
    const overlays = document.querySelector('.v-overlay-container')
    if (!overlays) return
    page.disconnect()
    dialogs.observe(overlays, { subtree: true, childList: true, attributes: true, attributeFilter: ['class'] })
  }
  useEventListener(document, 'focusin', noted)
  onMounted(() => {
    page.observe(document.body, { childList: true })
    watchOverlays()
  })
  onBeforeUnmount(() => {
    page.disconnect()
    dialogs.disconnect()
  })
}
