import { isCallable } from '#core/calendar/callingHours'
import { startOfDay } from '#core/calendar/local'
import type { Id, Instant } from '#core/instant'
import type { QueueChoice } from '#core/queue/choice'
import { emptyCounts, isWaiting } from '#core/queue/groupNames'
import { groupOf, REMIND_BEFORE } from '#core/queue/groups'
import { COUNTRIES } from '#core/places/lookUp'
import type { Playbook } from '#core/engine/state/playbook'
import { db } from '../../db/pool'
import { blocksToCall } from '../blocks/blocks'
import { overdueOf } from '../team/overdue'
import { queueOfList } from '../lists/listWork'
import { CALL_KINDS, isCall } from '../lists/queueHours'
import type { Viewer } from '../access/viewer'
import { sql } from '../../db/sql'
import { chosenQueue } from './chosenQueue'
import { nowAndPlaybook } from '../../engine/nowAndPlaybook'
import { dueToday, endOfDay, stepsLater } from './dueToday'
import { asItem, canCall, STEP_COLUMNS, TASK_COLUMNS, type QueueRow } from './queueRows'

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
/** Whether they were spoken to before: what is overdue with them comes first. */
const REACHED = `exists (select from prospects r where r.id = t.prospect_id and r.conversations > 0)`
const CLOSED = `(t.kind in ${CALL_KINDS} and t.time_zone = any($4::text[]))`
const LATER_SHOWN = 60
const QUEUE_SQL = sql`
  with picked as (
    ${front(0, `t.priority = 1 and t.kind = 'call_back' and t.due_at <= $6`)}
    union all
    ${front(1, `t.priority = 0 and t.due_at <= $2`)}
    union all
    ${front(2, `t.priority = 1 and t.due_at < $3 and ${REACHED} and not ${CLOSED}`)}
    union all
    ${front(3, `t.priority = 2 and t.due_at < $3 and ${REACHED} and not ${CLOSED}`)}
    union all
    ${front(4, `t.priority = 1 and t.due_at < $3 and not ${REACHED} and not ${CLOSED}`)}
    union all
    ${front(5, `t.priority = 2 and t.due_at < $3 and not ${REACHED} and not ${CLOSED}`)}
    union all
    ${front(6, `t.priority = 1 and t.due_at >= $3 and t.due_at <= $2 and not ${CLOSED}`)}
    union all
    ${front(7, `t.priority = 2 and t.due_at >= $3 and t.due_at <= $2 and not ${CLOSED}`)}
    union all
    ${front(8, `t.priority = 3 and t.due_at <= $2 and not ${CLOSED}`)}
  ),
  shown as (
    select min(rank) as rank, id, due_at
    from picked
    group by id, due_at
    order by 1, due_at, id
    limit $5
  ),
  later as (
    select 9 as rank, id, due_at
    from (
      ${front(9, `t.priority = 1 and t.due_at > $2 and t.due_at < $7`, `${LATER_SHOWN}`)}
      union all
      ${front(9, `t.priority = 2 and t.due_at > $2 and t.due_at < $7`, `${LATER_SHOWN}`)}
      union all
      ${front(9, `t.priority = 1 and t.due_at <= $2 and ${CLOSED}`, `${LATER_SHOWN}`)}
      union all
      ${front(9, `t.priority = 2 and t.due_at <= $2 and ${CLOSED}`, `${LATER_SHOWN}`)}
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
  select ${TASK_COLUMNS}
  from everything k
    join tasks t on t.id = k.id
    join prospects p on p.id = t.prospect_id
    left join companies c on c.id = p.company_id
    left join cadence_steps s on s.id = t.step_id
  order by k.rank, k.due_at, k.id
`

const STEPS_SQL = sql`
  select ${STEP_COLUMNS} ${stepsLater('$1', '$2', '$3')}
  order by a.at, e.id
  limit ${LATER_SHOWN}
`

/** How many are looked at in the end: beyond, nobody who can be called stands so far behind others who cannot. */
const MOST_LOOKED_AT = 4_000

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
): Promise<QueueRow[]> {
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
    const { rows } = await db().query<QueueRow>({ name: 'queue', text: QUEUE_SQL, values })
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
export async function firstInQueue(viewer: Viewer, limit: number, now: Instant, book: Playbook) {
  const today = startOfDay(now, viewer.timeZone)
  const [front, steps] = await Promise.all([
    frontOfQueue(viewer, now, today, book, limit),
    db().query<QueueRow>({
      name: 'steps-later',
      text: STEPS_SQL,
      values: [viewer.id, new Date(now), new Date(endOfDay(now, viewer.timeZone))],
    }),
  ])
  const items = [...front, ...steps.rows].map((row) => asItem(row, now, book, viewer))
  const later = items
    .filter((item) => isWaiting(item.group))
    .sort((a, b) => (a.opensAt ?? Infinity) - (b.opensAt ?? Infinity))
  return [...items.filter((item) => !isWaiting(item.group)).slice(0, limit), ...later.slice(0, LATER_SHOWN)]
}

/** The recommended queue with how much there is of each group. */
async function recommendedQueue(viewer: Viewer, limit: number, now: Instant, book: Playbook) {
  const [items, waiting] = await Promise.all([firstInQueue(viewer, limit, now, book), dueToday(viewer, now)])
  const counts = emptyCounts()
  for (const row of waiting) {
    const callable = !isCall(row.kind) || isCallable(now, book.callHours, row, book.holidays)
    const { priority, kind, first: dueAt, reached } = row
    counts[groupOf({ priority, kind, dueAt, callable, reached }, now, viewer.timeZone)] += row.count
  }
  return { items, counts, priorities: [] }
}

/** Whether anything is chosen of the queue, or another order than the recommended one. */
const isNarrowed = ({ channel, cadenceId, listId, timeZone, from, to, sort }: QueueChoice): boolean =>
  sort !== 'recommended' || Boolean(channel || cadenceId || listId || timeZone || (from && to))

/**
 * The queue with its counts, and when the next people become callable: of a list, where one is worked; of what the rep
 * has chosen.
 */
export async function queue(viewer: Viewer, limit: number, choice: QueueChoice, list?: Id) {
  const { now, book } = await nowAndPlaybook()
  if (list) return queueOfList(viewer, list, limit, now, book)
  const hasOrder = isNarrowed(choice) || book.queuePriorities.length > 0
  const [{ items, counts, priorities }, overdue, blocks] = await Promise.all([
    hasOrder ? chosenQueue(viewer, limit, choice, now, book) : recommendedQueue(viewer, limit, now, book),
    overdueOf(viewer.id),
    blocksToCall(viewer),
  ])
  const next = items.find((item) => item.group === 'later' && item.opensAt !== null)
  return {
    list: null,
    items,
    counts,
    priorities,
    blocks,
    overdue: overdue?.tooMany ? { count: overdue.count, most: overdue.most! } : null,
    now,
    opensNext: next ? { at: next.opensAt!, count: items.filter((item) => item.opensAt === next.opensAt).length } : null,
  }
}
