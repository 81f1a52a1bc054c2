import { performance } from 'node:perf_hooks'
import { quantile } from './measure'

/** As the page of a block has it: it is read again at most so often, in milliseconds. */
const AT_MOST = 250

/** A manager who looks at a block while it is worked: measures how long each call takes until it is on their screen. */
export interface Watch {
  /** Notes when the key of a call was pressed. */
  pressed: (eventId: string) => void
  /** Ends it, and gives the report. */
  end: () => Promise<string>
}

/** Looks at a block over server-sent events, with a key of the manager. */
export async function watchBlock(url: string, key: string, blockId: string): Promise<Watch> {
  const headers = { authorization: `Bearer ${key}` }
  const stop = new AbortController()
  const pressedAt = new Map<string, number>()
  const took: number[] = []
  const response = await fetch(`${url}/api/call-blocks/${blockId}/changes`, { headers, signal: stop.signal })
  let isWanted = false
  const listening = (async () => {
    const reader = response.body!.getReader()
    while (!(await reader.read()).done) isWanted = true
  })().catch(() => {})
  let isOn = true
  const reading = (async () => {
    while (isOn) {
      if (isWanted) {
        isWanted = false
        const block = (await (await fetch(`${url}/api/call-blocks/${blockId}`, { headers })).json()) as {
          calls: { id: string }[]
        }
        const now = performance.now()
        for (const { id } of block.calls) {
          const from = pressedAt.get(id)
          if (from === undefined) continue
          took.push(now - from)
          pressedAt.delete(id)
        }
      }
      await new Promise((resolve) => setTimeout(resolve, AT_MOST))
    }
  })()
  return {
    pressed: (eventId) => pressedAt.set(eventId, performance.now()),
    end: async () => {
      await new Promise((resolve) => setTimeout(resolve, 4 * AT_MOST))
      isOn = false
      await reading
      stop.abort()
      await listening
      const p95 = quantile(took, 0.95)
      return (
        `From a caller's key to the manager's screen, ${took.length} calls, 95th percentile: ${p95.toFixed(0)} ms ` +
        `(asked: under 500 ms): ${p95 < 500 && !pressedAt.size ? 'within' : 'OVER'}`
      )
    },
  }
}
