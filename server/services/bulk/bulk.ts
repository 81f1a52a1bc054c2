import { manages } from '#core/roles'
import type { BulkStatus } from '#core/enumerations'
import type { Filter } from '#core/filter/filter'
import { FILTER_FROM } from '#core/filter/sql'
import type { Id, Instant } from '#core/instant'
import type { BulkAction, StoredBulkAction } from '#shared/api/bulk'
import type { GoalState } from '#shared/api/lists'
import { breaksUnique, db, transaction, type Db } from '../../db/pool'
import { checkPlain, plainReason } from './bulkChanges'
import { isPlain } from './plainAction'
import { checkProgress, lookAt, mailToMany, progressReason } from './bulkProgress'
import { notFound, Refusal } from '../access/errors'
import { ask, filterWorld, IN_SIGHT, inWords, type PeopleQuestion } from '../lists/filters'
import { question } from '../lists/people'
import { mayArchive } from '../access/access'
import type { Viewer } from '../access/viewer'
import { toDosByOwner } from './bulkToDos'
import { mustTakeNew } from '../team/overdue'
import { addTag } from '../fields/tags'
import { firstRow, sql } from '../../db/sql'

/** Whom a change is for, and what it is. */
export interface BulkAsked extends PeopleMeant {
  action: BulkAction
  /** Hands over what a user had who leaves; that cannot wait. */
  leaving?: boolean
}

/** Prospects that are named, or all that a filter, a list and a search find. */
export interface PeopleMeant {
  prospectIds?: readonly Id[]
  filter?: Filter | string
  list?: Id
  search?: string
  goal?: GoalState
}

async function check(viewer: Viewer, action: BulkAction, client: Db): Promise<void> {
  if (action.type === 'stage' && action.override && !manages(viewer)) {
    throw new Refusal('not_allowed', 'Only a manager can override a gate')
  }
  if (action.type === 'work') {
    mayArchive(viewer, action.status)
    const reasonMissing = action.status === 'archived' && !action.reason?.trim()
    if (reasonMissing) {
      throw new Refusal('invalid', 'Enter why they are archived', [
        { field: 'reason', message: 'Enter why they are archived' },
      ])
    }
  }
  await (isPlain(action) ? checkPlain(viewer, action, client) : checkProgress(viewer, action, client))
}

/** Why the action leaves someone out, as far as the database can say. */
async function reasonOf(action: BulkAction, parameter: (value: unknown) => string, client: Db): Promise<string> {
  return isPlain(action) ? plainReason(action, parameter, client) : progressReason(action, parameter)
}

async function askedAbout(
  viewer: Viewer,
  asked: PeopleMeant,
): Promise<{ about: PeopleQuestion; sight: string; words: string }> {
  const world = await filterWorld(viewer)
  if (asked.prospectIds) {
    const about = ask(viewer, { all: [] }, world, ({ parameter }) => [
      `p.id = any(${parameter(asked.prospectIds)}::uuid[])`,
    ])
    return { about, sight: '', words: `${asked.prospectIds.length} chosen` }
  }
  const about = await question(viewer, asked, world)
  const words = [
    inWords(about.filter, world),
    ...(asked.list
      ? [`on “${world.fields.get('lists')?.choices?.find((list) => list.id === asked.list)?.name ?? 'a list'}”`]
      : []),
    ...(asked.search ? [`matching “${asked.search}”`] : []),
    ...(asked.goal ? [`touch goal ${asked.goal.replace('_', ' ')}`] : []),
  ].join(', ')
  return { about, sight: about.showsRemoved ? '' : IN_SIGHT, words }
}

/** Those who are meant, in the order in which they are taken. */
export async function peopleMeant(viewer: Viewer, asked: PeopleMeant): Promise<Id[]> {
  const { about, sight } = await askedAbout(viewer, asked)
  const { rows } = await db().query<{ id: Id }>(
    sql`
      select p.id
      from ${FILTER_FROM}
      where ${about.where}${sight}
      order by p.created_at, p.id
    `,
    about.values,
  )
  return rows.map(({ id }) => id)
}

type LeftOut = { reason: string; count: number; people: { id: Id; name: string }[] }[]

const NAMED = 20

interface Person {
  id: Id
  name: string
}

/** Throws where people would be assigned to a rep who has too much overdue to get new ones. */
async function mayAssign(viewer: Viewer, { action, leaving }: BulkAsked, client: Db): Promise<void> {
  if (action.type !== 'assign' || leaving) return
  for (const userId of action.to) if (userId !== viewer.id) await mustTakeNew(userId, 'action.to', client)
}

/** Whom a change would touch now, and whom it leaves out and why, by name for the first twenty of each. */
export async function previewBulk(viewer: Viewer, asked: BulkAsked) {
  const { action } = asked
  const { about, sight } = await askedAbout(viewer, asked)
  await check(viewer, action, db())
  await mayAssign(viewer, asked, db())
  const reason = await reasonOf(action, about.parameter, db())
  if (isPlain(action)) {
    const { rows } = await db().query<{ reason: string | null; count: number; people: Person[] }>(
      sql`
        select
          reason, count(*) as count,
          (array_agg(jsonb_build_object('id', id, 'name', name) order by name, id))[1:${NAMED}] as people
        from (
          select p.id, btrim(p.first_name || ' ' || p.last_name) as name, ${reason} as reason
          from ${FILTER_FROM}
          where ${about.where}${sight}
        ) found
        group by reason
        order by 2 desc
      `,
      about.values,
    )
    const shares = action.type === 'assign' ? await sharesOf(action, about, sight) : []
    return {
      touches: rows.find((row) => row.reason === null)?.count ?? 0,
      leftOut: rows.filter((row): row is LeftOut[number] => row.reason !== null),
      shares,
      mail: null,
    }
  }
  const { rows } = await db().query<Person & { reason: string | null }>(
    sql`
      select p.id, btrim(p.first_name || ' ' || p.last_name) as name, ${reason} as reason
      from ${FILTER_FROM}
      where ${about.where}${sight}
      order by 2, 1
    `,
    about.values,
  )
  const looked = await lookAt(
    action,
    rows.filter((row) => row.reason === null).map((row) => row.id),
  )
  const touched: Id[] = []
  const groups = new Map<string, LeftOut[number]>()
  for (const { id, name, reason: before } of rows) {
    const why = before ?? looked.get(id)
    if (why === null) touched.push(id)
    if (!why) continue
    const group = groups.get(why) ?? { reason: why, count: 0, people: [] }
    group.count++
    if (group.people.length < NAMED) group.people.push({ id, name })
    groups.set(why, group)
  }
  return {
    touches: touched.length,
    shares: action.type === 'plan' && !action.ownerId ? await sharesOfOwners(touched) : [],
    leftOut: [...groups.values()].sort((one, other) => other.count - one.count),
    mail: action.type === 'email' ? await mailToMany(viewer, action, touched) : null,
  }
}

/** Where each stands for what goes in turn: everyone at a company at one place, unless companies may be split. */
function placeOf(action: BulkAction): string {
  const together = action.type === 'assign' && action.to.length > 1 && !action.apart
  return together
    ? 'dense_rank() over (order by coalesce(p.company_id, p.id))'
    : 'row_number() over (order by p.created_at, p.id)'
}

/** How many to-dos each owner of these people gets. */
async function sharesOfOwners(ids: readonly Id[]): Promise<{ id: Id; name: string; people: number }[]> {
  const { rows } = await db().query<{ id: Id; name: string; people: number }>(
    sql`
      select u.id, u.name, count(*)::int as people
      from prospects p
        join users u on u.id = p.owner_id
      where p.id = any($1::uuid[])
      group by u.id, u.name
      order by 3 desc, 2
    `,
    [ids],
  )
  return rows
}

/** How many people each of several owners gets. */
async function sharesOf(
  action: Extract<BulkAction, { type: 'assign' }>,
  about: PeopleQuestion,
  sight: string,
): Promise<{ id: Id; name: string; people: number }[]> {
  if (action.to.length < 2) return []
  const { rows } = await db().query<{ id: Id; name: string; people: number }>(
    sql`
      select u.id, u.name, count(k.place)::int as people
      from unnest(${about.parameter(action.to)}::uuid[]) with ordinality as given(id, n)
        join users u on u.id = given.id
        left join (select ${placeOf(action)} as place from ${FILTER_FROM} where ${about.where}${sight}) k on (
          k.place - 1
        ) % ${about.parameter(action.to.length)}::int = given.n - 1
      group by u.id, u.name, given.n
      order by given.n
    `,
    about.values,
  )
  return rows
}

/**
 * Starts a change of many: writes down whom it is for, and leaves the rest to a worker. Sent twice, it is one. `first`
 * does, in the same transaction, what has to hold before it runs.
 */
export async function startBulk(
  viewer: Viewer,
  asked: BulkAsked & { id: Id },
  first?: (client: Db) => Promise<void>,
): Promise<{ id: Id; touches: number }> {
  try {
    return await transaction(async (client) => {
      await first?.(client)
      const { about, sight, words } = await askedAbout(viewer, asked)
      if (asked.action.type === 'tag') await addTag(asked.action.tag, client)
      await check(viewer, asked.action, client)
      await mayAssign(viewer, asked, client)
      const reason = await reasonOf(asked.action, about.parameter, client)
      await client.query(
        sql`
          insert into bulk_actions (id, user_id, action, about, status, at)
          values ($1, $2, $3, $4, 'waiting', world_now())
        `,
        [asked.id, viewer.id, JSON.stringify(asked.action), words.slice(0, 2000)],
      )
      const made = await firstRow(
        client.query<{ touches: number }>(
          sql`
            with people as (
              insert into bulk_people (action_id, prospect_id, place, reason)
              select ${about.parameter(asked.id)}::uuid, p.id, ${placeOf(asked.action)}, ${reason}
              from ${FILTER_FROM}
              where ${about.where}${sight}
              returning reason
            )
            select count(*) filter (where reason is null) as touches
            from people
          `,
          about.values,
        ),
      )
      await client.query(sql`update bulk_actions set touches = $2 where id = $1`, [asked.id, made!.touches])
      await client.query(
        sql`
          select graphile_worker.add_job(
            'runBulk', json_build_object('actionId', $1::uuid), job_key => 'bulk ' || $1::text, max_attempts => 3
          )
        `,
        [asked.id],
      )
      return { id: asked.id, touches: made!.touches }
    })
  } catch (error) {
    if (breaksUnique(error, 'bulk_actions_pkey')) throw new Refusal('conflict', 'Already started')
    throw error
  }
}

/**
 * The name of what a bulk action is about: its stage, list, cadence, owners or custom field; of an undo, of what was
 * undone.
 */
const OBJECT = `(select case a ->> 'type'
      when 'stage' then (select s.name from stages s where s.id = a ->> 'to')
      when 'putOn' then (select l.name from lists l where l.id = (a ->> 'listId')::uuid)
      when 'enroll' then (select c.name from cadences c where c.id = (a ->> 'cadenceId')::uuid)
      when 'leaveCadences' then (select c.name from cadences c where c.id = (a ->> 'cadenceId')::uuid)
      when 'assign' then (select string_agg(u.name, ', ' order by u.name) from users u where a -> 'to' ? u.id::text)
      when 'setField' then (select f.name from custom_fields f where a ->> 'field' = 'custom:' || f.id::text)
    end
    from (select coalesce(b.action -> 'of', b.action) as a) of_action)`

const ACCOUNT = sql`
  b.id, b.action, ${OBJECT} as object,
  exists (select from bulk_actions x where x.action ->> 'type' = 'undo' and x.action ->> 'actionId' = b.id::text) as
    undone, b.about, u.name as by, b.status, b.touches, b.done, ms(b.at) as at,
  ms(b.ended_at) as "endedAt" from bulk_actions b join users u on u.id = b.user_id
`

interface Account {
  id: Id
  action: StoredBulkAction
  object: string | null
  undone: boolean
  about: string
  by: string
  status: BulkStatus
  touches: number
  done: number
  at: Instant
  endedAt: Instant | null
}

/** Changes of many, newest first: the caller's own, or everyone’s for managers. */
export async function listBulk(viewer: Viewer): Promise<{ changes: Account[] }> {
  const { rows } = await db().query<Account>(
    sql`
      select ${ACCOUNT}
      where b.user_id = $1 or $2
      order by b.at desc, b.id
      limit 100
    `,
    [viewer.id, manages(viewer)],
  )
  return { changes: rows }
}

/** The state of a change and its account: the caller's own, or anyone’s for managers. */
export async function getBulk(viewer: Viewer, id: Id) {
  const row = await firstRow(
    db().query<Account>(sql`select ${ACCOUNT} where b.id = $1 and (b.user_id = $2 or $3)`, [
      id,
      viewer.id,
      manages(viewer),
    ]),
  )
  if (!row) throw notFound('change')
  const grouped = (column: 'reason' | 'unchanged') =>
    db().query<LeftOut[number]>(
      sql`
        select
          b.${column} as reason, count(*) as count,
          (
            array_agg(
              jsonb_build_object('id', p.id, 'name', btrim(p.first_name || ' ' || p.last_name)) order by p.name_key,
              p.id
            )
          )[1:${NAMED}] as people
        from bulk_people b
          join prospects p on p.id = b.prospect_id
        where b.action_id = $1 and b.${column} is not null
        group by 1
        order by 2 desc
      `,
      [id],
    )
  const [{ rows: leftOut }, { rows: unchanged }, toDos] = await Promise.all([
    grouped('reason'),
    grouped('unchanged'),
    row.action.type === 'plan' ? toDosByOwner(id) : [],
  ])
  return { ...row, leftOut, unchanged, toDos }
}
