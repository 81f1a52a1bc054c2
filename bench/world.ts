import { randomUUID } from 'node:crypto'
import { Logger, runMigrations } from 'graphile-worker'
import { migrate } from '../server/db/migrate'
import { closePool, db, openPool } from '../server/db/pool'
import { rereadEnvironment } from '../server/environment'
import { seedPlaybook } from '../server/services/settings/firstPlaybook'
import type { Viewer } from '../server/services/access/viewer'
import { hashPassword } from '../server/services/access/passwords'
import { sql } from '../server/db/sql'

/** Monday 23 November 2026, 10:42 in New York. */
export const MONDAY = Date.UTC(2026, 10, 23, 15, 42)

/** A fresh database of its own on the bench's cluster, made the process's own. */
export async function freshWorld(name: string): Promise<{ url: string; leave(): Promise<void> }> {
  const cluster = process.env.BENCH_CLUSTER!
  const admin = openPool(cluster.replace('NAME', 'postgres'), 1)
  await admin.query(sql`drop database if exists ${name} with (force)`)
  await admin.query(sql`create database ${name}`)
  await admin.end()
  const url = cluster.replace('NAME', name)
  await migrate(url)
  await closePool()
  Object.assign(process.env, {
    DATABASE_URL: url,
    UPHILL_SECRET: 'measuring, and nothing to be kept secret: 0123456789',
    UPHILL_URL: 'http://127.0.0.1:4100',
    SMTP_URL: 'smtp://127.0.0.1:1',
    DATABASE_POOL: '20',
  })
  rereadEnvironment()
  await runMigrations({ pgPool: db(), logger: new Logger(() => () => {}) })
  await seedPlaybook(db())
  await db().query(sql`update clock set frozen_at = $1`, [new Date(MONDAY)])
  return { url, leave: closePool }
}

/** A user of the bench's world. */
export async function addUser(role: Viewer['role'], name: string): Promise<Viewer & { password: string }> {
  const id = randomUUID()
  const password = 'climb-the-hill'
  const email = `${id.slice(0, 8)}@bench.example`
  await db().query(
    sql`
      insert into users (id, email, name, role, time_zone, password_hash, email_spacing_seconds, daily_email_cap)
      values ($1, $2, $3, $4, 'America/New_York', $5, 0, 1000000)
    `,
    [id, email, name, role, await hashPassword(password)],
  )
  return {
    id,
    email,
    name,
    role,
    timeZone: 'America/New_York',
    dateStyle: 'us',
    seesAll: role !== 'rep',
    session: null,
    mustChangePassword: false,
    password,
  }
}

/**
 * Many prospects at companies of four, each with an address, a number, an entry in the event log and two mails of long
 * ago, written set-based; gives nothing, they are read back where needed.
 */
export async function addCrowd(count: number, ownerId: string | null): Promise<void> {
  await db().query(
    sql`
      insert into companies (id, name, name_key, domain, created_at)
      select
        gen_random_uuid(), 'Company ' || n, 'company ' || n,
        'c' || n || '-' || substr(md5($2::text), 1, 4) || '.example', world_now()
      from generate_series(1, $1::int / 4) n
    `,
    [count, String(ownerId)],
  )
  await db().query(
    sql`
      with c as (
        select id, row_number() over (order by created_at, id) as n
        from companies
        where domain like '%-' || substr(md5($2::text), 1, 4) || '.example'
      )
      insert into prospects (
        id, first_name, last_name, name_key, company_id, owner_id, stage_id, time_zone, country, region, created_at
      )
      select
        gen_random_uuid(), 'Person', 'No ' || p.n, 'person no ' || p.n, c.id, $3, 'new', 'America/New_York', 'US',
        'NY', world_now()
      from generate_series(1, $1::int) p(n)
        join c on c.n = 1 + (p.n - 1) / 4
    `,
    [count, String(ownerId), ownerId],
  )
  await db().query(
    sql`
      insert into email_addresses (id, prospect_id, address)
      select gen_random_uuid(), id, id || '@crowd.example'
      from prospects p
      where not exists (select from email_addresses e where e.prospect_id = p.id)
    `,
  )
  await db().query(
    sql`
      insert into phones (id, prospect_id, number)
      select gen_random_uuid(), id, '+1212555' || lpad((100 + (row_number() over ()) % 100)::text, 4, '0')
      from prospects p
      where not exists (select from phones n where n.prospect_id = p.id)
    `,
  )
  await db().query(
    sql`
      insert into events (id, at, kind, prospect_id)
      select gen_random_uuid(), p.created_at, 'prospectAdded', p.id
      from prospects p
      where not exists (select from events h where h.prospect_id = p.id)
    `,
  )
  await db().query(
    sql`
      insert into touches (id, prospect_id, kind, at, user_id, counts_as)
      select gen_random_uuid(), p.id, 'email', world_now() - n * interval '40 days', p.owner_id, 'none'
      from prospects p
        cross join generate_series(1, 2) n
      where not exists (select from touches t where t.prospect_id = p.id)
    `,
  )
  await db().query('analyze')
}
