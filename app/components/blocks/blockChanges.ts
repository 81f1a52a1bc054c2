import { useIntervalFn, useThrottleFn } from '@vueuse/core'
import { onMounted, onUnmounted } from 'vue'
import { listenTo } from '~/api/streams'

/** How often a block is read again at most when it changes, and without any word of a change, in milliseconds. */
const AT_MOST = 250
const ANYWAY = { listening: 15_000, notListening: 2_000 }

/** Runs something whenever a call block has changed, as the server says; now and then where it cannot. */
export function useBlockChanges(id: string, run: () => void): void {
  const soon = useThrottleFn(run, AT_MOST, true)
  let stream: ReturnType<typeof listenTo> | null = null
  onMounted(() => {
    stream = listenTo(`/api/call-blocks/${id}/changes`, () => void soon())
  })
  onUnmounted(() => stream?.stop())
  let last = Date.now()
  useIntervalFn(() => {
    const rest = stream?.isConnected() ? ANYWAY.listening : ANYWAY.notListening
    if (document.visibilityState !== 'visible' || Date.now() - last < rest) return
    last = Date.now()
    run()
  }, 1_000)
}
