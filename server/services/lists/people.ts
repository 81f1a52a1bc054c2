import { EVERYONE, type Filter } from '#core/filter/filter'
import { nextActionSql } from '#core/filter/nextAction'
import { factsSql, filterFrom, orderSql } from '#core/filter/sql'
import { emptyParts, type SqlParts, type Translation } from '#core/filter/sqlTranslation'
import type { Id, Instant } from '#core/instant'
import type { TouchGoal } from '#core/queue/touchGoal'
import { showPhone } from '#core/text/phone'
import type { GoalState } from '#shared/api/lists'
import type { ProspectRow } from '#shared/api/prospects'
import { nameOf } from '../../db/named'
import { db } from '../../db/pool'
import { Refusal } from '../access/errors'
import { cursorText, readCursor, type Cursor } from './cursors'
import {
  ask,
  countPeople,
  filterWorld,
  IN_SIGHT,
  inWords,
  problemsOfList,
  readFilter,
  type FilterWorld,
  type PeopleQuestion,
} from './filters'
import { readList, type KeptList } from './listAccess'
import { searchCondition } from './prospectRows'
import type { Viewer } from '../access/viewer'
import { sql } from '../../db/sql'
import {
  countedFrom,
  goalCondition,
  listsWithGoal,
  strictestGoal,
  touchGoalsSql,
  type ListWithGoal,
} from './touchGoals'

/**
 * Whom someone asks for: by filter, on a list, by what they type, by how the list’s touch goal stands, or all of these
 * at once.
 */
export interface PeopleAsked {
  filter?: Filter | string
  list?: Id
  search?: string
  goal?: GoalState
}

/** Translates what someone asks for. Throws where the list is not theirs to see, or cannot be read any more. */
export async function question(
  viewer: Viewer,
  asked: PeopleAsked,
  world: FilterWorld,
  of: 'people' | 'companies' = 'people',
): Promise<PeopleQuestion & { filter: Filter }> {
  return questionIn(viewer, asked, asked.list ? await readList(viewer, asked.list) : null, world, of)
}

function questionIn(
  viewer: Viewer,
  asked: PeopleAsked,
  list: KeptList | null,
  world: FilterWorld,
  of: 'people' | 'companies' = 'people',
): PeopleQuestion & { filter: Filter } {
  const filter = readFilter(asked.filter, world)
  const broken = list ? problemsOfList(list.filter as Filter | null, world) : []
  if (broken.length) throw new Refusal('refused', `This list cannot be read as it is. ${broken.join('. ')}`)
  const whole: Filter = asked.list
    ? { all: [filter, { field: 'lists', test: { op: 'hasAny', values: [asked.list] } }] }
    : filter
  const search = asked.search?.trim()
  const { goal } = asked
  if (goal && !list?.touch_every) {
    throw new Refusal('invalid', 'Choose a list with a touch goal', [
      { field: 'goal', message: 'Choose a list with a touch goal' },
    ])
  }
  const more = (parts: SqlParts) => [
    ...(search ? [searchCondition(search, parts)] : []),
    ...(goal
      ? [
          goalCondition(
            goal,
            { every: { amount: list!.touch_every!, unit: list!.touch_unit }, kinds: list!.touch_kinds },
            world.now,
            parts.parameter,
          ),
        ]
      : []),
  ]
  return { ...ask(viewer, whole, world, more, of), filter }
}

/** How many people someone asks for, with the filter as it was understood. */
export async function countAsked(viewer: Viewer, asked: PeopleAsked) {
  const world = await filterWorld(viewer)
  const about = await question(viewer, asked, world)
  return { ...(await countPeople(about)), filter: about.filter, sentence: inWords(about.filter, world) }
}

/**
 * People in the order of any field, those without a value last; without an order, the newest first. `next` goes on
 * where a page ended, whatever has changed meanwhile. `values` holds the columns asked for, by the fields' keys. A list
 * with a touch goal comes in the order in which it falls due.
 */
export async function findPeople(
  viewer: Viewer,
  asked: PeopleAsked & {
    columns: readonly string[]
    sort: { field: string; down: boolean } | null
    after?: string
    limit: number
  },
) {
  const [world, goalLists, list] = await Promise.all([
    filterWorld(viewer),
    asked.list ? listsWithGoal(viewer) : [],
    asked.list ? readList(viewer, asked.list) : null,
  ])
  const about = questionIn(viewer, asked, list, world)
  const touchGoals = goalLists.find((list) => list.id === asked.list)
  const order = asked.sort ?? (touchGoals ? { field: 'touchGoal', down: false } : { field: 'createdAt', down: true })
  const key = keyOf(order.field, touchGoals, about)
  if (!key) {
    throw new Refusal('invalid', 'Prospects cannot be sorted by this', [
      { field: 'sort', message: 'Prospects cannot be sorted by this' },
    ])
  }
  const after = asked.after ? readCursor(asked.after) : null
  const page = after ? ` and ${pastCursor(after, key, order.down, about)}` : ''
  const direction = order.down ? 'desc' : 'asc'
  const nulls = key.always ? '' : ' nulls last'
  // Who is on the page is found first, with no more than that needs: often an index alone.
  const { rows: found } = await db().query<Found>(
    sql`
      select ${FOUND}, ${key.type === 'timestamptz' ? 'ms(page.key)' : 'page.key'} as sorted
      from (
        select p.id, ${key.sql} as key
        from ${filterFrom(about)}
        where ${about.where}${about.showsRemoved ? '' : IN_SIGHT}${page}
        order by ${key.sql} ${direction}${nulls}, p.id ${direction}
        limit ${asked.limit + 1}
      ) page
        join prospects p on p.id = page.id
      order by page.key ${direction}${nulls}, p.id ${direction}
    `,
    about.values,
  )
  const here = found.slice(0, asked.limit)
  const last = here.at(-1)
  const next: Cursor | null = found.length > asked.limit && last ? { value: last.sorted, id: last.id } : null
  const people = await readRows(viewer, here, asked.columns, touchGoals ? goalLists : [], world)
  return { people, next: next && cursorText(next) }
}

/** What is read of a person while they are found. */
interface Found {
  id: Id
  name: string
  title: string | null
  timeZone: string
  createdAt: Instant
  rating: ProspectRow['rating']
  stageId: string
  ownerId: Id | null
  companyId: Id | null
  lastTouchAt: Instant | null
  sorted: string | number | null
}

const FOUND = sql`
  p.id, btrim(p.first_name || ' ' || p.last_name) as name, p.title, p.time_zone as "timeZone",
  ms(p.created_at) as "createdAt",
  p.rating, p.stage_id as "stageId", p.owner_id as "ownerId", p.company_id as "companyId",
  ms(p.last_touch_at) as "lastTouchAt"
`

type More = Pick<ProspectRow, 'company' | 'email' | 'phone' | 'nextAt'> & {
  values: Record<string, unknown>
  touchGoals: Omit<TouchGoal, 'addedAt'>[]
  knots: [at: Instant, kind: string][] | null
}

/** How many knots a row's thread has at most, the latest ones. */
const KNOTS = 40

/** Columns that a row holds anyway. */
const HELD: Record<string, (row: ProspectRow) => unknown> = {
  companyName: (row) => row.company?.name ?? null,
  stage: (row) => row.stage.id,
  owner: (row) => row.owner?.id ?? null,
  lastTouch: (row) => row.lastTouchAt,
  nextAction: (row) => row.nextAt,
  createdAt: (row) => row.createdAt,
  rating: (row) => row.rating,
  title: (row) => row.title,
  name: (row) => row.name,
  timeZone: (row) => row.timeZone,
}

/**
 * What a table shows of people who have been found, in the same order. The statement is planned once for each set of
 * columns.
 */
async function readRows(
  viewer: Viewer,
  found: readonly Found[],
  keys: readonly string[],
  goalLists: readonly ListWithGoal[],
  world: FilterWorld,
) {
  const given: unknown[] = []
  const about: Translation = { ...world, ...emptyParts(given), me: viewer.id }
  const columns = keys.flatMap((key) => (key in HELD ? [] : (world.fields.get(key) ?? [])))
  const facts = columns.length
    ? factsSql({ ...about, fields: new Map(columns.map((column) => [column.key, column])) })
    : `'{}'::jsonb`
  // Conditions and columns of their own need the whole person; the usual ones do not.
  const whole = columns.length + goalLists.length ? ' left join prospects p on p.id = asked.id' : ''
  const knots = keys.includes('thread')
    ? sql`
      (
        select coalesce(jsonb_agg(jsonb_build_array(ms(k.at), k.kind) order by k.at), '[]')
        from (select at, kind from touches k where k.prospect_id = asked.id order by at desc limit ${KNOTS}) k
      )
    `
    : 'null'
  const text = sql`
    select
      case when c.id is not null then json_build_object('id', c.id, 'name', c.name, 'status', c.status) end as
        company,
      (
        select e.address
        from email_addresses e
        where e.prospect_id = asked.id
        order by (e.status = 'bounced'), e.position
        limit 1
      ) as email,
      (select n.number from phones n where n.prospect_id = asked.id order by n.position limit 1) as phone,
      ${nextActionSql('asked.id')} as "nextAt", ${facts} as values, ${touchGoalsSql(goalLists, about)} as "touchGoals", ${knots} as knots
    from unnest(
      ${about.parameter(found.map((row) => row.id))}::uuid[],
      ${about.parameter(found.map((row) => row.companyId))}::uuid[]
    ) with ordinality as asked(id, company_id, place)
      left join companies c on c.id = asked.company_id${whole}
    order by asked.place
  `
  const { rows } = await db().query<More>({ name: nameOf(text), text, values: given })
  const stages = new Map(world.stages.map((stage) => [stage.id, stage]))
  const users = new Map(world.users.map((user) => [user.id, user]))
  return found.map(({ sorted: _, companyId: __, stageId, ownerId, ...plain }, index) => {
    const { touchGoals, values: own, knots, ...more } = rows[index]!
    const row: ProspectRow = {
      ...plain,
      ...more,
      stage: stages.get(stageId)!,
      owner: ownerId ? (users.get(ownerId) ?? null) : null,
    }
    const shown = Object.fromEntries(keys.flatMap((key) => (HELD[key] ? [[key, HELD[key](row)]] : [])))
    const values: Record<string, unknown> = { ...shown, ...own, ...(knots && { thread: knots }) }
    return {
      ...row,
      phoneShown: row.phone && showPhone(row.phone, world.country),
      values,
      touchGoal: strictestGoal(row.createdAt, touchGoals, world.now),
    }
  })
}

function pastCursor(
  { value, id }: Cursor,
  { sql, type, always }: Key,
  down: boolean,
  { parameter }: PeopleQuestion,
): string {
  const than = down ? '<' : '>'
  const own = `${parameter(id)}::uuid`
  if (value === null) return `(${sql} is null and p.id ${than} ${own})`
  const at = type === 'timestamptz' ? `from_ms(${parameter(value)}::bigint)` : `${parameter(value)}::${type}`
  const past = `(${sql}, p.id) ${than} (${at}, ${own})`
  return always ? past : `(${sql} is null or ${past})`
}

/** What people are put in order by; `always` where everyone has it. */
interface Key {
  sql: string
  type: string
  always: boolean
}

function keyOf(name: string, touchGoals: ListWithGoal | undefined, about: PeopleQuestion): Key | null {
  if (name === 'touchGoal') {
    return touchGoals ? { sql: countedFrom(touchGoals.kinds), type: 'timestamptz', always: true } : null
  }
  const field = about.fields.get(name)
  const order = field && orderSql(field, about)
  return order ? { ...order, always: name === 'createdAt' } : null
}

/** The ids of those whom a filter finds, among the people the viewer may see. */
export async function idsOf(
  viewer: Viewer,
  filter: Filter | string | undefined,
): Promise<{ ids: Id[]; filter: Filter }> {
  const world = await filterWorld(viewer)
  const about = await question(viewer, { filter: filter ?? EVERYONE }, world)
  const { rows } = await db().query<{ id: Id }>(
    sql`
      select p.id
      from ${filterFrom(about)}
      where ${about.where}${about.showsRemoved ? '' : IN_SIGHT}
    `,
    about.values,
  )
  return { ids: rows.map((row) => row.id), filter: about.filter }
}
