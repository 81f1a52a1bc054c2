import { execFileSync } from 'node:child_process'
import { Logger, runMigrations } from 'graphile-worker'
import type { TestProject } from 'vitest/node'
import { migrate } from '../../server/db/migrate'
import { openPool } from '../../server/db/pool'
import { PROGRAMS } from '../fixtures/programs'
// @ts-expect-error The set-up scripts are plain JavaScript: they run before anything is installed.
import { startCluster } from '../../scripts/database.mjs'
import { sql } from '../../server/db/sql'

const TEMPLATE = 'uphill_template'

/** Bundles the programs, starts the test cluster and makes one migrated database that every test file copies. */
export default async function setup(project: TestProject): Promise<() => void> {
  execFileSync(process.execPath, ['scripts/bundle.mjs', PROGRAMS])
  const cluster = (await startCluster('test', { noFsync: true })) as {
    url(name: string): string
    stop(): void
    started: boolean
  }
  const admin = openPool(cluster.url('postgres'), 1)
  const { rows } = await admin.query<{ datname: string }>(
    sql`select datname from pg_database where datname like 'uphill_%'`,
  )
  for (const { datname } of rows) await admin.query(sql`drop database if exists ${datname} with (force)`)
  await admin.query(sql`create database ${TEMPLATE}`)
  await migrate(cluster.url(TEMPLATE))
  const pool = openPool(cluster.url(TEMPLATE), 1)
  await runMigrations({ pgPool: pool, logger: new Logger(() => () => {}) })
  await pool.end()
  await admin.end()
  project.provide('clusterUrl', cluster.url('NAME'))
  return () => {
    if (cluster.started) cluster.stop()
  }
}

declare module 'vitest' {
  interface ProvidedContext {
    clusterUrl: string
  }
}
