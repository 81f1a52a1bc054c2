import { ensureBuilt, ensurePackagesInstalled } from './build.mjs'
import { clusterFolder } from './database.mjs'
import { ensurePackages, ensureSpace } from './prerequisites.mjs'
import { endPrograms } from './processes.mjs'
import { fail, say } from './log.mjs'
import { ensurePorts, portsFrom, startWorld } from './world.mjs'

/**
 * npm run demo: everything a look at Uphill needs, from a bare machine on. --fresh makes the demo world again; PORT
 * moves it.
 */
const web = Number(process.env.PORT ?? 4100)
if (!Number.isInteger(web) || web < 1024 || web > 65_000) fail('PORT is not a port number between 1024 and 65000.')
if (Number(process.versions.node.split('.')[0]) < 20) {
  fail(`Node ${process.versions.node} is too old; Uphill needs Node 20 or newer.`)
}
const ports = portsFrom(web)
ensureSpace(clusterFolder('demo'), 300)
ensureSpace(process.cwd(), 300)
await ensurePorts(ports)
ensurePackages(['postgres'])
ensurePackagesInstalled()
ensureBuilt()
say('Starting …')
let cluster
const end = async () => {
  await endPrograms()
  cluster?.stop()
  process.exit(0)
}
process.on('SIGINT', () => void end())
process.on('SIGTERM', () => void end())
const world = await startWorld({ kind: 'demo', ports, fresh: process.argv.includes('--fresh'), keepRunning: say })
cluster = world.cluster
const { demo } = await (await fetch(`${world.url}/api/session`)).json()
for (const account of demo.accounts) say(`  ${account.role.padEnd(8)} ${account.email.padEnd(28)} ${account.password}`)
say(`  Recipients’ mailbox: http://127.0.0.1:${ports.mailbox}`)
say(`  Recipients’ phones, calls: http://127.0.0.1:${ports.lines}`)
say(`  Recipients’ phones, texts: http://127.0.0.1:${ports.texts}`)
say(`Uphill is ready at ${world.url}`)
