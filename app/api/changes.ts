import { useIntervalFn } from '@vueuse/core'
import { onMounted, onUnmounted, toValue, type MaybeRefOrGetter } from 'vue'
import { userChanges, type ChangeTopic } from '#shared/api/session'

/** How long until a stream that the server refused is asked for again, in milliseconds. */
const AGAIN_MS = 5_000
type Listener = { topic: ChangeTopic; about?: string | undefined; run: () => void }
const listeners = new Set<Listener>()
let source: EventSource | null = null

function open(): void {
  if (source || !listeners.size) return
  source = new EventSource(userChanges.path)
  source.onmessage = ({ data }: MessageEvent<string>) => {
    const [count, topic, about] = data.split(' ')
    // The first is no change: what is shown was read just before, or is read anyway.
    if (topic === undefined && count === '0') return
    for (const listener of listeners) {
      if (topic === undefined || (topic === listener.topic && about === listener.about)) listener.run()
    }
  }
  source.onerror = () => {
    // The browser connects again by itself, unless it was refused: a session that has ended, a server that restarts.
    if (source?.readyState !== EventSource.CLOSED) return
    source = null
    setTimeout(open, AGAIN_MS)
  }
}

interface HowChanges {
  seconds: MaybeRefOrGetter<number>
  without?: MaybeRefOrGetter<number>
  /** Of the topic "prospect": which one. */
  about?: string
}

/**
 * Runs something whenever what it is about has changed, as the server says over one stream for the whole tab; also
 * every `seconds` while the tab is seen, for what no stream says. Without a stream it runs every `without` seconds.
 */
export function useChanges(
  topic: ChangeTopic,
  run: () => void,
  { seconds, without = seconds, about }: HowChanges,
): void {
  let last = Date.now()
  const now = () => {
    last = Date.now()
    run()
  }
  const listener = { topic, about, run: now }
  onMounted(() => {
    listeners.add(listener)
    open()
  })
  onUnmounted(() => {
    listeners.delete(listener)
    if (listeners.size) return
    source?.close()
    source = null
  })
  useIntervalFn(() => {
    const rest = toValue(source?.readyState === 1 ? seconds : without)
    if (document.visibilityState === 'visible' && Date.now() - last >= rest * 1_000) now()
  }, 500)
}
