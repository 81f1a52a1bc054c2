import { ensureBuilt, ensurePackagesInstalled } from './build.mjs'
import { answers, endPrograms, portIsFree, superviseProgram } from './processes.mjs'
import { fail, say } from './log.mjs'
import { run } from './shell.mjs'

/**
 * npm start: Uphill for real, on the database, mail server and address of its environment. Both programs are kept
 * running; with PROGRAMS=web or PROGRAMS=worker only one of them, for several hosts.
 */
const port = Number(process.env.PORT ?? 4100)
ensurePackagesInstalled()
ensureBuilt()
const check = run(process.execPath, ['.output/programs/check.mjs'])
if (check.code !== 0) fail(check.output)
const programs = (process.env.PROGRAMS ?? 'web,worker').split(',')
if (programs.some((name) => name !== 'web' && name !== 'worker')) fail('PROGRAMS is web, worker or web,worker.')
if (programs.includes('web') && !(await portIsFree(port))) {
  fail(`Port ${port} is in use. Stop what uses it, or set PORT.`)
}
const migrated = run(process.execPath, ['.output/programs/migrate.mjs'])
if (migrated.code !== 0) fail(migrated.output)
const settings = {
  HOST: process.env.HOST ?? '127.0.0.1',
  PORT: String(port),
  NODE_ENV: 'production',
  NITRO_SHUTDOWN_TIMEOUT: '5000',
  UPHILL_DEMO: '',
}
const end = async () => {
  await endPrograms()
  process.exit(0)
}
process.on('SIGINT', () => void end())
process.on('SIGTERM', () => void end())
process.env.UPHILL_LOG = '1'
const report = (sentence) => process.stderr.write(`${sentence}\n`)
if (programs.includes('worker')) superviseProgram('worker', '.output/programs/worker.mjs', settings, report)
if (programs.includes('web')) {
  superviseProgram('web', '.output/server/index.mjs', settings, report)
  if (!(await answers(`http://127.0.0.1:${port}/api/health`))) {
    report('The pages do not answer yet. What is wrong is in the lines above.')
  } else say(`Uphill is ready at ${process.env.UPHILL_URL}`)
} else say('The worker is started')
