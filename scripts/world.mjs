import { randomBytes } from 'node:crypto'
import { existsSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { clusterFolder, startCluster } from './database.mjs'
import { answers, portIsFree, startProgram, superviseProgram } from './processes.mjs'
import { fail } from './log.mjs'
import { run } from './shell.mjs'

/** Where everything listens, from the web's port on: replies, mail server, its pages, phone lines, text gateway. */
export function portsFrom(web) {
  return { web, replies: web + 25, smtp: web + 26, mailbox: web + 27, lines: web + 28, texts: web + 29 }
}

/**
 * Ports for a world that nobody asked for by number: free, and below those that connections are given at random (32768
 * and up).
 */
export async function freePorts() {
  for (;;) {
    const ports = portsFrom(20_000 + Math.floor(Math.random() * 12_000))
    const free = await Promise.all(Object.values(ports).map(portIsFree))
    if (free.every(Boolean)) return ports
  }
}

/** Ends with a sentence where one of the ports is taken. */
export async function ensurePorts(ports) {
  for (const [name, port] of Object.entries(ports)) {
    if (!(await portIsFree(port))) {
      fail(
        `Port ${port} is in use (it is needed for the ${name === 'web' ? 'pages' : name}). Stop what uses it, or start with PORT=${ports.web + 100}.`,
      )
    }
  }
}

function secretOf(kind) {
  const file = join(clusterFolder(kind), 'secret')
  if (!existsSync(file)) writeFileSync(file, randomBytes(36).toString('base64url'), { mode: 0o600 })
  return readFileSync(file, 'utf8').trim()
}

/** Brings a database up to the newest schema, with the sample data unless `seedData` is false. */
function prepare(settings, seedData) {
  const once = (what, file) => {
    const done = run(process.execPath, ['--enable-source-maps', file], {
      env: { ...process.env, ...settings },
      stdio: ['ignore', what === 'seed' ? 'inherit' : 'pipe', 'pipe'],
    })
    if (done.code !== 0) fail(done.output || `${what} failed`)
  }
  once('migrate', '.output/programs/migrate.mjs')
  if (seedData) once('seed', '.output/programs/seed.mjs')
}

/** Makes a database with the sample data that no program runs on, for worlds to be copied from. Gives its name. */
export async function makeTemplate(kind) {
  const cluster = await startCluster(kind, { noFsync: true })
  const name = `template_${Date.now()}`
  cluster.ensureDatabase(name)
  prepare(
    {
      DATABASE_URL: cluster.url(name),
      UPHILL_SECRET: secretOf(kind),
      UPHILL_URL: 'http://127.0.0.1',
      UPHILL_DEMO: '1',
    },
    true,
  )
  return name
}

/**
 * Brings up a whole world: database, schema, sample data, stand-ins, web and worker. Gives its addresses. `env` adds to
 * what the programs are given. `keepRunning` is called at the end of web or worker, which is then started again;
 * without it such an end ends the whole world. With `template`, the database is a copy of that one, and has its data.
 */
export async function startWorld({
  kind,
  ports,
  fresh = false,
  noFsync = false,
  database = 'uphill',
  env = {},
  seedData = true,
  template,
  keepRunning,
}) {
  const cluster = await startCluster(kind, { fresh, noFsync })
  cluster.ensureDatabase(database, template)
  const url = `http://127.0.0.1:${ports.web}`
  const settings = {
    DATABASE_URL: cluster.url(database),
    SMTP_URL: `smtp://127.0.0.1:${ports.smtp}`,
    UPHILL_SECRET: secretOf(kind),
    UPHILL_URL: url,
    UPHILL_DEMO: '1',
    MAIL_DOMAIN: 'reply.thornwick.example',
    MAIL_IN_PORT: String(ports.replies),
    LINE_URL: `http://127.0.0.1:${ports.lines}`,
    LINE_SECRET: `whsec_${Buffer.from(secretOf(kind)).toString('base64')}`,
    MAILBOX_URL: `http://127.0.0.1:${ports.mailbox}`,
    TEXT_URL: `http://127.0.0.1:${ports.texts}`,
    TEXT_TOKEN: secretOf(kind),
    TEXT_SECRET: `whsec_${Buffer.from(secretOf(kind)).toString('base64')}`,
    TEXT_FROM: '+16075550100',
    HOST: '127.0.0.1',
    PORT: String(ports.web),
    NITRO_SHUTDOWN_TIMEOUT: '5000',
    NODE_ENV: 'production',
    ...env,
  }
  if (!template) prepare(settings, seedData)
  startProgram('mail server', '.output/programs/mail.mjs', {
    SMTP_PORT: String(ports.smtp),
    HTTP_PORT: String(ports.mailbox),
    MAIL_IN_PORT: String(ports.replies),
    MAIL_DOMAIN: settings.MAIL_DOMAIN,
  })
  startProgram('phone lines', '.output/programs/lines.mjs', {
    HTTP_PORT: String(ports.lines),
    LINE_SECRET: settings.LINE_SECRET,
    HOOK_URL: `${url}/hooks/calls`,
    ...(env.RING_MS && { RING_MS: env.RING_MS }),
  })
  startProgram('text gateway', '.output/programs/texts.mjs', {
    HTTP_PORT: String(ports.texts),
    TEXT_TOKEN: settings.TEXT_TOKEN,
    TEXT_SECRET: settings.TEXT_SECRET,
    HOOK_URL: `${url}/hooks/texts`,
  })
  const startOurs = keepRunning ? superviseProgram : startProgram
  startOurs('worker', '.output/programs/worker.mjs', settings, keepRunning)
  startOurs('web', '.output/server/index.mjs', settings, keepRunning)
  if (!(await answers(`${url}/api/health`))) {
    fail('The pages do not answer. Start again with UPHILL_VERBOSE=1 to see why.')
  }
  return { url, settings, cluster }
}
