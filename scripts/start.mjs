import { ensureBuilt, ensurePackagesInstalled } from './build.mjs'
import { answers, endPrograms, portIsFree, startProgram } from './processes.mjs'
import { fail, say } from './say.mjs'
import { run } from './shell.mjs'

/** npm start: Uphill for real, on the database, mail server and address it is told. */
const port = Number(process.env.PORT ?? 4100)
ensurePackagesInstalled()
ensureBuilt()
const check = run(process.execPath, ['.output/programs/check.mjs'])
if (check.code !== 0) fail(check.output)
if (!await portIsFree(port)) fail(`Port ${port} is in use. Stop what uses it, or set PORT.`)
const migrated = run(process.execPath, ['.output/programs/migrate.mjs'])
if (migrated.code !== 0) fail(migrated.output)
const settings = { HOST: process.env.HOST ?? '127.0.0.1', PORT: String(port), NODE_ENV: 'production', NITRO_SHUTDOWN_TIMEOUT: '5000', UPHILL_DEMO: '' }
const end = async () => {
  await endPrograms()
  process.exit(0)
}
process.on('SIGINT', () => void end())
process.on('SIGTERM', () => void end())
startProgram('worker', '.output/programs/worker.mjs', settings)
startProgram('web', '.output/server/index.mjs', settings)
if (!await answers(`http://127.0.0.1:${port}/api/health`)) fail('The pages do not answer. Start again with UPHILL_VERBOSE=1 to see why.')
say(`Uphill is ready at ${process.env.UPHILL_URL}`)
