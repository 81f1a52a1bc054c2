import { randomUUID } from 'node:crypto'
import { EventEmitter } from 'node:events'
import { Logger, makeWorkerUtils, run, type WorkerEvents } from 'graphile-worker'
import pg from 'pg'
import { listenForMail } from '../channels/mail/inbound'
import { recoverMail, sendDueMail } from '../channels/mail/dispatch'
import { smtpChannel, type MailChannel } from '../channels/mail/transport'
import { indexOwnFields } from '../db/fieldIndexes'
import { db } from '../db/pool'
import { takeDueSteps } from '../engine/agenda'
import { env } from '../environment'
import { runImport } from '../imports/run'
import { runBulk } from '../services/bulk'
import { rescore } from '../services/score'
import { stepClock } from '../services/clock'

/** The first key of the advisory locks by which worker processes show that they are alive. */
export const ALIVE = 7101

/** A worker process at work. */
export interface Worker {
  stop(): Promise<void>
}

/** How a worker is set up: how long it rests when nothing is due (ms), and whether it takes in mail. */
export interface WorkerOptions {
  rest?: number
  inbound?: boolean
  complain?: (what: string, error: unknown) => void
}

/** So that one batch is claimed or written down while another is on its way. */
export const MAIL_LOOPS = 2

const pause = (ms: number) => new Promise(resolve => setTimeout(resolve, ms))

/**
 * Starts a worker: it takes the agenda's steps, sends due mail, moves the demo's clock, runs the long jobs, takes in
 * what comes back by mail, and clears up after workers that have died. Any number may run against one database.
 */
export async function startWorker(options: WorkerOptions = {}): Promise<Worker> {
  const complain = options.complain ?? ((what, error) => console.error(`${what}:`, error instanceof Error ? error.message : error))
  const rest = options.rest ?? 250
  const workerId = `worker-${randomUUID()}`
  const channel = smtpChannel()
  let running = true
  const life = stayAlive(workerId, complain)
  // Only once it is known to live: whose jobs are whose is written down beside that.
  const jobs = life.then(() => runJobs(workerId, complain))
  const inbound = options.inbound === false ? null : await listenForMail(env().mailInPort, error => complain('Mail coming in', error))
  const loop = async (what: string, work: () => Promise<number | boolean>, idle: number) => {
    while (running) {
      const did = await work().catch((error: unknown) => {
        complain(what, error)
        return pause(1_000).then(() => false)
      })
      if (!did) await pause(idle)
    }
  }
  const loops = [
    loop('Steps', takeDueSteps, rest),
    ...Array.from({ length: MAIL_LOOPS }, () => loop('Mail', () => sendDueMail(channel, workerId), rest)),
    loop('Clock', stepClock, rest),
    loop('Clearing up', async () => { await clearUp(channel, workerId); return false }, Math.max(rest, 1_000)),
  ]
  return {
    async stop() {
      running = false
      await Promise.all(loops)
      await inbound?.close()
      await (await jobs)?.stop()
      channel.close()
      await (await life).end()
    },
  }
}

/** Holds the lock that says this worker lives, on a connection of its own; takes it anew when the database has been away. */
async function stayAlive(workerId: string, complain: (what: string, error: unknown) => void): Promise<{ end(): Promise<void> }> {
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
        const { rows: [row] } = await fresh.query<{ id: string }>('insert into worker_pools (pool_id) values ($1) on conflict (pool_id) do update set pool_id = excluded.pool_id returning id::int', [workerId])
        await fresh.query('select pg_advisory_lock($1, $2)', [ALIVE, row!.id])
        client = fresh
        return
      }
      catch (error) {
        complain('Staying alive', error)
        await pause(1_000)
      }
    }
  }
  await hold()
  return {
    async end() {
      ended = true
      await client?.query('delete from worker_pools where pool_id = $1', [workerId]).catch(() => {})
      await client?.end().catch(() => {})
    },
  }
}

/** Runs the long jobs, and notes in which name the job runner locks this process's jobs, so that a successor can free their jobs. */
async function runJobs(workerId: string, complain: (what: string, error: unknown) => void): Promise<{ stop(): Promise<void> } | null> {
  const events: WorkerEvents = new EventEmitter()
  // Jobs are locked in the name of the runner's pool.
  events.on('pool:create', ({ workerPool }) => {
    db().query('update worker_pools set job_workers = job_workers || $2 where pool_id = $1', [workerId, [workerPool.id]]).catch((error: unknown) => complain('Jobs', error))
  })
  const logger = new Logger(() => (level, message) => { if (level === 'error') complain('Jobs', message) })
  for (;;) {
    try {
      return await run({
        pgPool: db(), concurrency: 1, noHandleSignals: true, pollInterval: 1_000, logger, events,
        taskList: {
          runImport: async payload => runImport((payload as { importId: string }).importId),
          runBulk: async payload => runBulk((payload as { actionId: string }).actionId),
          indexFields: async () => indexOwnFields(),
          rescore: async () => rescore(),
        },
      })
    }
    catch (error) {
      complain('Jobs', error)
      await pause(2_000)
    }
  }
}

async function freeJobs(jobWorkers: string[]): Promise<void> {
  const tools = await makeWorkerUtils({ pgPool: db(), logger: new Logger(() => () => {}) })
  await tools.forceUnlockWorkers(jobWorkers)
  await tools.release()
}

/**
 * Finds workers whose lock is free, which means that they have died, and takes up what they left: mail in sending, jobs
 * held. A job held by somebody who is nobody's was taken in the moment before its worker died.
 */
export async function clearUp(channel: MailChannel, ownId: string): Promise<void> {
  const { rows: strays } = await db().query<{ locked_by: string }>(`select distinct locked_by from graphile_worker.jobs j
    where locked_by is not null and locked_at < now() - interval '15 seconds' and not exists (select from worker_pools w where j.locked_by = any(w.job_workers))`)
  if (strays.length) await freeJobs(strays.map(stray => stray.locked_by))
  const { rows } = await db().query<{ id: number, pool_id: string, job_workers: string[] }>('select id, pool_id, job_workers from worker_pools where pool_id <> $1', [ownId])
  for (const row of rows) {
    const client = await db().connect()
    try {
      const { rows: [lock] } = await client.query<{ free: boolean }>('select pg_try_advisory_lock($1, $2::int) as free', [ALIVE, row.id])
      if (!lock!.free) continue
      try {
        await recoverMail(channel, row.pool_id)
        if (row.job_workers.length) await freeJobs(row.job_workers)
        await client.query('delete from worker_pools where id = $1', [row.id])
      }
      finally {
        await client.query('select pg_advisory_unlock($1, $2::int)', [ALIVE, row.id])
      }
    }
    finally {
      client.release()
    }
  }
}
