import type { ServerResponse } from 'node:http'
import type { H3Event } from 'h3'

/** So often something is sent where nothing happens, so that no proxy ends the connection, in milliseconds. */
const BEAT_MS = 20_000
/** After so long the stream ends; the browser comes again, and who it is is asked once more. */
const LONGEST_MS = 600_000

const streams = new Set<ServerResponse>()

/** Ends all streams: a server that is to end does not wait for them. */
export function endStreams(): void {
  for (const stream of streams) stream.end()
}

/**
 * Answers with server-sent events (WHATWG HTML, 9.2): a number, counted up, at the start and whenever `listen` says
 * that something has changed, with what it was where that is said. Ends with the connection.
 */
export function streamChanges(event: H3Event, listen: (changed: (what?: string) => void) => () => void): void {
  const { res } = event.node
  let count = 0
  res.writeHead(200, { 'content-type': 'text/event-stream', 'cache-control': 'no-store', 'x-accel-buffering': 'no' })
  const push = (what?: string) =>
    void res.write(`data: ${[count++, what].filter((part) => part !== undefined).join(' ')}\n\n`)
  const stop = listen(push)
  const beat = setInterval(() => res.write(':\n\n'), BEAT_MS)
  const end = setTimeout(() => res.end(), LONGEST_MS)
  streams.add(res)
  res.once('close', () => {
    streams.delete(res)
    stop()
    clearInterval(beat)
    clearTimeout(end)
  })
  push()
}
