import { startCluster } from './database.mjs'
import { ensurePackages, postgresFolder } from './machine.mjs'
import { fail } from './say.mjs'

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
  if (!file) fail(`Name the file: npm run ${command} -- FILE. DATABASE_URL says which database; without it, the demo's.`)
  return file
}

/** One of PostgreSQL's client programs. */
export const client = name => `${postgresFolder()}/${name}`
