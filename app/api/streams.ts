import { openStream, type StreamListener } from './eventStream'
import type { FromWorker, ToWorker } from './streamWorker'

/**
 * The streams of this tab, by their path. All tabs of a browser share one connection for each, in a shared worker: over
 * HTTP/1.1 a browser opens six connections to a server in all, and a stream keeps one for good.
 */
interface Stream {
  listeners: Set<(what: string) => void>
  connected: boolean
  close: () => void
}
const streams = new Map<string, Stream>()
const changed = (path: string, what: string) => streams.get(path)?.listeners.forEach((run) => run(what))
function connected(path: string, is: boolean): void {
  const stream = streams.get(path)
  if (stream) stream.connected = is
}

let worker: SharedWorker | null | undefined
/** The shared worker; null where the browser has none, or it could not be fetched. */
function shared(): MessagePort | null {
  if (worker === undefined) {
    worker = typeof SharedWorker === 'undefined' ? null : startWorker()
  }
  return worker?.port ?? null
}
function startWorker(): SharedWorker {
  const started = new SharedWorker(new URL('./streamWorker.ts', import.meta.url), { type: 'module', name: 'streams' })
  started.port.onmessage = ({ data }: MessageEvent<FromWorker>) => {
    if ('changed' in data) changed(data.path, data.changed)
    else connected(data.path, data.connected)
  }
  started.onerror = () => {
    worker = null
    reopen()
  }
  window.addEventListener('pagehide', () => streams.forEach(({ close }) => close()))
  window.addEventListener('pageshow', ({ persisted }) => {
    if (!persisted) return
    reopen()
    for (const path of streams.keys()) changed(path, '')
  })
  return started
}
function open(path: string, again = false): () => void {
  const port = shared()
  const listener: StreamListener = {
    changed: (what) => changed(path, what),
    connected: (is) => connected(path, is),
  }
  if (!port) return openStream(path, listener, again)
  port.postMessage({ listen: path } satisfies ToWorker)
  return () => port.postMessage({ leave: path } satisfies ToWorker)
}
function reopen(): void {
  for (const [path, stream] of streams) stream.close = open(path, true)
}

/** Opens all streams anew: another user has signed in, or nobody is signed in now. */
export function renewStreams(): void {
  const port = shared()
  if (port) return port.postMessage({ renew: true } satisfies ToWorker)
  for (const { close } of streams.values()) close()
  reopen()
}

/**
 * Runs something whenever the server says that what a stream is about has changed, with what it was; empty where
 * anything may have changed. Gives whether the connection stands, and what ends the listening.
 */
export function listenTo(path: string, run: (what: string) => void): { isConnected: () => boolean; stop: () => void } {
  let stream = streams.get(path)
  if (!stream) {
    stream = { listeners: new Set(), connected: false, close: () => {} }
    streams.set(path, stream)
    stream.close = open(path)
  }
  const { listeners } = stream
  listeners.add(run)
  return {
    isConnected: () => streams.get(path)?.connected ?? false,
    stop: () => {
      listeners.delete(run)
      if (listeners.size || streams.get(path)?.listeners !== listeners) return
      streams.get(path)!.close()
      streams.delete(path)
    },
  }
}
