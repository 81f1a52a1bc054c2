import { useIntervalFn } from '@vueuse/core'
import { onMounted, onUnmounted, toValue, type MaybeRefOrGetter } from 'vue'
import { userChanges, type ChangeTopic } from '#shared/api/session'
import { listenTo } from './streams'

type Listener = { topic: ChangeTopic; about?: string | undefined; run: () => void }
const listeners = new Set<Listener>()
let stream: ReturnType<typeof listenTo> | null = null

function heard(what: string): void {
  const [topic, about] = what.split(' ')
  for (const listener of listeners) {
    if (!topic || (topic === listener.topic && about === listener.about)) listener.run()
  }
}

interface HowChanges {
  seconds: MaybeRefOrGetter<number>
  without?: MaybeRefOrGetter<number>
  /** Of the topic "prospect": which one. */
  about?: string
}

/**
 * Runs something whenever what it is about has changed, as the server says over one stream; also every `seconds` while
 * the tab is seen, for what no stream says. Without a stream it runs every `without` seconds.
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
    stream ??= listenTo(userChanges.path, heard)
  })
  onUnmounted(() => {
    listeners.delete(listener)
    if (listeners.size) return
    stream?.stop()
    stream = null
  })
  useIntervalFn(() => {
    const rest = toValue(stream?.isConnected() ? seconds : without)
    if (document.visibilityState === 'visible' && Date.now() - last >= rest * 1_000) now()
  }, 500)
}
