import { openStream, type StreamListener } from './eventStream'

/** What a tab asks of the worker: to be in on the stream of a path or no longer, and all streams opened anew. */
export type ToWorker = { listen: string } | { leave: string } | { renew: true }
/** What the worker says to the tabs that are in on a stream. */
export type FromWorker = { path: string } & ({ changed: string } | { connected: boolean })

/** A shared worker: it holds one stream for each path for all tabs of a browser. */
interface Shared {
  tabs: Set<MessagePort>
  connected: boolean
  close: () => void
}
const streams = new Map<string, Shared>()

function open(path: string, tabs: Set<MessagePort>, again = false): void {
  const say = (message: FromWorker) => tabs.forEach((tab) => tab.postMessage(message))
  const stream: Shared = { tabs, connected: false, close: () => {} }
  streams.set(path, stream)
  const listener: StreamListener = {
    changed: (changed) => say({ path, changed }),
    connected: (connected) => {
      stream.connected = connected
      say({ path, connected })
    },
  }
  stream.close = openStream(path, listener, again)
}
function listen(path: string, tab: MessagePort): void {
  const stream = streams.get(path)
  if (!stream) return open(path, new Set([tab]))
  stream.tabs.add(tab)
  tab.postMessage({ path, connected: stream.connected } satisfies FromWorker)
}
function leave(path: string, tab: MessagePort): void {
  const stream = streams.get(path)
  stream?.tabs.delete(tab)
  if (!stream || stream.tabs.size) return
  stream.close()
  streams.delete(path)
}
function renew(): void {
  for (const [path, { close, tabs }] of [...streams]) {
    close()
    open(path, tabs, true)
  }
}
addEventListener('connect', (event) => {
  const [tab] = (event as MessageEvent).ports
  tab!.onmessage = ({ data }: MessageEvent<ToWorker>) => {
    if ('listen' in data) listen(data.listen, tab!)
    else if ('leave' in data) leave(data.leave, tab!)
    else renew()
  }
})
