import type { TaskKind, TimeZoneSource } from '#core/enumerations'
import { local, startOfDay } from '#core/calendar/local'
import type { Instant } from '#core/instant'
import { db } from '../../db/pool'
import { sql } from '../../db/sql'
import type { Viewer } from '../access/viewer'
import { CALL_KINDS } from '../lists/queueHours'

/** Midnight that ends the day of the rep. */
export const endOfDay = (now: Instant, timeZone: string): Instant =>
  local(now, timeZone).startOf('day').plus({ days: 1 }).toMillis()

/**
 * Steps of cadences that fall due later today and are work for someone: they stand in the queue from the morning on.
 * `owner`, `from` and `to` are parameters: the rep, now and the end of their day.
 */
export const stepsLater = (owner: string, from: string, to: string) => sql`
  from scheduled_actions a
    join enrollments e on e.id = a.ref_id
    join cadence_steps s on s.id = e.step_id and s.kind <> 'branch' and (s.kind <> 'email' or s.review)
    join prospects p on p.id = e.prospect_id
  where a.kind = 'step' and a.at > ${from} and a.at < ${to} and a.set_aside_at is null and p.owner_id = ${owner}`

/** Work of one kind that is due in one place by the end of the rep's day, counted together. */
interface DueTogether {
  timeZone: string
  country: string | null
  region: string | null
  timeZoneFrom: TimeZoneSource
  priority: number
  kind: TaskKind
  due: Instant
  reached: boolean
  first: Instant
  count: number
}

/**
 * All that is open and due by the end of the rep's day, by place and half hour: the queue, its counts and the ridge say
 * the same.
 */
export async function dueToday(viewer: Viewer, now: Instant): Promise<DueTogether[]> {
  const today = startOfDay(now, viewer.timeZone)
  const { rows } = await db().query<DueTogether>({
    name: 'due-today',
    text: sql`
      select
        t.time_zone as "timeZone", p.country, p.region, p.time_zone_from as "timeZoneFrom", t.priority,
        case when t.kind in ${CALL_KINDS} then t.kind else 'task' end as kind,
        ms(date_bin('5 minutes', greatest(t.due_at, $2::timestamptz - interval '5 minutes'), $2::timestamptz)) as
          due, p.conversations > 0 as reached, ms(min(t.due_at)) as first, count(*) as count
      from tasks t
        join prospects p on p.id = t.prospect_id
      where t.owner_id = $1 and t.status = 'open' and t.due_at < $3
      group by 1, 2, 3, 4, 5, 6, 7, 8
      union all
      select
        p.time_zone, p.country, p.region, p.time_zone_from, 2, s.kind, ms(date_bin('5 minutes', a.at, $2::timestamptz)),
        p.conversations > 0, ms(min(a.at)), count(*) ${stepsLater('$1', '$4', '$3')}
      group by 1, 2, 3, 4, 5, 6, 7, 8
    `,
    values: [viewer.id, new Date(today), new Date(endOfDay(now, viewer.timeZone)), new Date(now)],
  })
  return rows
}
