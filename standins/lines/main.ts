import { exitWithParent } from '../process'
import { serveLines } from './lines'

/** The phone line stand-in. HTTP_PORT says where it listens, RING_MS how long a ring lasts. */
const port = Number(process.env.HTTP_PORT ?? 4128)
await serveLines(port, Number(process.env.RING_MS ?? 2_500))
console.log(`The phone lines answer on ${port}`)
exitWithParent()
