import { spawn, type ChildProcess } from 'node:child_process'
import { randomBytes } from 'node:crypto'
import { afterAll, beforeAll, expect, it } from 'vitest'
// @ts-expect-error The set-up scripts are plain JavaScript: they run before anything is installed.
import { startCluster } from '../../../scripts/database.mjs'
import { IN_FLIGHT } from '../../../server/channels/mail/handOver'
import { closePool, db } from '../../../server/db/pool'
import { MAIL_LOOPS } from '../../../server/jobs/worker'
import { enroll } from '../../../server/services/cadences/enrollments'
import { seeded } from '../../../demo/seeded'
import { addCadence, addPeople, addUser, rows, startWorld } from '../../fixtures/people'
import { freePort, killAll, pause, PROGRAMS, start, until } from '../../fixtures/programs'
import { sql } from '../../../server/db/sql'

const PEOPLE = 1_000
const KILLS = 60

/** A cluster of its own: a PostgreSQL that is killed takes everyone's connections along. */
let cluster: { url(name: string): string; ensureDatabase(name: string): boolean; stop(): void }
let mailbox: number
let env: Record<string, string>
let web: { start(): ChildProcess }

beforeAll(async () => {
  cluster = (await startCluster('killed', { noFsync: true })) as typeof cluster
  const name = `killed_${randomBytes(4).toString('hex')}`
  cluster.ensureDatabase(name)
  await closePool()
  process.env.DATABASE_URL = cluster.url(name)
  const migrated = start('migrate', {})
  await new Promise((resolve) => migrated.once('exit', resolve))
  await startWorld()
  const [smtp, pages, replies, port] = await Promise.all([freePort(), freePort(), freePort(), freePort()])
  mailbox = pages
  start('mail', { SMTP_PORT: String(smtp), HTTP_PORT: String(mailbox), MAIL_IN_PORT: String(replies) })
  for (let up = false; !up;) {
    up = await fetch(`http://127.0.0.1:${mailbox}/count`).then(
      (response) => response.ok,
      () => pause(50).then(() => false),
    )
  }
  // No MAILBOX_URL: the mail server cannot be asked what it took.
  env = { SMTP_URL: `smtp://127.0.0.1:${smtp}`, MAIL_IN_PORT: String(replies), MAILBOX_URL: '' }
  web = {
    start: () =>
      spawn(process.execPath, ['.output/server/index.mjs'], {
        env: { ...process.env, ...env, PORT: String(port), HOST: '127.0.0.1', NODE_ENV: 'production' },
        stdio: 'ignore',
      }),
  }
}, 180_000)
afterAll(async () => {
  killAll()
  await closePool()
  cluster.stop()
})

/** Kills one of PostgreSQL's server processes, which makes it drop every connection and recover as after a crash. */
async function killPostgres(): Promise<void> {
  const found = await db()
    .query<{ pid: number }>(
      sql`
        select pid
        from pg_stat_activity
        where datname = current_database() and pid <> pg_backend_pid()
        order by random()
        limit 1
      `,
    )
    .catch(() => null)
  const pid = found?.rows[0]?.pid
  if (pid) process.kill(pid, 'SIGKILL')
}

/**
 * What is not yet where it should be: neither on to the next step, nor ended, nor left to a person. Everything, while
 * the database is away.
 */
const left = () =>
  rows(sql`
    select
      e.status, m.status as email, m.claimed_by is not null as claimed, m.accepted_at is not null as accepted,
      m.attempts, a.kind, a.failures, a.crashes, a.last_error, a.set_aside_at is not null as set_aside
    from enrollments e
      left join email_messages m on m.enrollment_id = e.id
      left join scheduled_actions a on a.ref_id in (e.id, m.id)
    where not (e.status = 'waiting' and e.due_at > world_now())
      and e.status <> 'ended'
      and m.status is distinct from 'unconfirmed'
  `).catch(() => ['the database is away'])

it(`${KILLS} kills of worker, web and PostgreSQL while ${PEOPLE} steps fall due: none lost, none twice, no more unknown than were on their way`, async () => {
  expect(PROGRAMS).toBeTruthy()
  const rep = await addUser()
  await db().query(sql`update users set daily_email_cap = 5000 where id = $1`, [rep.id])
  const random = seeded(Number(process.env.KILL_SEED ?? 20261126))
  const { ids } = await addPeople(PEOPLE, rep.id)
  await enroll(
    rep,
    (await addCadence([{ kind: 'email' }, { kind: 'call', amount: 2, unit: 'days' }])).id,
    { prospectIds: ids },
    false,
  )
  let worker = start('worker', env)
  let pages = web.start()
  const killed = { worker: 0, web: 0, postgres: 0 }
  for (let kills = 0; kills < KILLS; kills++) {
    await pause(250 + random() * 900)
    const which = random()
    if (which < 0.6) {
      worker.kill('SIGKILL')
      killed.worker++
      worker = start('worker', env)
    } else if (which < 0.8) {
      pages.kill('SIGKILL')
      killed.web++
      pages = web.start()
    } else {
      await killPostgres()
      killed.postgres++
    }
  }
  expect(await until(left, (remaining) => remaining.length === 0, 150_000)).toEqual([])
  pages.kill('SIGKILL')
  expect(Math.min(...Object.values(killed))).toBeGreaterThan(3)
  const { letters, twice } = (await (await fetch(`http://127.0.0.1:${mailbox}/count`)).json()) as {
    letters: number
    twice: number
  }
  expect(twice).toBe(0)
  const states = Object.fromEntries(
    (
      await rows<{ status: string; count: number }>(
        sql`select status, count(*)::int as count from email_messages group by 1`,
      )
    ).map((row) => [row.status, row.count]),
  )
  const unknown = states.unconfirmed ?? 0
  // Every email is sent, or someone is asked about it; nothing waits, and nothing was set aside.
  expect(states).toEqual({ sent: PEOPLE - unknown, ...(unknown && { unconfirmed: unknown }) })
  expect(unknown).toBeLessThanOrEqual((killed.worker + killed.postgres) * IN_FLIGHT * MAIL_LOOPS)
  expect(letters).toBeGreaterThanOrEqual(states.sent!)
  expect(letters).toBeLessThanOrEqual(PEOPLE)
  expect(
    await rows(sql`
    select count(*)::int as count
    from tasks
    where kind = 'check_mail' and status = 'open'
  `),
  ).toEqual([{ count: unknown }])
  expect(await rows(sql`select count(*)::int as count from scheduled_actions where set_aside_at is not null`)).toEqual([
    { count: 0 },
  ])
  console.info(
    `Killed ${JSON.stringify(killed)}; ${unknown} of ${PEOPLE} emails unknown, ${letters} arrived, ${twice} twice`,
  )
}, 400_000)
