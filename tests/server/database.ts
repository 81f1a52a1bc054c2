import { randomUUID } from 'node:crypto'
import { afterAll, beforeAll, inject } from 'vitest'
import { closePool, openPool } from '../../server/db/pool'
import { rereadEnvironment } from '../../server/environment'
import { sql } from '../../server/db/sql'
import { expectTrueLog } from '../fixtures/eventLog'

// The rates are tested with limits of their own.
process.env.RATE_LIMIT ??= '10000000'

/** Every test file gets a database of its own, copied from the migrated template and removed in the end. */
const name = `uphill_${randomUUID().replaceAll('-', '')}`

beforeAll(async () => {
  const admin = openPool(inject('clusterUrl').replace('NAME', 'postgres'), 1)
  for (let tries = 0; ; tries++) {
    try {
      await admin.query(sql`create database ${name} template uphill_template`)
      break
    } catch (error) {
      // Two files copying the template at the same moment have to take turns.
      if (tries > 20 || (error as { code?: string }).code !== '55006') throw error
      await new Promise((resolve) => setTimeout(resolve, 100))
    }
  }
  await admin.end()
  process.env.DATABASE_URL = inject('clusterUrl').replace('NAME', name)
  process.env.UPHILL_SECRET = 'a secret for tests, which is nobody’s secret: 0123456789'
  process.env.UPHILL_URL = 'http://127.0.0.1:4100'
  process.env.MAIL_DOMAIN = 'reply.uphill.example'
  process.env.SMTP_URL ??= 'smtp://127.0.0.1:1'
  rereadEnvironment()
})

afterAll(async () => {
  // Files that stop the database have one of their own.
  if (process.env.DATABASE_URL === inject('clusterUrl').replace('NAME', name)) await expectTrueLog()
  await closePool()
  const admin = openPool(inject('clusterUrl').replace('NAME', 'postgres'), 1)
  await admin.query(sql`drop database if exists ${name} with (force)`)
  await admin.end()
})
