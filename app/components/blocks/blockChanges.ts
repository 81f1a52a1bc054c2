import { useEventSource, useIntervalFn, useThrottleFn } from '@vueuse/core'
import { watch } from 'vue'

/** How often a block is read again at most when it changes, and without any word of a change, in milliseconds. */
const AT_MOST = 250
const ANYWAY = { listening: 15_000, notListening: 2_000 }

/** Runs something whenever a call block has changed, as the server says; now and then where it cannot. */
export function useBlockChanges(id: string, run: () => void): void {
  const { data, status } = useEventSource(`/api/call-blocks/${id}/changes`, [], {
    autoReconnect: { retries: () => true, delay: 2_000 },
  })
  const soon = useThrottleFn(run, AT_MOST, true)
  watch(data, () => void soon())
  let last = Date.now()
  useIntervalFn(() => {
    const rest = status.value === 'OPEN' ? ANYWAY.listening : ANYWAY.notListening
    if (document.visibilityState !== 'visible' || Date.now() - last < rest) return
    last = Date.now()
    run()
  }, 1_000)
}
