import { join } from 'node:path'
import { runner } from 'node-pg-migrate'
import { fillPlaces } from './places'

/**
 * Brings the database at `url` to the newest schema, with the gazetteer filled. Two starters at once wait for each
 * other.
 */
export async function migrate(url: string, folder = join(process.cwd(), 'server/db/migrations')): Promise<string[]> {
  const done = await runner({
    databaseUrl: url,
    dir: folder,
    direction: 'up',
    migrationsTable: 'migrations',
    checkOrder: true,
    advisoryLockMode: 'wait',
    log: () => {},
  })
  await fillPlaces(url)
  return done.map((migration) => migration.name)
}
