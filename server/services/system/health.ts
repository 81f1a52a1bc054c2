import type { Health } from '#shared/api/session'
import { db, isUnreachable } from '../../db/pool'
import { scheduledActionLag } from '../../engine/dueSteps'
import { firstRow, sql } from '../../db/sql'

/** How late steps may be, and how long due email may wait, before someone should look: milliseconds and minutes. */
const LATE_MS = 60_000
const EMAIL_WAITS_MINUTES = 10

interface Counts {
  waiting: number
  late_email: number
  unknown: number
  workers: number
  set_aside: number
}

// Sets of what failed three times: due work, incoming email, jobs of the job runner.
const COUNTS_SQL = sql`
  select
    (
      select count(*)
      from scheduled_actions
      where kind = 'email' and at <= world_now() and set_aside_at is null
    ) as waiting,
    (
      select count(*)
      from scheduled_actions
      where kind = 'email' and at <= world_now() - make_interval(mins => $1) and set_aside_at is null
    ) as late_email,
    (
      select count(*)
      from tasks t
        join email_messages m on m.id = t.message_id
      where t.kind = 'check_mail' and t.status = 'open' and m.status = 'unconfirmed'
    ) as unknown,
    (
      select count(*)
      from worker_pools w
      -- One that has ended is looked after by another, which then holds its lock for a moment.
      where w.ended_at is null
        and exists (
          select from pg_locks l where l.locktype = 'advisory' and l.classid = 7101 and l.objid = w.id and l.granted
        )
    ) as workers,
    (select count(*) from scheduled_actions where set_aside_at is not null) + (
      select count(*) from incoming_email where set_aside_at is not null
    ) + (select count(*) from graphile_worker.jobs where attempts >= max_attempts and locked_at is null) as
      set_aside
`

/** Whether it works: ready, degraded (with the reasons, in words), or down where the database cannot be reached. */
export async function readHealth(): Promise<Health> {
  try {
    const lag = await scheduledActionLag()
    const row = await firstRow(db().query<Counts>(COUNTS_SQL, [EMAIL_WAITS_MINUTES]))
    const { waiting, late_email: lateEmail, unknown, workers, set_aside: setAside } = row!
    const reasons = [
      ...(workers ? [] : ['No worker is running: no step is taken and no email is sent']),
      ...(lag > LATE_MS ? [`Steps are ${Math.round(lag / 60_000)} minutes late`] : []),
      ...(lateEmail
        ? [`${count(lateEmail, 'email has', 'emails have')} been due for more than ${EMAIL_WAITS_MINUTES} minutes`]
        : []),
      ...(setAside
        ? [
            `${count(setAside, 'piece of work', 'pieces of work')} failed three times and ${setAside === 1 ? 'waits' : 'wait'} under Problems`,
          ]
        : []),
    ]
    return {
      status: reasons.length ? 'degraded' : 'ready',
      reasons,
      database: true,
      scheduledActionLagMs: lag,
      emailsWaiting: waiting,
      emailsUnknown: unknown,
      setAside,
      workers,
    }
  } catch (error) {
    if (!isUnreachable(error)) throw error
    return {
      status: 'down',
      reasons: ['The database cannot be reached'],
      database: false,
      scheduledActionLagMs: 0,
      emailsWaiting: 0,
      emailsUnknown: 0,
      setAside: 0,
      workers: 0,
    }
  }
}

const count = (number: number, one: string, several: string) =>
  `${number.toLocaleString('en-US')} ${number === 1 ? one : several}`
