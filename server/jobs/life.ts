import { hostname } from 'node:os'
import { Logger, makeWorkerUtils } from 'graphile-worker'
import pg, { type PoolClient } from 'pg'
import { recoverMail, workersWithOldClaims } from '../channels/mail/recover'
import type { MailChannel } from '../channels/mail/transport'
import { db } from '../db/pool'
import { noteCrash } from '../engine/dueWork'
import { env } from '../environment'
import { firstRow, sql } from '../db/sql'

/** The first key of the advisory locks by which worker processes show that they are alive. */
const ALIVE = 7101

/** How long a statement of a worker that has ended may still be under way, in seconds. */
const LAST_STATEMENT_SECONDS = 15

type Complain = (what: string, error: unknown) => void

const pause = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms))

/** That a worker is alive, as others see it. */
export interface Life {
  /** Whether the lock is held; while it is not, others may take the worker for ended, and it must not send. */
  held(): boolean
  end(): Promise<void>
}

/**
 * Holds the lock that says this worker lives, on a connection of its own; takes it again when the database has been
 * away.
 */
export async function stayAlive(workerId: string, complain: Complain): Promise<Life> {
  let client: pg.Client | null = null
  let ended = false
  const hold = async (): Promise<void> => {
    while (!ended) {
      try {
        const fresh = new pg.Client({ connectionString: env().databaseUrl })
        fresh.on('error', (error) => {
          complain('Staying alive', error)
          fresh.end().catch(() => {})
          if (client === fresh) {
            client = null
            void pause(500).then(hold)
          }
        })
        await fresh.connect()
        const row = await firstRow(
          fresh.query<{ id: string }>(
            sql`
              insert into worker_pools (pool_id, host, process_id)
              values ($1, $2, $3)
              on conflict (pool_id) do update set ended_at = null
              returning id::int
            `,
            [workerId, hostname(), process.pid],
          ),
        )
        await fresh.query(sql`select pg_advisory_lock($1, $2)`, [ALIVE, row!.id])
        client = fresh
        return
      } catch (error) {
        complain('Staying alive', error)
        await pause(1_000)
      }
    }
  }
  await hold()
  return {
    held: () => client !== null,
    async end() {
      ended = true
      await client?.query(sql`delete from worker_pools where pool_id = $1`, [workerId]).catch(() => {})
      await client?.end().catch(() => {})
    },
  }
}

async function freeJobs(jobWorkers: string[]): Promise<void> {
  const tools = await makeWorkerUtils({ pgPool: db(), logger: new Logger(() => () => {}) })
  await tools.forceUnlockWorkers(jobWorkers)
  await tools.release()
}

/**
 * Whether a process of this machine has certainly ended. On another machine, or another user's, nobody here can tell.
 */
function hasEnded(host: string | null, processId: number | null): boolean {
  if (host !== hostname() || processId === null) return false
  try {
    process.kill(processId, 0)
    return false
  } catch (error) {
    return (error as { code?: string }).code === 'ESRCH'
  }
}

interface WorkerRow {
  id: number
  pool_id: string
  job_workers: string[]
  host: string | null
  process_id: number | null
  ended: boolean
}

/**
 * Finds workers whose lock is free and takes up what they left: email they had claimed, jobs they held, due work they
 * had in hand. Where the process has ended for certain that is done at once; a worker that may only have lost its
 * connection is given the time a claim holds first. What is claimed by nobody known is found by its age.
 */
export async function clearUp(channel: MailChannel, ownId: string): Promise<void> {
  const { rows: strays } = await db().query<{ locked_by: string }>(
    sql`
      select distinct locked_by
      from graphile_worker.jobs j
      where locked_by is not null
        and locked_at < now() - interval '15 seconds'
        and not exists (select from worker_pools w where j.locked_by = any(w.job_workers))
    `,
  )
  if (strays.length) await freeJobs(strays.map((stray) => stray.locked_by))
  for (const workerId of await workersWithOldClaims()) await recoverMail(channel, workerId, !(await isKnown(workerId)))
  const { rows } = await db().query<WorkerRow>(
    sql`
      select id, pool_id, job_workers, host, process_id, ended_at is not null as ended
      from worker_pools
      where pool_id <> $1
    `,
    [ownId],
  )
  for (const row of rows) await takeUp(channel, row)
}

async function isKnown(workerId: string): Promise<boolean> {
  return (await db().query(sql`select from worker_pools where pool_id = $1`, [workerId])).rows.length > 0
}

async function takeUp(channel: MailChannel, row: WorkerRow): Promise<void> {
  const client = await db().connect()
  try {
    const lock = await firstRow(
      client.query<{ free: boolean }>(sql`select pg_try_advisory_lock($1, $2::int) as free`, [ALIVE, row.id]),
    )
    if (!lock!.free) return
    try {
      const ended = hasEnded(row.host, row.process_id)
      await recoverMail(channel, row.pool_id, ended)
      if (!ended && (await holdsClaims(row.pool_id))) return
      await noteCrash(row.pool_id)
      if (row.job_workers.length && !row.ended) await freeJobs(row.job_workers)
      await forget(client, row.id)
    } finally {
      await client.query(sql`select pg_advisory_unlock($1, $2::int)`, [ALIVE, row.id])
    }
  } finally {
    client.release()
  }
}

/**
 * Notes that a worker has ended, and forgets it a while later: a statement it sent just before its end may still be
 * carried out by the database, and what that claims is taken up the next time.
 */
async function forget(client: PoolClient, id: number): Promise<void> {
  await client.query(sql`update worker_pools set ended_at = now() where id = $1 and ended_at is null`, [id])
  await client.query(
    sql`
      delete from worker_pools
      where id = $1 and ended_at < now() - make_interval(secs => $2)
    `,
    [id, LAST_STATEMENT_SECONDS],
  )
}

/** Whether a worker's claims are still young enough that it may be handing them over, or it has only just been seen. */
async function holdsClaims(workerId: string): Promise<boolean> {
  const row = await firstRow(
    db().query<{ held: boolean }>(
      sql`
        select exists (select from email_messages where claimed_by = $1 and status in ('queued', 'sending')) as held
      `,
      [workerId],
    ),
  )
  return row!.held
}
