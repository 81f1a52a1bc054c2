import type { H3Event } from 'h3'

/** So often something is sent where nothing happens, so that no proxy ends the connection, in milliseconds. */
const BEAT_MS = 20_000
/** After so long the stream ends; the browser comes again, and who it is is asked once more. */
const LONGEST_MS = 600_000

/**
 * Answers with server-sent events (WHATWG HTML, 9.2): a number, counted up, at the start and whenever `listen` says
 * that something has changed. Ends with the connection.
 */
export function streamChanges(event: H3Event, listen: (changed: () => void) => () => void): void {
  const { res } = event.node
  let count = 0
  res.writeHead(200, { 'content-type': 'text/event-stream', 'cache-control': 'no-store', 'x-accel-buffering': 'no' })
  const push = () => void res.write(`data: ${count++}\n\n`)
  const stop = listen(push)
  const beat = setInterval(() => res.write(':\n\n'), BEAT_MS)
  const end = setTimeout(() => res.end(), LONGEST_MS)
  res.once('close', () => {
    stop()
    clearInterval(beat)
    clearTimeout(end)
  })
  push()
}
