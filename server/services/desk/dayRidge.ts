import { isCallable } from '#core/calendar/callingHours'
import { startOfDay } from '#core/calendar/local'
import type { Instant } from '#core/instant'
import { isWaiting } from '#core/queue/groupNames'
import { groupOf } from '#core/queue/groups'
import { dayRidge as ridge, type DueAtPlace } from '#core/queue/ridge'
import { db } from '../../db/pool'
import { firstRow, sql } from '../../db/sql'
import type { Viewer } from '../access/viewer'
import { isCall } from '../lists/queueHours'
import { nowAndPlaybook } from '../../engine/nowAndPlaybook'
import { dueToday, endOfDay } from './dueToday'

interface CallsMadeRow {
  calls: number
  conversations: number
  meetings: number
  daily_calls: number
  daily_conversations: number
  daily_meetings: number
}

/** The rep's day by half hours, with today's meetings and the goals. */
export async function dayRidge(viewer: Viewer) {
  const { now, book } = await nowAndPlaybook()
  const today = startOfDay(now, viewer.timeZone)
  const bounds = [viewer.id, new Date(today), new Date(endOfDay(now, viewer.timeZone))]
  const due = (await dueToday(viewer, now)).filter((row) => row.kind !== 'first_contact')
  const done = await db().query<{ at: Instant }>(
    sql`
      select ms(done_at) as at
      from tasks
      where owner_id = $1 and status = 'done' and done_at >= $2 and done_at < $3
    `,
    bounds,
  )
  const meetings = await db().query<{ at: Instant; title: string }>(
    sql`
      select ms(a.start_at) as at, a.title
      from meetings a
      where a.user_id = $1 and a.status = 'booked' and a.start_at >= $2 and a.start_at < $3
      order by 1
    `,
    bounds,
  )
  const made = await firstRow(
    db().query<CallsMadeRow>(
      sql`
        select
          u.daily_calls, u.daily_conversations, u.daily_meetings,
          (select count(*) from touches t where t.user_id = u.id and t.kind = 'call' and t.at >= $2 and t.at < $3)
            as calls,
          (
            select count(*)
            from touches t
            where t.user_id = u.id and t.kind = 'call' and t.counts_as = 'conversation' and t.at >= $2 and t.at < $3
          ) as conversations,
          (
            select count(*)
            from meetings a
            where a.user_id = u.id and a.status <> 'cancelled' and a.booked_at >= $2 and a.booked_at < $3
          ) as meetings
        from users u
        where u.id = $1
      `,
      bounds,
    ),
  )
  const places: DueAtPlace[] = due.map((row) => ({
    place: row,
    dueAt: row.first,
    count: row.count,
    rings: isCall(row.kind),
  }))
  const callableNow = due.reduce((sum, row) => {
    const callable = !isCall(row.kind) || isCallable(now, book.callHours, row, book.holidays)
    const { priority, kind, first: dueAt, reached } = row
    const group = groupOf({ priority, kind, dueAt, callable, reached }, now, viewer.timeZone)
    return isWaiting(group) ? sum : sum + row.count
  }, 0)
  return {
    slots: ridge(
      places,
      done.rows.map((row) => row.at),
      now,
      viewer.timeZone,
      book.callHours,
      book.holidays,
    ),
    meetings: meetings.rows,
    callableNow,
    goals: {
      calls: [made!.calls, made!.daily_calls] as [number, number],
      conversations: [made!.conversations, made!.daily_conversations] as [number, number],
      meetings: [made!.meetings, made!.daily_meetings] as [number, number],
    },
  }
}
