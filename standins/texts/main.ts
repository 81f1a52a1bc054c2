import { exitWithParent } from '../process'
import { serveTexts } from './gateway'

/** The stand-in of a gateway for text messages. */
const port = Number(process.env.HTTP_PORT ?? 4129)
await serveTexts({
  port,
  token: process.env.TEXT_TOKEN ?? '',
  secret: process.env.TEXT_SECRET ?? '',
  hookUrl: process.env.HOOK_URL ?? '',
})
console.log(`The gateway for texts answers on ${port}`)
exitWithParent()
