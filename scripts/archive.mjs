import { startCluster } from './database.mjs'
import { ensurePackages, postgresFolder } from './prerequisites.mjs'
import { fail } from './log.mjs'
import { run } from './shell.mjs'

/** The database that is meant: DATABASE_URL, or the demo's. Gives its address and how to leave it as it was found. */
export async function databaseMeant() {
  ensurePackages(['postgres'])
  if (process.env.DATABASE_URL) return { url: process.env.DATABASE_URL, leave() {} }
  const cluster = await startCluster('demo')
  cluster.ensureDatabase('uphill')
  return { url: cluster.url('uphill'), leave: () => cluster.started && cluster.stop() }
}

/** The file named on the command line; ends with how it is used where none is. */
export function fileNamed(command) {
  const [file] = process.argv.slice(2)
  if (!file) {
    fail(`Name the file: npm run ${command} -- FILE. DATABASE_URL says which database; without it, the demo's.`)
  }
  return file
}

/**
 * How PostgreSQL's client programs reach a database: by the environment, so that the password is in no list of
 * processes. Gives the name of the database and a function that runs one of the programs, on another database where one
 * is named.
 */
export function clientOf(url) {
  const parts = new URL(url)
  const name = decodeURIComponent(parts.pathname.slice(1))
  const env = {
    ...process.env,
    PGHOST: parts.hostname,
    PGPORT: parts.port || '5432',
    PGUSER: decodeURIComponent(parts.username),
    PGPASSWORD: decodeURIComponent(parts.password),
    ...(parts.searchParams.get('sslmode') && { PGSSLMODE: parts.searchParams.get('sslmode') }),
  }
  return {
    name,
    run: (program, args, database = name) =>
      run(`${postgresFolder()}/${program}`, args, { env: { ...env, PGDATABASE: database } }),
    /** Runs one statement; gives its code and output. */
    sql(text, database = name) {
      return this.run('psql', ['-v', 'ON_ERROR_STOP=1', '-qtAc', text], database)
    },
  }
}

export const lastLine = (text) => text.trim().split('\n').filter(Boolean).at(-1) ?? 'no reason given'
