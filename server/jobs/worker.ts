import { EventEmitter } from 'node:events'
import { newId } from '#shared/newId'
import { Logger, run, type WorkerEvents } from 'graphile-worker'
import { keepListening } from '../channels/mail/keepListening'
import { sendDueMail } from '../channels/mail/dispatch'
import { readIncoming } from '../channels/mail/readIncoming'
import { smtpChannel } from '../channels/mail/transport'
import { indexCustomFields } from '../db/fieldIndexes'
import { db } from '../db/pool'
import { takeDueActions, takeDueSteps } from '../engine/dueSteps'
import type { Hand } from '../engine/dueWork'
import { holidayTables } from '../engine/holidays'
import { planMissingActions } from '../engine/nextActions'
import { env } from '../environment'
import { log, loggable } from '../log'
import { runImport } from '../imports/run'
import { deleteOldUploads } from '../imports/upload'
import { learnCallHours } from '../services/bestTime/learn'
import { endForgottenCalls } from '../services/incomingCalls/receive'
import { logResults } from '../services/otherDialers/logResults'
import { deleteOldRecordings, fetchRecording } from '../services/recordings/recordings'
import { runBulk } from '../services/bulk/runBulk'
import { emailNotifications, forgetOldNotifications } from '../services/email/notificationEmails'
import { rescore } from '../services/fields/score'
import { forgetOldTexts, sendSystemEmail } from '../services/email/systemEmails'
import { stepClock } from '../services/system/clock'
import { deliverText } from '../services/texts/deliver'
import { deleteUnusedFiles } from '../services/templates/files'
import { clearUp, stayAlive } from './life'
import { firstRow, sql } from '../db/sql'

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

const pause = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms))
/** A pause that does not keep the program from ending. */
const rested = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms).unref())

/**
 * Starts a worker: it takes the agenda's steps, sends due mail, moves the demo's clock, runs the long jobs, takes in
 * what comes back by mail, and clears up after workers that have died. Any number may run against one database.
 */
export async function startWorker(options: WorkerOptions = {}): Promise<Worker> {
  const complain = options.complain ?? ((what, error) => log.error({ what, error: loggable(error) }, 'worker'))
  const rest = options.rest ?? 250
  const workerId = `worker-${newId()}`
  const channel = smtpChannel()
  let running = true
  const life = await stayAlive(workerId, complain)
  await workOutHolidays().catch((error: unknown) => complain('Holidays', error))
  // Only once it is known to live: whose jobs are whose is written down beside that.
  const jobs = runJobs(workerId, complain)
  const inbound =
    options.inbound === false ? null : keepListening(env().mailInPort, (error) => complain('Incoming email', error))
  let stopNow = () => {}
  const stopping = new Promise<void>((resolve) => {
    stopNow = resolve
  })
  const loop = async (what: string, work: () => Promise<number | boolean>, idle: number) => {
    while (running) {
      const did = await work().catch((error: unknown) => {
        complain(what, error)
        return pause(1_000).then(() => false)
      })
      if (!did) await Promise.race([rested(idle), stopping])
    }
  }
  // Others may take a worker without its lock for ended and see to its email: until it has the lock again it sends
  // none.
  const send = (name: string) => async () =>
    life.held() && (await sendDueMail(channel, { id: workerId, loop: name, isAlive: life.held }))
  let planFrom: string | null = null
  // While one waits for the database, the other reacts: two are twice as fast as one.
  const pair = (what: string, take: (hand: Hand) => Promise<number>, name: string) =>
    [1, 2].map((number) => loop(what, () => take({ workerId, loop: `${name} ${number}` }), rest))
  const loops = [
    ...pair('Steps', takeDueSteps, 'steps'),
    ...pair('Scheduled actions', takeDueActions, 'actions'),
    ...Array.from({ length: MAIL_LOOPS }, (_, index) => loop('Mail', send(`mail ${index}`), rest)),
    loop('Incoming email', readIncoming, rest),
    loop('Clock', stepClock, rest),
    loop(
      'Next actions',
      async () => {
        const { next, planned } = await planMissingActions(planFrom)
        planFrom = next
        return planned > 0
      },
      Math.max(rest, 60_000),
    ),
    loop('Notifications by email', emailNotifications, Math.max(rest, 30_000)),
    loop(
      'Old uploads',
      async () => {
        await deleteOldUploads()
        return false
      },
      3_600_000,
    ),
    loop(
      'Old texts',
      async () => {
        await forgetOldTexts()
        await forgetOldNotifications()
        await deleteUnusedFiles()
        return false
      },
      3_600_000,
    ),
    loop(
      'Clearing up',
      async () => {
        await clearUp(channel, workerId)
        return false
      },
      Math.max(rest, 1_000),
    ),
  ]
  return {
    async stop() {
      running = false
      stopNow()
      await Promise.all(loops)
      await inbound?.close()
      await (await jobs)?.stop()
      channel.close()
      await db()
        .query(sql`delete from work_in_hand where worker_id = $1`, [workerId])
        .catch(() => {})
      await life.end()
    },
  }
}

/**
 * Works out this year's holidays of the team's country, which takes most of a second, before anything is in hand: what
 * a worker has in hand when it is killed counts as touched by the crash.
 */
async function workOutHolidays(): Promise<void> {
  const team = await firstRow(
    db().query<{ country: string; today: string }>(sql`
      select country, to_char(world_now() at time zone time_zone, 'YYYY-MM-DD') as today
      from team
    `),
  )
  if (team) void holidayTables()[team.country]?.[team.today]
}

/** Jobs that come round by the clock, once for all workers, as crontab lines. */
const CRONTAB = ['20 * * * * learnCallHours', '* * * * * endForgottenCalls', '40 * * * * deleteOldRecordings'].join(
  '\n',
)

/**
 * Runs the long jobs, and notes in which name the job runner locks this process's jobs, so that a successor can free
 * their jobs.
 */
async function runJobs(
  workerId: string,
  complain: (what: string, error: unknown) => void,
): Promise<{ stop(): Promise<void> } | null> {
  const events: WorkerEvents = new EventEmitter()
  // Jobs are locked in the name of the runner's pool.
  events.on('pool:create', ({ workerPool }) => {
    db()
      .query(sql`update worker_pools set job_workers = job_workers || $2 where pool_id = $1`, [
        workerId,
        [workerPool.id],
      ])
      .catch((error: unknown) => complain('Jobs', error))
  })
  const logger = new Logger(() => (level, message) => {
    if (level === 'error') complain('Jobs', message)
  })
  for (;;) {
    try {
      return await run({
        pgPool: db(),
        concurrency: 1,
        noHandleSignals: true,
        pollInterval: 1_000,
        logger,
        events,
        crontab: CRONTAB,
        taskList: {
          runImport: async (payload) => runImport((payload as { importId: string }).importId),
          runBulk: async (payload) => runBulk((payload as { actionId: string }).actionId),
          indexFields: async () => indexCustomFields(),
          rescore: async () => rescore(),
          learnCallHours: async () => learnCallHours(),
          endForgottenCalls: async () => endForgottenCalls(),
          deleteOldRecordings: async () => void (await deleteOldRecordings()),
          logCallResults: async (payload) => logResults((payload as { id: string }).id),
          fetchRecording: async (payload, { job }) =>
            fetchRecording((payload as { id: string }).id, job.attempts >= job.max_attempts),
          sendText: async (payload, { job }) =>
            deliverText((payload as { id: string }).id, job.attempts >= job.max_attempts),
          sendSystemEmail: async (payload) => sendSystemEmail((payload as { id: string }).id),
        },
      })
    } catch (error) {
      complain('Jobs', error)
      await pause(2_000)
    }
  }
}
