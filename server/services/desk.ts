import { isCallable } from '#core/calendar/callingHours'
import { startOfDay } from '#core/calendar/local'
import { DAY, type Id, type Instant } from '#core/instant'
import { groupOf, type QueueGroup } from '#core/queue/groups'
import { dayRidge as ridge, type DueAtPlace } from '#core/queue/ridge'
import { whyInWords } from '#core/queue/why'
import { nextCallable } from '#core/calendar/callingHours'
import type { TaskKind } from '#core/engine/situation'
import { COUNTRIES } from '#core/places/lookUp'
import type { ZoneSource } from '#core/places/lookUp'
import type { Playbook } from '#core/engine/playbook'
import { db } from '../db/pool'
import { playbook } from '../engine/playbook'
import { queueOfList } from './listWork'
import type { Viewer } from './sessions'

/** Work that is done by ringing somebody, and so keeps to their hours. */
const RINGS = `('call', 'call_back')`

/** Every zone that people may have: those of the runtime, those of the countries' tables, whose names differ, and others once they have been met. */
const everyZone = new Set([...Intl.supportedValuesOf('timeZone'), ...[...COUNTRIES.values()].flatMap(country => country.zones)])

/** Adds zones that people turned out to have (an old name of a zone, say); gives whether there were any. */
function meetZones(zones: readonly string[]): boolean {
  const fresh = zones.filter(zone => !everyZone.has(zone))
  for (const zone of fresh) everyZone.add(zone)
  if (fresh.length) closedCache = null
  return fresh.length > 0
}

let closedCache: { key: string, zones: string[] } | null = null

/** The time zones in which nobody may be rung now. The same for a whole minute, so it is worked out once in it. */
function closedZones(now: Instant, book: Playbook): string[] {
  const key = `${Math.floor(now / 60_000)}/${book.version}`
  if (closedCache?.key !== key) {
    const zones = [...everyZone].filter(zone => !isCallable(now, book.callHours, { zone, country: null, region: null }, {}))
    closedCache = { key, zones }
  }
  return closedCache.zones
}

interface Picked { taskId: Id, prospectId: Id, name: string, company: string | null, kind: TaskKind, lane: number, title: string, dueAt: Instant, zone: string, country: string | null, region: string | null, zoneFrom: ZoneSource, step: number | null, steps: number | null, attempts: number, reached: boolean }

/**
 * The front of each lane, read along the queue's index and cut off early, then joined for the few that are shown.
 * $1 owner, $2 now, $3 start of the rep's day, $4 closed zones, $5 how many. Callable now comes first; see core/queue/groups.
 */
const front = (rank: number, lane: number, from: string, to: string) => `(select ${rank} as rank, t.id, t.due_at from tasks t
  where t.owner_id = $1 and t.state = 'open' and t.lane = ${lane} and t.due_at >= ${from} and t.due_at <= ${to}
    ${lane === 0 ? '' : `and (t.kind not in ${RINGS} or not (t.zone = any($4::text[])))`} order by t.due_at, t.id limit $5)`
const QUEUE_SQL = `with picked as (
    ${front(0, 0, `'-infinity'`, '$2')} union all
    ${front(1, 1, `'-infinity'`, '$3')} union all ${front(2, 2, `'-infinity'`, '$3')} union all
    ${front(3, 1, '$3', '$2')} union all ${front(4, 2, '$3', '$2')}),
  shown as (select min(rank) as rank, id, due_at from picked group by id, due_at order by 1, due_at, id limit $5)
  select t.id as "taskId", t.prospect_id as "prospectId", btrim(p.first_name || ' ' || p.last_name) as name, c.name as company, t.kind, t.lane, t.title, ms(t.due_at) as "dueAt",
    p.zone, p.country, p.region, p.zone_from as "zoneFrom", s.position as "stepPosition",
    (select count(*) from cadence_steps o where o.cadence_id = s.cadence_id and o.archived_at is null and o.position < s.position)::int + 1 as step,
    (select count(*) from cadence_steps o where o.cadence_id = s.cadence_id and o.archived_at is null)::int as steps,
    p.attempts, p.conversations > 0 as reached
  from shown k join tasks t on t.id = k.id join prospects p on p.id = t.prospect_id left join companies c on c.id = p.company_id left join cadence_steps s on s.id = t.step_id
  order by k.rank, k.due_at, k.id`

const NOW_SQL = 'select ms(world_now()) as now, playbook_version as version from team'

async function nowAndBook(): Promise<{ now: Instant, book: Playbook }> {
  const { rows: [row] } = await db().query<{ now: Instant, version: number }>({ name: 'now-and-version', text: NOW_SQL })
  return { now: row!.now, book: await playbook(db(), row!.version) }
}

/** How many are looked at in the end: beyond, nobody who can be called stands so far behind others who cannot. */
const MOST_LOOKED_AT = 4_000

const canCall = (row: Picked, now: Instant, book: Playbook) => (row.kind !== 'call' && row.kind !== 'call_back') || isCallable(now, book.callHours, row, book.holidays)

/** The front of the queue. Where people in it cannot be called after all (a holiday, hours of their own), more are looked at, so that these never fill it. */
async function frontOfQueue(viewer: Viewer, now: Instant, today: Instant, book: Playbook, limit: number): Promise<Picked[]> {
  for (let size = limit; ; size *= 4) {
    const { rows } = await db().query<Picked>({ name: 'queue', text: QUEUE_SQL, values: [viewer.id, new Date(now), new Date(today), closedZones(now, book), size] })
    const met = meetZones(rows.map(row => row.zone))
    const enough = rows.length < size || size >= MOST_LOOKED_AT || rows.filter(row => canCall(row, now, book)).length >= limit
    if (enough && !met) return rows
    if (met) size /= 4
  }
}

/** The first `limit` of what to do now, in order, each with its group and reason. */
export async function firstInQueue(viewer: Viewer, limit: number) {
  const { now, book } = await nowAndBook()
  const today = startOfDay(now, viewer.zone)
  const rows = await frontOfQueue(viewer, now, today, book, limit)
  const items = rows.map((row) => {
    const callable = canCall(row, now, book)
    const group: QueueGroup = groupOf({ lane: row.lane, kind: row.kind, dueAt: row.dueAt, callable }, now, viewer.zone)
    const inCadence = row.steps ? { step: row.step!, steps: row.steps } : null
    return {
      taskId: row.taskId, prospectId: row.prospectId, name: row.name, company: row.company, kind: row.kind, group, dueAt: row.dueAt, zone: row.zone, slope: inCadence,
      why: whyInWords({ ...row, step: inCadence?.step ?? null, steps: inCadence?.steps ?? null, everReached: row.reached }, now),
    }
  })
  return { items: items.filter(item => item.group !== 'later').slice(0, limit), now, book }
}

/** The queue with its counts, and when the next people become callable; of a list, where one is worked. */
export async function queue(viewer: Viewer, limit: number, list?: Id) {
  if (list) {
    const { now, book } = await nowAndBook()
    return queueOfList(viewer, list, limit, now, book)
  }
  const { items, now, book } = await firstInQueue(viewer, limit)
  const today = startOfDay(now, viewer.zone)
  const { rows } = await db().query<{ zone: string, lane: number, rings: boolean, slot: 'overdue' | 'due' | 'later', count: number, first: Instant }>({
    name: 'queue-counts',
    text: `select zone, lane, kind in ${RINGS} as rings, case when due_at > $2 then 'later' when due_at < $3 then 'overdue' else 'due' end as slot, count(*) as count, ms(min(due_at)) as first
      from tasks where owner_id = $1 and state = 'open' and due_at < $4 group by 1, 2, 3, 4`,
    values: [viewer.id, new Date(now), new Date(today), new Date(today + DAY)],
  })
  const counts = { answer: 0, overdue: 0, due: 0, later: 0 }
  const openings = new Map<Instant, number>()
  const closed = new Set(closedZones(now, book))
  for (const row of rows) {
    const waits = row.lane > 0 && row.rings && closed.has(row.zone)
    const group = row.slot === 'later' || waits ? 'later' : row.lane === 0 ? 'answer' : row.slot
    counts[group] += row.count
    if (group !== 'later') continue
    const at = row.rings ? nextCallable(Math.max(now, row.first), book.callHours, { zone: row.zone, country: null, region: null }, {}) : row.first
    openings.set(at, (openings.get(at) ?? 0) + row.count)
  }
  const next = [...openings].sort(([a], [b]) => a - b)[0]
  return { list: null, items, counts, now, opensNext: next ? { at: next[0], count: next[1] } : null }
}

/** The rep's day by half hours, with today's meetings and the goals. */
export async function dayRidge(viewer: Viewer) {
  const { now, book } = await nowAndBook()
  const today = startOfDay(now, viewer.zone)
  const bounds = [viewer.id, new Date(today), new Date(today + DAY)]
  const due = await db().query<{ zone: string, country: string | null, region: string | null, zoneFrom: ZoneSource, due: Instant, count: number }>(`select t.zone, p.country, p.region, p.zone_from as "zoneFrom", ms(date_bin('30 minutes', greatest(t.due_at, $2), $2)) as due, count(*) as count
    from tasks t join prospects p on p.id = t.prospect_id where t.owner_id = $1 and t.state = 'open' and t.due_at < $3 group by 1, 2, 3, 4, 5`, bounds)
  const done = await db().query<{ at: Instant }>(`select ms(done_at) as at from tasks where owner_id = $1 and state = 'done' and done_at >= $2 and done_at < $3`, bounds)
  const meetings = await db().query<{ at: Instant, title: string }>(`select ms(a.start_at) as at, a.title from appointments a where a.user_id = $1 and a.state = 'booked' and a.start_at >= $2 and a.start_at < $3 order by 1`, bounds)
  const { rows: [made] } = await db().query<{ calls: number, conversations: number, meetings: number, daily_calls: number, daily_conversations: number, daily_meetings: number }>(`select u.daily_calls, u.daily_conversations, u.daily_meetings,
      (select count(*) from touches t where t.user_id = u.id and t.kind = 'call' and t.at >= $2 and t.at < $3) as calls,
      (select count(*) from touches t where t.user_id = u.id and t.kind = 'call' and t.counts_as = 'conversation' and t.at >= $2 and t.at < $3) as conversations,
      (select count(*) from effects e join happenings h on h.id = e.happening_id where h.actor_id = u.id and h.at >= $2 and h.at < $3 and e.kind = 'bookMeeting'
        and exists (select from appointments a where a.id = e.entity_id and a.state = 'booked')) as meetings
    from users u where u.id = $1`, bounds)
  const places: DueAtPlace[] = due.rows.map(row => ({ place: row, dueAt: row.due, count: row.count }))
  const callableNow = places.reduce((sum, { place, dueAt, count }) => dueAt <= now && isCallable(now, book.callHours, place, book.holidays) ? sum + count : sum, 0)
  return {
    slots: ridge(places, done.rows.map(row => row.at), now, viewer.zone, book.callHours, book.holidays), meetings: meetings.rows, callableNow,
    goals: { calls: [made!.calls, made!.daily_calls] as [number, number], conversations: [made!.conversations, made!.daily_conversations] as [number, number], meetings: [made!.meetings, made!.daily_meetings] as [number, number] },
  }
}
