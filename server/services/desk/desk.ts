import type { TaskKind, TimeZoneSource } from '#core/enumerations'
import { isCallable } from '#core/calendar/callingHours'
import { local, startOfDay } from '#core/calendar/local'
import type { Id, Instant } from '#core/instant'
import { groupOf, REMIND_BEFORE, type QueueGroup } from '#core/queue/groups'
import { dayRidge as ridge, type DueAtPlace } from '#core/queue/ridge'
import { whyInWords } from '#core/queue/why'
import { COUNTRIES } from '#core/places/lookUp'
import type { Playbook } from '#core/engine/state/playbook'
import { db } from '../../db/pool'
import { playbook } from '../../engine/playbook'
import { queueOfList } from '../lists/listWork'
import { CALL_KINDS, isCall, opening } from '../lists/queueHours'
import type { Viewer } from '../access/viewer'
import { firstRow, sql } from '../../db/sql'

/** Midnight that ends the day of the rep. */
const endOfDay = (now: Instant, timeZone: string): Instant =>
  local(now, timeZone).startOf('day').plus({ days: 1 }).toMillis()

/**
 * Every zone that people may have: those of the runtime, those of the countries' tables, whose names differ, and others
 * once they have been met.
 */
const everyZone = new Set([
  ...Intl.supportedValuesOf('timeZone'),
  ...[...COUNTRIES.values()].flatMap((country) => country.zones),
])

/** Adds zones that people turned out to have (an old name of a zone, say); gives whether there were any. */
function meetZones(zones: readonly string[]): boolean {
  const fresh = zones.filter((timeZone) => !everyZone.has(timeZone))
  for (const timeZone of fresh) everyZone.add(timeZone)
  if (fresh.length) closedCache = null
  return fresh.length > 0
}

let closedCache: { key: string; zones: string[] } | null = null

/** The time zones in which nobody may be called now. The same for a whole minute, so it is worked out once in it. */
function closedZones(now: Instant, book: Playbook): string[] {
  const key = `${Math.floor(now / 60_000)}/${book.version}`
  if (closedCache?.key !== key) {
    const zones = [...everyZone].filter(
      (timeZone) => !isCallable(now, book.callHours, { timeZone, country: null, region: null }, {}),
    )
    closedCache = { key, zones }
  }
  return closedCache.zones
}

interface Picked {
  taskId: Id | null
  prospectId: Id
  name: string
  company: string | null
  kind: TaskKind
  priority: number
  title: string
  dueAt: Instant
  timeZone: string
  country: string | null
  region: string | null
  timeZoneFrom: TimeZoneSource
  step: number | null
  steps: number | null
  attempts: number
  reached: boolean
}

/**
 * The front of each priority, read along the queue's index and cut off early, then joined for the few that are shown.
 * $1 owner, $2 now, $3 start of the rep's day, $4 closed zones, $5 how many, $6 when promised calls come up, $7 end of
 * the rep's day. Callable now comes first; see core/queue/groups. What opens later is the last, and fewer of it.
 */
const front = (rank: number, where: string, limit = '$5') => sql`(
  select ${rank} as rank, t.id, t.due_at
  from tasks t
  where t.owner_id = $1 and t.status = 'open' and ${where}
  order by t.due_at, t.id
  limit ${limit}
)`
const CLOSED = `(t.kind in ${CALL_KINDS} and t.time_zone = any($4::text[]))`
const LATER_SHOWN = 60
const QUEUE_SQL = sql`
  with picked as (
    ${front(0, `t.priority = 1 and t.kind = 'call_back' and t.due_at <= $6`)}
    union all
    ${front(1, `t.priority = 0 and t.due_at <= $2`)}
    union all
    ${front(2, `t.priority = 1 and t.due_at < $3 and not ${CLOSED}`)}
    union all
    ${front(3, `t.priority = 2 and t.due_at < $3 and not ${CLOSED}`)}
    union all
    ${front(4, `t.priority = 1 and t.due_at >= $3 and t.due_at <= $2 and not ${CLOSED}`)}
    union all
    ${front(5, `t.priority = 2 and t.due_at >= $3 and t.due_at <= $2 and not ${CLOSED}`)}
    union all
    ${front(6, `t.priority = 3 and t.due_at <= $2 and not ${CLOSED}`)}
  ),
  shown as (
    select min(rank) as rank, id, due_at
    from picked
    group by id, due_at
    order by 1, due_at, id
    limit $5
  ),
  later as (
    select 7 as rank, id, due_at
    from (
      ${front(7, `t.priority = 1 and t.due_at > $2 and t.due_at < $7`, `${LATER_SHOWN}`)}
      union all
      ${front(7, `t.priority = 2 and t.due_at > $2 and t.due_at < $7`, `${LATER_SHOWN}`)}
      union all
      ${front(7, `t.priority = 1 and t.due_at <= $2 and ${CLOSED}`, `${LATER_SHOWN}`)}
      union all
      ${front(7, `t.priority = 2 and t.due_at <= $2 and ${CLOSED}`, `${LATER_SHOWN}`)}
    ) k
    where not exists (select from shown s where s.id = k.id)
    order by due_at, id
    limit ${LATER_SHOWN}
  ),
  everything as (
    select *
    from shown
    union all
    select *
    from later
  )
  select
    t.id as "taskId", t.prospect_id as "prospectId", btrim(p.first_name || ' ' || p.last_name) as name,
    c.name as company, t.kind, t.priority, t.title, ms(t.due_at) as "dueAt", p.time_zone as "timeZone", p.country,
    p.region,
    p.time_zone_from as "timeZoneFrom", s.position as "stepPosition",
    (
      select count(*)
      from cadence_steps o
      where o.cadence_id = s.cadence_id and o.archived_at is null and o.position < s.position
    )::int + 1 as step,
    (select count(*) from cadence_steps o where o.cadence_id = s.cadence_id and o.archived_at is null)::int as steps,
    p.attempts, p.conversations > 0 as reached
  from everything k
    join tasks t on t.id = k.id
    join prospects p on p.id = t.prospect_id
    left join companies c on c.id = p.company_id
    left join cadence_steps s on s.id = t.step_id
  order by k.rank, k.due_at, k.id
`

/**
 * Steps of cadences that fall due later today and are work for someone: they stand in the queue from the morning on.
 * $1 owner, $2 now, $3 end of the rep's day.
 */
const STEPS_LATER = `from scheduled_actions a
    join enrollments e on e.id = a.ref_id
    join cadence_steps s on s.id = e.step_id and s.kind <> 'branch' and (s.kind <> 'email' or s.review)
    join prospects p on p.id = e.prospect_id
  where a.kind = 'step' and a.at > $2 and a.at < $3 and a.set_aside_at is null and p.owner_id = $1`
const STEPS_SQL = sql`
  select
    null as "taskId", p.id as "prospectId", btrim(p.first_name || ' ' || p.last_name) as name, c.name as company,
    s.kind, 2 as priority, s.name as title, ms(a.at) as "dueAt", p.time_zone as "timeZone", p.country, p.region,
    p.time_zone_from as "timeZoneFrom",
    (
      select count(*)
      from cadence_steps o
      where o.cadence_id = s.cadence_id and o.archived_at is null and o.position < s.position
    )::int + 1 as step,
    (select count(*) from cadence_steps o where o.cadence_id = s.cadence_id and o.archived_at is null)::int as steps,
    p.attempts,
    p.conversations > 0 as reached
      ${STEPS_LATER.replace('where', 'left join companies c on c.id = p.company_id where')}
  order by a.at, e.id
  limit ${LATER_SHOWN}
`

const NOW_SQL = sql`select ms(world_now()) as now, playbook_version as version from team`

async function nowAndBook(): Promise<{ now: Instant; book: Playbook }> {
  const row = await firstRow(db().query<{ now: Instant; version: number }>({ name: 'now-and-version', text: NOW_SQL }))
  return { now: row!.now, book: await playbook(db(), row!.version) }
}

/** How many are looked at in the end: beyond, nobody who can be called stands so far behind others who cannot. */
const MOST_LOOKED_AT = 4_000

const canCall = (row: Picked, now: Instant, book: Playbook) =>
  !isCall(row.kind) || isCallable(now, book.callHours, row, book.holidays)

/**
 * The front of the queue. Where people in it cannot be called after all (a holiday, hours of their own), more are
 * looked at, so that these never fill it.
 */
async function frontOfQueue(
  viewer: Viewer,
  now: Instant,
  today: Instant,
  book: Playbook,
  limit: number,
): Promise<Picked[]> {
  for (let size = limit; ; size *= 4) {
    const values = [
      viewer.id,
      new Date(now),
      new Date(today),
      closedZones(now, book),
      size,
      new Date(now + REMIND_BEFORE),
      new Date(endOfDay(now, viewer.timeZone)),
    ]
    const { rows } = await db().query<Picked>({ name: 'queue', text: QUEUE_SQL, values })
    const met = meetZones(rows.map((row) => row.timeZone))
    const enough =
      rows.length < size ||
      size >= MOST_LOOKED_AT ||
      rows.filter((row) => row.dueAt <= now && canCall(row, now, book)).length >= limit
    if (enough && !met) return rows
    if (met) size /= 4
  }
}

/** The first `limit` of what to do now, in order, each with its group and reason; then what opens later. */
export async function firstInQueue(viewer: Viewer, limit: number) {
  const { now, book } = await nowAndBook()
  const today = startOfDay(now, viewer.timeZone)
  const [front, steps] = await Promise.all([
    frontOfQueue(viewer, now, today, book, limit),
    db().query<Picked>({
      name: 'steps-later',
      text: STEPS_SQL,
      values: [viewer.id, new Date(now), new Date(endOfDay(now, viewer.timeZone))],
    }),
  ])
  const items = [...front, ...steps.rows].map((row) => {
    const callable = canCall(row, now, book)
    const group: QueueGroup = groupOf(
      { priority: row.priority, kind: row.kind, dueAt: row.dueAt, callable },
      now,
      viewer.timeZone,
    )
    const inCadence = row.steps ? { step: row.step!, steps: row.steps } : null
    return {
      taskId: row.taskId,
      prospectId: row.prospectId,
      name: row.name,
      company: row.company,
      kind: row.kind,
      group,
      dueAt: row.dueAt,
      timeZone: row.timeZone,
      slope: inCadence,
      why: whyInWords(
        { ...row, step: inCadence?.step ?? null, steps: inCadence?.steps ?? null, everReached: row.reached },
        now,
      ),
      ...(group === 'later' ? opening(row, now, book) : { opensAt: null, waitsFor: null }),
    }
  })
  const later = items
    .filter((item) => item.group === 'later')
    .sort((a, b) => (a.opensAt ?? Infinity) - (b.opensAt ?? Infinity))
  return {
    items: [...items.filter((item) => item.group !== 'later').slice(0, limit), ...later.slice(0, LATER_SHOWN)],
    now,
    book,
  }
}

/** Work of one kind that is due in one place by the end of the rep's day, counted together. */
interface DueTogether {
  timeZone: string
  country: string | null
  region: string | null
  timeZoneFrom: TimeZoneSource
  priority: number
  kind: TaskKind
  due: Instant
  first: Instant
  count: number
}

/**
 * All that is open and due by the end of the rep's day, by place and half hour: the queue, its counts and the ridge say
 * the same.
 */
async function dueToday(viewer: Viewer, now: Instant): Promise<DueTogether[]> {
  const today = startOfDay(now, viewer.timeZone)
  const { rows } = await db().query<DueTogether>({
    name: 'due-today',
    text: sql`
      select
        t.time_zone as "timeZone", p.country, p.region, p.time_zone_from as "timeZoneFrom", t.priority,
        case when t.kind in ${CALL_KINDS} then t.kind else 'task' end as kind,
        ms(date_bin('5 minutes', greatest(t.due_at, $2::timestamptz - interval '5 minutes'), $2::timestamptz)) as
          due, ms(min(t.due_at)) as first, count(*) as count
      from tasks t
        join prospects p on p.id = t.prospect_id
      where t.owner_id = $1 and t.status = 'open' and t.due_at < $3
      group by 1, 2, 3, 4, 5, 6, 7
      union all
      select
        p.time_zone, p.country, p.region, p.time_zone_from, 2, s.kind, ms(date_bin('5 minutes', a.at, $2::timestamptz)),
        ms(min(a.at)), count(*) ${STEPS_LATER.replaceAll('$2', '$4')}
      group by 1, 2, 3, 4, 5, 6, 7
    `,
    values: [viewer.id, new Date(today), new Date(endOfDay(now, viewer.timeZone)), new Date(now)],
  })
  return rows
}

/** The queue with its counts, and when the next people become callable; of a list, where one is worked. */
export async function queue(viewer: Viewer, limit: number, list?: Id) {
  if (list) {
    const { now, book } = await nowAndBook()
    return queueOfList(viewer, list, limit, now, book)
  }
  const [{ items, now, book }, waiting] = await Promise.all([
    firstInQueue(viewer, limit),
    nowAndBook().then(({ now: at }) => dueToday(viewer, at)),
  ])
  const counts = { promised: 0, answer: 0, overdue: 0, due: 0, new: 0, later: 0 }
  for (const row of waiting) {
    const callable = !isCall(row.kind) || isCallable(now, book.callHours, row, book.holidays)
    counts[groupOf({ priority: row.priority, kind: row.kind, dueAt: row.first, callable }, now, viewer.timeZone)] +=
      row.count
  }
  const next = items.find((item) => item.group === 'later' && item.opensAt !== null)
  return {
    list: null,
    items,
    counts,
    now,
    opensNext: next ? { at: next.opensAt!, count: items.filter((item) => item.opensAt === next.opensAt).length } : null,
  }
}

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
  const { now, book } = await nowAndBook()
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
    return groupOf({ priority: row.priority, kind: row.kind, dueAt: row.first, callable }, now, viewer.timeZone) ===
      'later'
      ? sum
      : sum + row.count
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
