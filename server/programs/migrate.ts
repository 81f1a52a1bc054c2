import { Logger, runMigrations } from 'graphile-worker'
import { closePool, openPool } from '../db/pool'
import { migrate } from '../db/migrate'

/** Brings a database to the newest schema, with the job runner's own. Used by start, demo and tests. */
const url = process.env.DATABASE_URL
if (!url) {
  console.error('DATABASE_URL is missing')
  process.exit(1)
}
try {
  const done = await migrate(url, process.env.MIGRATIONS_FOLDER)
  const pool = openPool(url, 2)
  await runMigrations({ pgPool: pool, logger: new Logger(() => () => {}) })
  await pool.end()
  await closePool()
  console.log(done.length ? `Schema brought up to date: ${done.join(', ')}` : 'Schema is up to date')
} catch (error) {
  console.error(`The database could not be brought up to date: ${(error as Error).message}`)
  process.exit(1)
}
