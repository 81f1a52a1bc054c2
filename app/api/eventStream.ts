/** How long until a stream that the server refused is asked for again, in milliseconds. */
const AGAIN_MS = 5_000

export interface StreamListener {
  /** Something has changed: what, as the server says it; empty where anything may have. */
  changed: (what: string) => void
  /** Whether the connection stands, whenever that changes. */
  connected: (is: boolean) => void
}

/**
 * Opens the server-sent events (WHATWG HTML, 9.2) of a path, again whenever the connection ends; gives what closes it.
 * `again` says that it was open before, so that something may have changed since.
 */
export function openStream(path: string, { changed, connected }: StreamListener, again = false): () => void {
  let source: EventSource
  let timer: ReturnType<typeof setTimeout> | undefined
  function open(): void {
    source = new EventSource(path)
    source.onopen = () => connected(true)
    source.onmessage = ({ data }: MessageEvent<string>) => {
      const [count, ...what] = data.split(' ')
      const isFirst = count === '0' && !what.length
      // The first is no change, as what is shown was just read; after a break anything may have changed.
      if (!isFirst || again) changed(what.join(' '))
      if (isFirst) again = true
    }
    source.onerror = () => {
      connected(false)
      // The browser connects again by itself, unless it was refused: a session that has ended, a server that restarts.
      if (source.readyState === EventSource.CLOSED) timer = setTimeout(open, AGAIN_MS)
    }
  }
  open()
  return () => {
    clearTimeout(timer)
    source.close()
  }
}
