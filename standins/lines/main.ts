import { exitWithParent } from '../process'
import { serveLines } from './lines'

/**
 * The exchange stand-in. HTTP_PORT says where it listens, RING_MS how long a ring lasts, PATIENCE_MS how long someone
 * who calls waits; HOOK_URL and LINE_SECRET where calls that come in are announced.
 */
const port = Number(process.env.HTTP_PORT ?? 4128)
await serveLines({
  port,
  ringMs: Number(process.env.RING_MS ?? 2_500),
  patienceMs: Number(process.env.PATIENCE_MS ?? 25_000),
  hookUrl: process.env.HOOK_URL ?? '',
  secret: process.env.LINE_SECRET ?? '',
})
console.log(`The phone lines answer on ${port}`)
exitWithParent()
