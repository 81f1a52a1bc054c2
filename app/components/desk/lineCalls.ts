import { ref, watch } from 'vue'
import type { useDesk } from '~/stores/desk'

interface LineCall {
  id: string
  prospectId: string
}

/** Several lines of the block on the Desk: whether they are dialed, and the call the caller was put through to. */
export function useLineCalls(desk: ReturnType<typeof useDesk>) {
  /** The part of the screen that dials. */
  const dialer = ref<{ toggle(): void; goOn(): void } | null>(null)
  const dialing = ref(false)
  const call = ref<LineCall | null>(null)
  /** Whose outcome was taken back: they are in hand again, to be called by hand. */
  let undone: string | null = null
  /** The person who answered is in hand at once; when their call is over, nobody is until the next one answers. */
  function connected(next: LineCall | null): void {
    call.value = next
    void desk.work(null, desk.block, next?.prospectId ?? undone)
  }
  watch(
    () => desk.lastDone,
    (now, before) => {
      undone = now || !before ? null : before.item.prospectId
      // Nobody else is dialed while an outcome is corrected.
      if (undone) dialing.value = false
    },
  )
  watch(
    () => desk.paused || !desk.block,
    (stopped) => {
      if (stopped) dialing.value = false
    },
  )
  return { dialer, dialing, call, connected }
}
