import type { TimeZoneSource } from '#core/enumerations'
import type { Id, Instant } from '#core/instant'
import type { Place } from '#core/calendar/local'
import { callableHours, nextTimeIn, weekHourAt } from '#core/queue/callHour'
import {
  bestHours,
  chanceIn,
  chancesFor,
  chanceShown,
  type BestTimeModel,
  type HourCalls,
  type HourChance,
  type WeekHour,
} from '#core/stats/bestTime'
import type { Playbook } from '#core/engine/state/playbook'
import { db } from '../../db/pool'
import { firstRow, sql } from '../../db/sql'
import { nowAndPlaybook } from '../../engine/nowAndPlaybook'
import { mustSee } from '../access/access'
import { notFound } from '../access/errors'
import type { Viewer } from '../access/viewer'
import { bestTimeModel, KIND_OF_COMPANY } from './learn'

interface PersonRow extends Place {
  id: Id
  timeZoneFrom: TimeZoneSource
  industry: string | null
  /** The company's industry as it is written. */
  kind: string | null
  calls: { at: string; reached: boolean }[]
}

/** People with their kind of company and their own calls of the last year. */
async function readPeople(ids: readonly Id[]): Promise<PersonRow[]> {
  const { rows } = await db().query<PersonRow>({
    name: 'call-histories',
    text: sql`
      select
        p.id, p.time_zone as "timeZone", p.country, p.region, p.time_zone_from as "timeZoneFrom",
        nullif(${KIND_OF_COMPANY}, '') as industry, c.industry as kind, coalesce(k.calls, '[]') as calls
      from prospects p
        left join companies c on c.id = p.company_id
        left join lateral (
          select json_agg(json_build_object('at', t.at, 'reached', t.counts_as = 'conversation')) as calls
          from touches t
          where t.prospect_id = p.id
            and t.kind = 'call'
            and t.outcome_id is not null
            and t.counts_as in ('attempt', 'conversation')
            and t.at > world_now() - interval '1 year'
        ) k on true
      where p.id = any($1::uuid[])
    `,
    values: [ids],
  })
  return rows
}

/** Someone's own calls by the hour of the week where they are. */
function ownCalls({ calls, timeZone }: PersonRow): HourCalls[] {
  const hours = new Map<string, HourCalls>()
  for (const { at, reached } of calls) {
    const hour = weekHourAt(Date.parse(at), timeZone)
    const key = `${hour.weekday} ${hour.hour}`
    const { count, all } = hours.get(key) ?? { count: 0, all: 0 }
    hours.set(key, { ...hour, count: count + Number(reached), all: all + 1 })
  }
  return [...hours.values()]
}

/** How likely each of these people is to be spoken to when they are called now, from 0 to 1; empty before any call. */
export async function chancesNow(ids: readonly Id[], now: Instant): Promise<ReadonlyMap<Id, number>> {
  const model = await bestTimeModel()
  if (!model || !ids.length) return new Map()
  const people = await readPeople(ids)
  return new Map(
    people.map((person) => [
      person.id,
      chanceIn(model, person.industry, ownCalls(person), weekHourAt(now, person.timeZone)),
    ]),
  )
}

/**
 * The map of the week and what stands out in it, in the hours in which calls are allowed: of the team, of a kind of
 * company, or of someone with their own calls.
 */
function mapOf(
  model: BestTimeModel,
  industry: string | null,
  own: readonly HourCalls[],
  callable: readonly WeekHour[],
) {
  const open = new Set(callable.map(({ weekday, hour }) => `${weekday} ${hour}`))
  const opened = (chances: readonly HourChance[]) =>
    chances.filter(({ weekday, hour }) => open.has(`${weekday} ${hour}`))
  const shown = opened(chancesFor(model, industry, own))
  const best = bestHours(shown, BEST_SHOWN, opened(chancesFor(model, industry, [])))
  const asShown = (one: HourChance) => ({ weekday: one.weekday, hour: one.hour, ...chanceShown(one) })
  return { hours: shown.map(asShown), best: best.map(asShown) }
}
const BEST_SHOWN = 3

const inNumbers = ({ count, all }: { count: number; all: number }) => ({ calls: all, reached: count })

/** When to call someone: the week as the team's calls to such people and their own have it. */
export async function bestTimeOf(viewer: Viewer, prospectId: Id) {
  await mustSee(viewer, prospectId)
  const [model, [person], { now, book }] = await Promise.all([
    bestTimeModel(),
    readPeople([prospectId]),
    nowAndPlaybook(),
  ])
  if (!person) throw notFound('person')
  if (!model) return { learned: null }
  const own = ownCalls(person)
  const { hours, best } = mapOf(model, person.industry, own, callableHours(book.callHours, person.country))
  const current = weekHourAt(now, person.timeZone)
  const kind = person.industry === null ? undefined : model.kinds.get(person.industry)
  const learned = {
    hours,
    best: best.map((one) => ({ ...one, next: nextTimeIn(one, now, person, book.callHours, book.holidays) })),
    now: { ...current, chance: chanceIn(model, person.industry, own, current) },
    timeZone: person.timeZone,
    own: { calls: person.calls.length, reached: person.calls.filter(({ reached }) => reached).length },
    kind: kind ? { name: person.kind!, ...inNumbers(kind) } : null,
    team: inNumbers(model.team),
  }
  return { learned }
}

/** The soonest of the hours that are best to call someone; null where none stands out, or nobody was called yet. */
export async function nextBestTime(prospectId: Id, now: Instant, book: Playbook): Promise<Instant | null> {
  const [model, [person]] = await Promise.all([bestTimeModel(), readPeople([prospectId])])
  if (!model || !person) return null
  const callable = callableHours(book.callHours, person.country)
  const [best] = mapOf(model, person.industry, ownCalls(person), callable).best
  return best ? nextTimeIn(best, now, person, book.callHours, book.holidays) : null
}

/** The week as all calls of the team have it, or those to one kind of company; with the kinds that were called. */
export async function bestTimeOfTeam(industry: string | null) {
  const [model, { book }, team] = await Promise.all([
    bestTimeModel(),
    nowAndPlaybook(),
    firstRow(db().query<{ country: string }>(sql`select country from team`)),
  ])
  if (!model) return { map: null, kinds: [] }
  const { hours, best } = mapOf(model, industry, [], callableHours(book.callHours, team!.country))
  const kinds = [...model.kinds].map(([name, tries]) => ({ name, ...inNumbers(tries) }))
  const chosen = industry === null ? model.team : (model.kinds.get(industry) ?? { count: 0, all: 0 })
  return { map: { hours, best, ...inNumbers(chosen) }, kinds: kinds.sort((a, b) => b.calls - a.calls) }
}
