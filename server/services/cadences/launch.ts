import { DateTime } from 'luxon'
import { adviceOn, emptyLoad, fittingPerDay, loadOf, type RepLoad, type Travelers } from '#core/cadence/forecast'
import { allotIntake, type Starter } from '#core/cadence/intake'
import { planFrom } from '#core/cadence/plan'
import { firstStep } from '#core/cadence/route'
import type { Cadence } from '#core/cadence/steps'
import { afterWait } from '#core/cadence/wait'
import { isBusinessDay, localDay, type Place } from '#core/calendar/local'
import { senderPlace } from '#core/calendar/sendingWindow'
import { breadthOfEvent } from '#core/engine/breadth'
import { whyNotEnroll } from '#core/engine/moves/stops'
import { fullName, placeOf } from '#core/engine/state/engineState'
import type { Playbook } from '#core/engine/state/playbook'
import type { TimeZoneSource } from '#core/enumerations'
import type { Id, Instant } from '#core/instant'
import { db } from '../../db/pool'
import { firstRow, sql } from '../../db/sql'
import { loadAsked } from '../../engine/loadAsked'
import { currentPlaybook } from '../../engine/playbook'
import { mustSeeCadence } from '../access/owned'
import { notFound, Refusal } from '../access/errors'
import type { Viewer } from '../access/viewer'
import { setPerDay } from './editCadence'
import { peopleMeant, startBulk, type PeopleMeant } from '../bulk/bulk'

/** How many are looked at in one statement, and how many are named for each reason. */
const SET = 1_000
const NAMED = 20
/** The days that are looked ahead: three working weeks. */
const DAYS = 15

interface Entrant {
  id: Id
  ownerId: Id | null
  companyId: Id | null
  place: Place
}
interface Refused {
  why: string
  count: number
  people: { id: Id; name: string }[]
}

/**
 * Starts a cadence with many, at once or at a time, as a bulk action: it is shown while it runs, and can be undone.
 * With `perDay`, so many may start the cadence a day from now on.
 */
export async function launchCadence(
  viewer: Viewer,
  cadenceId: Id,
  asked: { id: Id; who: PeopleMeant; startAt: Instant | null; perDay?: number | null | undefined },
): Promise<{ id: Id; touches: number }> {
  const row = await firstRow(
    db().query<{ status: string; past: boolean }>(
      sql`select status, from_ms($2) <= world_now() as past from cadences where id = $1`,
      [cadenceId, asked.startAt],
    ),
  )
  await mustSeeCadence(viewer, cadenceId)
  if (row!.status !== 'active') throw new Refusal('refused', 'Save and start the cadence first')
  if (row!.past) {
    throw new Refusal('invalid', 'Choose a time in the future', [
      { field: 'startAt', message: 'Choose a time in the future' },
    ])
  }
  const { perDay } = asked
  const action = { type: 'enroll', cadenceId, startAt: asked.startAt } as const
  return startBulk(viewer, { id: asked.id, action, ...asked.who }, async (client) => {
    if (perDay !== undefined) await setPerDay(client, viewer, cadenceId, perDay)
  })
}

/** Who may start and who may not, each looked at as the engine would, in the order in which they are taken. */
async function look(
  cadenceId: Id,
  ids: readonly Id[],
): Promise<{ entrants: Entrant[]; refused: Refused[]; book: Playbook }> {
  const entrants: Entrant[] = []
  const refused = new Map<string, Refused>()
  const companies = new Set<Id>()
  let book = await currentPlaybook(db())
  for (let from = 0; from < ids.length; from += SET) {
    const set = ids.slice(from, from + SET)
    const loaded = await loadAsked(db(), set, (one) => breadthOfEvent({ kind: 'enrolled', cadenceId }, one))
    const { state } = loaded
    book = loaded.playbook
    const cadence = book.cadences[cadenceId]
    if (!cadence) throw notFound('cadence')
    for (const prospect of set.flatMap((id) => state.prospect[id] ?? [])) {
      const { companyId, ownerId } = prospect
      const beside = cadence.entry.colleagues !== 'any' && companyId !== null && companies.has(companyId)
      const why = whyNotEnroll(state, book, prospect, cadence) ?? (beside ? 'A colleague starts before them' : null)
      if (why === null) {
        entrants.push({ id: prospect.id, ownerId, companyId, place: placeOf(prospect) })
        if (companyId) companies.add(companyId)
        continue
      }
      const group = refused.get(why) ?? { why, count: 0, people: [] }
      refused.set(why, group)
      group.count++
      if (group.people.length < NAMED) group.people.push({ id: prospect.id, name: fullName(prospect) })
    }
  }
  return { entrants, refused: [...refused.values()].sort((a, b) => b.count - a.count), book }
}

/** How many start the cadence on each day already, today and later. */
async function usedDays(cadenceId: Id, today: string): Promise<Map<string, number>> {
  const { rows } = await db().query<{ day: string; count: number }>(
    sql`
      select intake_day::text as day, count(*)::int as count
      from enrollments
      where cadence_id = $1 and intake_day >= $2
      group by 1
    `,
    [cadenceId, today],
  )
  return new Map(rows.map(({ day, count }) => [day, count]))
}

interface UnderWay extends Place {
  ownerId: Id | null
  cadenceId: Id
  stepId: Id
  due: Instant
  timeZoneFrom: TimeZoneSource
  count: number
}

/** Everyone under way in a cadence that runs, counted together by owner, place, step and hour. */
async function underWay(book: Playbook): Promise<Travelers[]> {
  const { rows } = await db().query<UnderWay>(sql`
    select
      coalesce(p.owner_id, e.by_id) as "ownerId", e.cadence_id as "cadenceId", e.step_id as "stepId",
      p.time_zone as "timeZone", p.country, p.region, p.time_zone_from as "timeZoneFrom",
      ms(date_trunc('hour', greatest(e.due_at, world_now()))) as due, count(*)::int as count
    from enrollments e
      join cadences c on c.id = e.cadence_id and c.status = 'active'
      join prospects p on p.id = e.prospect_id
    where e.status in ('waiting', 'active')
    group by 1, 2, 3, 4, 5, 6, 7, 8
  `)
  return rows.flatMap(({ ownerId, cadenceId, stepId, due, count, ...place }) => {
    const cadence = book.cadences[cadenceId]
    return cadence ? [{ ownerId, place, cadence, stepId, at: due, count }] : []
  })
}

/** The next working days of the team, today among them if it is one. */
function workingDays(now: Instant, timeZone: string, country: string, book: Playbook): string[] {
  const days: string[] = []
  for (let day = DateTime.fromISO(localDay(now, timeZone)); days.length < DAYS; day = day.plus({ days: 1 })) {
    const iso = day.toISODate()!
    if (isBusinessDay(iso, { country, region: null }, book.holidays)) days.push(iso)
  }
  return days
}

interface RepRow {
  id: Id
  name: string
  calls: number
  emails: number
}

/** When each entrant would start if there were room for all: the same for all of one place. */
function startersOf(entrants: readonly Entrant[], cadence: Cadence, from: Instant, book: Playbook): Starter[] {
  const first = firstStep(cadence)!
  const dueAt = new Map<string, Instant>()
  return entrants.map(({ id, place }) => {
    const key = `${place.timeZone}/${place.country}/${place.region}`
    const at = dueAt.get(key) ?? afterWait(from, first.wait, place, book.holidays)
    dueAt.set(key, at)
    return { id, place, dueAt: at }
  })
}

/** When each starts: at once, or on the first day that has room. */
function startsOf(
  starters: readonly Starter[],
  perDay: number | null,
  used: ReadonlyMap<string, number>,
  timeZone: string,
  book: Playbook,
): Map<Id, Instant> {
  if (!perDay) return new Map(starters.map(({ id, dueAt }) => [id, dueAt]))
  const given = allotIntake(starters, perDay, used, timeZone, book.holidays)
  return new Map([...given].map(([id, { at }]) => [id, at]))
}

function travelersOf(entrants: readonly Entrant[], cadence: Cadence, starts: ReadonlyMap<Id, Instant>): Travelers[] {
  const groups = new Map<string, Travelers>()
  const stepId = firstStep(cadence)!.id
  for (const { id, ownerId, place } of entrants) {
    const at = starts.get(id)!
    const key = `${ownerId}/${at}/${place.timeZone}/${place.country}/${place.region}`
    const group = groups.get(key) ?? { ownerId, place, cadence, stepId, at, count: 0 }
    groups.set(key, { ...group, count: group.count + 1 })
  }
  return [...groups.values()]
}

/** Everything that can be said before a cadence is started with people: who, when, and the work it brings. */
export async function forecastLaunch(
  viewer: Viewer,
  cadenceId: Id,
  asked: { who: PeopleMeant; startAt: Instant | null; perDay?: number | null | undefined },
) {
  await mustSeeCadence(viewer, cadenceId)
  const ids = await peopleMeant(viewer, asked.who)
  const { entrants, refused, book } = await look(cadenceId, ids)
  const cadence = book.cadences[cadenceId]
  if (!cadence || !firstStep(cadence)) throw new Refusal('refused', 'The cadence has no steps yet')
  const team = await firstRow(
    db().query<{ now: Instant; timeZone: string; country: string }>(
      sql`select ms(world_now()) as now, time_zone as "timeZone", country from team`,
    ),
  )
  const { now, timeZone, country } = team!
  const perDay = asked.perDay === undefined ? cadence.entry.perDay : asked.perDay
  const from = Math.max(now, asked.startAt ?? 0)
  const used = await usedDays(cadenceId, localDay(now, timeZone))
  const starters = startersOf(entrants, cadence, from, book)
  const startsAt = (daily: number | null) => startsOf(starters, daily, used, timeZone, book)
  const starts = startsAt(perDay)
  const days = workingDays(now, timeZone, country, book)
  const where = { teamHours: book.callHours, holidays: book.holidays, senders: book }
  const running = loadOf(await underWay(book), days, where, timeZone)
  const mine = entrants.map((one) => ({ ...one, ownerId: one.ownerId ?? viewer.id }))
  const addedWith = (when: ReadonlyMap<Id, Instant>) => loadOf(travelersOf(mine, cadence, when), days, where, timeZone)
  const added = addedWith(starts)
  const { rows: users } = await db().query<RepRow>(
    sql`
      select id, name, daily_calls as calls, daily_email_cap as emails
      from users
      where id = any($1::uuid[])
      order by name
    `,
    [[...new Set([...added.keys(), ...running.keys()])].filter((id) => id !== null)],
  )
  const reps = users.map(({ id, name, calls, emails }): RepLoad & { people: number } => ({
    id,
    name,
    people: mine.filter(({ ownerId }) => ownerId === id).length,
    capacity: { calls, emails },
    running: running.get(id) ?? emptyLoad(days.length),
    added: added.get(id) ?? emptyLoad(days.length),
  }))
  const counts = new Map<string, number>()
  for (const at of starts.values()) {
    const day = localDay(at, timeZone)
    counts.set(day, (counts.get(day) ?? 0) + 1)
  }
  const [first] = mine
  const concerned = reps.filter((rep) => rep.people > 0)
  const fitting = (): number | null => fittingPerDay(concerned, (daily) => addedWith(startsAt(daily)), entrants.length)
  return {
    now,
    timeZone: first?.place.timeZone ?? timeZone,
    found: ids.length,
    starts: entrants.length,
    refused,
    perDay,
    startDays: [...counts].map(([day, count]) => ({ day, count })).sort((a, b) => (a.day < b.day ? -1 : 1)),
    steps: first
      ? planFrom(cadence, null, from, { ...where, place: first.place, sender: senderPlace(book, first.ownerId) })
      : [],
    days,
    // Of others nothing is said: their work is not this launch’s matter.
    reps: concerned,
    advice: adviceOn(concerned, days, fitting),
  }
}
