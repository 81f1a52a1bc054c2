import { manages } from '#core/roles'
import { emptyParts, type Translation } from '#core/filter/sqlTranslation'
import { nextActionSql } from '#core/filter/nextAction'
import { FILTER_FROM, filterFrom, toSql } from '#core/filter/sql'
import { DAY, type Id, type Instant } from '#core/instant'
import {
  daysOf,
  dueAtOf,
  goalStatus,
  soonDays,
  strictest,
  type TouchGoal,
  type TouchInterval,
} from '#core/queue/touchGoal'
import type { GoalState } from '#shared/api/lists'
import { db } from '../../db/pool'
import { ask, filterWorld, IN_SIGHT, sampleOfPeople, type FilterWorld } from './filters'
import { mayReadList } from './listAccess'
import type { Viewer } from '../access/viewer'
import { firstRow, sql } from '../../db/sql'

/** Whether anything is scheduled with a person. */
const SCHEDULED = `(${nextActionSql('p.id')} is not null)`

/** When a list's touch goal falls due with a person, in milliseconds: the calendar's months, counted in UTC. */
function goalDueSql(
  { every, kinds }: Pick<ListWithGoal, 'every' | 'kinds'>,
  parameter: (value: unknown) => string,
): string {
  return sql`
    ms(
      (${countedFrom(kinds)} at time zone 'UTC' + make_interval(${every.unit} => ${parameter(every.amount)}::int))
        at time zone 'UTC'
    )
  `
}

/** The condition that a list's touch goal stands so with a person. */
export function goalCondition(
  goal: GoalState,
  list: Pick<ListWithGoal, 'every' | 'kinds'>,
  now: Instant,
  parameter: (value: unknown) => string,
): string {
  const left = `(${goalDueSql(list, parameter)} - ${parameter(now)}::bigint)`
  if (goal === 'overdue') return `${left} < 0`
  if (goal === 'unscheduled') return `(${left} < 0 and not ${SCHEDULED})`
  const soon = `${parameter(soonDays(list.every) * DAY)}::bigint`
  return goal === 'due_soon' ? `${left} between 0 and ${soon}` : `${left} > ${soon}`
}

export interface ListWithGoal {
  id: Id
  every: TouchInterval
  kinds: string[]
}

/** The lists with a touch goal, as the viewer sees them. */
export async function listsWithGoal(viewer: Viewer): Promise<ListWithGoal[]> {
  const { rows } = await db().query<ListWithGoal>(
    sql`
      select l.id, json_build_object('amount', l.touch_every, 'unit', l.touch_unit) as every, l.touch_kinds as kinds
      from lists l
      where l.touch_every is not null and ${mayReadList('l', '$1', '$2')}
      order by l.position
    `,
    [viewer.id, manages(viewer)],
  )
  return rows
}

/** The kinds of touches a touch goal can count, in the order the indexes have them. */
const COUNTED = ['call', 'text', 'email', 'meeting']

/** The last touch of the kinds that count for a list, as a moment or null. */
export function lastCounted(kinds: readonly string[]): string {
  return `greatest(${COUNTED.filter((kind) => kinds.includes(kind))
    .map((kind) => `p.last_${kind}_at`)
    .join(', ')})`
}

/** What a touch goal is counted from: that touch, else when the person was added. */
export function countedFrom(kinds: readonly string[]): string {
  return `coalesce(${lastCounted(kinds)}, p.created_at)`
}

/** Every touch goal that holds for a person, as JSON over FILTER_FROM. */
export function touchGoalsSql(lists: readonly ListWithGoal[], about: Translation): string {
  const each = lists.map(
    ({ id, every, kinds }) =>
      sql`
        case
          when ${toSql({ field: 'lists', test: { op: 'hasAny', values: [id] } }, about)} then jsonb_build_object(
            'listId', ${about.parameter(id)}::text, 'every', ${about.parameter(JSON.stringify(every))}::jsonb,
            'lastAt', ms(${lastCounted(kinds)})
          )
        end
      `,
  )
  return each.length ? `to_json(array_remove(array[${each.join(', ')}]::jsonb[], null))` : `'[]'::json`
}

/**
 * How often the people are to be in touch with: the touch goal of their lists with the fewest days, as the viewer sees
 * them. Anyone who is on none with a goal is not in it.
 */
export async function touchGoals(viewer: Viewer, ids: readonly Id[]): Promise<Record<Id, TouchInterval>> {
  const lists = await listsWithGoal(viewer)
  if (!lists.length) return {}
  const about = { ...(await filterWorld(viewer)), ...emptyParts(), me: viewer.id }
  const { rows } = await db().query<{ id: Id; touchGoals: { every: TouchInterval }[] }>(
    sql`
      select p.id, ${touchGoalsSql(lists, about)} as "touchGoals"
      from ${FILTER_FROM}
      where p.id = any(${about.parameter(ids)}::uuid[])
    `,
    about.values,
  )
  return Object.fromEntries(
    rows.flatMap(({ id, touchGoals }) => {
      const strict = touchGoals.map((touchGoal) => touchGoal.every).sort((a, b) => daysOf(a) - daysOf(b))[0]
      return strict ? [[id, strict]] : []
    }),
  )
}

interface TouchGoalCounts {
  overdue: number
  dueSoon: number
  onTrack: number
  unscheduled: number
}

/**
 * How a list's touch goal stands with its people, all counted, or where they are too many, estimated; null where it
 * has no touch goal.
 */
export async function touchGoalCounts(
  viewer: Viewer,
  listId: Id,
  world: FilterWorld,
  exact: boolean,
): Promise<TouchGoalCounts | null> {
  const list = (await listsWithGoal(viewer)).find((one) => one.id === listId)
  if (!list) return null
  const about = ask(viewer, { field: 'lists', test: { op: 'hasAny', values: [listId] } }, world)
  const [soon, now] = [soonDays(list.every) * DAY, world.now].map((value) => `${about.parameter(value)}::bigint`)
  const sample = exact ? null : await sampleOfPeople()
  const whole = (sql: string) => (sample ? `round(${sql} / ${about.parameter(sample.share)}::float8)::int` : sql)
  const row = await firstRow(
    db().query<TouchGoalCounts>(
      sql`
        select
          ${whole(`count(*) filter (where due - ${now} < 0)`)} as overdue,
          ${whole(`count(*) filter (where due - ${now} between 0 and ${soon})`)} as "dueSoon",
          ${whole(`count(*) filter (where due - ${now} > ${soon})`)} as "onTrack",
          ${whole(`count(*) filter (where due - ${now} < 0 and not planned)`)} as unscheduled
        from (
          select ${goalDueSql(list, about.parameter)} as due, ${SCHEDULED} as planned
          from ${filterFrom(about, sample?.clause)}
          where ${about.where}${about.showsRemoved ? '' : IN_SIGHT}
        ) goals
      `,
      about.values,
    ),
  )
  return row!
}

export function strictestGoal(addedAt: number, touchGoals: readonly Omit<TouchGoal, 'addedAt'>[], now: number) {
  const strict = strictest(touchGoals.map((one) => ({ ...one, addedAt })))
  return (
    strict && {
      listId: strict.listId,
      every: strict.every,
      lastAt: strict.lastAt,
      dueAt: dueAtOf(strict),
      status: goalStatus(strict, now),
    }
  )
}
