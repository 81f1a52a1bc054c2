import type { BulkStatus } from '#core/enumerations'
import type { Filter } from '#core/filter/filter'
import { FILTER_FROM } from '#core/filter/sql'
import type { Id, Instant } from '#core/instant'
import type { BulkAction, StoredBulkAction } from '#shared/api/bulk'
import type { GoalState } from '#shared/api/lists'
import { breaksUnique, db, isTransient, transaction, type Db } from '../db/pool'
import { describeError } from '../engine/dueWork'
import { change, checkPlain, isPlain, plainReason } from './bulkChanges'
import { undoEvents, undoPlain, type Undone } from './bulkUndo'
import { differences, snapshot } from './bulkValues'
import { checkProgress, lookAt, mailToMany, progressReason, SET, tellMany } from './bulkProgress'
import { notFound, Refusal } from './errors'
import { ask, filterWorld, IN_SIGHT, inWords, type PeopleQuestion } from './filters'
import { question } from './people'
import { mayArchive } from './prospects'
import type { Viewer } from './sessions'
import { addTag } from './tags'
import { firstRow, sql } from '../db/sql'

/** Whom a change is for: those who are named, or all that a filter, a list and a search find. */
export interface BulkAsked {
  action: BulkAction
  prospectIds?: readonly Id[]
  filter?: Filter | string
  list?: Id
  search?: string
  goal?: GoalState
}

async function check(viewer: Viewer, action: BulkAction, client: Db): Promise<void> {
  if (action.type === 'stage' && action.override && viewer.role === 'rep') {
    throw new Refusal('not_allowed', 'Only a manager can override a gate')
  }
  if (action.type === 'work') {
    mayArchive(viewer, action.status)
    const lacks = action.status === 'archived' && !action.reason?.trim()
    if (lacks) {
      throw new Refusal('invalid', 'Enter why they are archived', [
        { field: 'reason', message: 'Enter why they are archived' },
      ])
    }
  }
  await (isPlain(action) ? checkPlain(viewer, action, client) : checkProgress(action, client))
}

/** Why the action leaves somebody out, as far as the database can say. */
async function reasonOf(action: BulkAction, parameter: (value: unknown) => string, client: Db): Promise<string> {
  return isPlain(action) ? plainReason(action, parameter, client) : progressReason(action, parameter)
}

async function askedAbout(
  viewer: Viewer,
  asked: BulkAsked,
): Promise<{ about: PeopleQuestion; sight: string; words: string }> {
  const world = await filterWorld(viewer)
  if (asked.prospectIds) {
    const about = ask(viewer, { all: [] }, world, (parameter) => [
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

type LeftOut = { reason: string; count: number; people: { id: Id; name: string }[] }[]
const NAMED = 20

interface Person {
  id: Id
  name: string
}

/** Whom a change would touch now, and whom it leaves out and why, by name for the first twenty of each. */
export async function previewBulk(viewer: Viewer, asked: BulkAsked) {
  const { action } = asked
  const { about, sight } = await askedAbout(viewer, asked)
  await check(viewer, action, db())
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
    shares: [],
    leftOut: [...groups.values()].sort((one, other) => other.count - one.count),
    mail: action.type === 'email' ? await mailToMany(viewer, action, touched) : null,
  }
}

/** Where each stands for what goes in turn: everybody at a company at one place, unless companies may be split. */
function placeOf(action: BulkAction): string {
  const together = action.type === 'assign' && action.to.length > 1 && !action.apart
  return together
    ? 'dense_rank() over (order by coalesce(p.company_id, p.id))'
    : 'row_number() over (order by p.created_at, p.id)'
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

/** Starts a change of many: writes down whom it is for, and leaves the rest to a worker. Told twice, it is one. */
export async function startBulk(viewer: Viewer, asked: BulkAsked & { id: Id }): Promise<{ id: Id; touches: number }> {
  try {
    return await transaction(async (client) => {
      const { about, sight, words } = await askedAbout(viewer, asked)
      if (asked.action.type === 'tag') await addTag(asked.action.tag, client)
      await check(viewer, asked.action, client)
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

/** Changes of many, newest first: the caller's own, or everybody's for managers. */
export async function listBulk(viewer: Viewer): Promise<{ changes: Account[] }> {
  const { rows } = await db().query<Account>(
    sql`
      select ${ACCOUNT}
      where b.user_id = $1 or $2
      order by b.at desc, b.id
      limit 100
    `,
    [viewer.id, viewer.role !== 'rep'],
  )
  return { changes: rows }
}

/** The state of a change and its account: the caller's own, or anybody's for managers. */
export async function getBulk(viewer: Viewer, id: Id) {
  const row = await firstRow(
    db().query<Account>(sql`select ${ACCOUNT} where b.id = $1 and (b.user_id = $2 or $3)`, [
      id,
      viewer.id,
      viewer.role !== 'rep',
    ]),
  )
  if (!row) throw notFound('change')
  const grouped = (column: 'reason' | 'kept') =>
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
  const [{ rows: leftOut }, { rows: kept }] = await Promise.all([grouped('reason'), grouped('kept')])
  return { ...row, leftOut, kept }
}

/** How many people are changed in one transaction. */
const BATCH = 5_000

/**
 * Runs a change of many to its end, a batch at a time. Killed at any moment and run again, it goes on where it stood.
 */
export async function runBulk(actionId: Id): Promise<void> {
  const bulk = await firstRow(
    db().query<{ action: StoredBulkAction }>(sql`select action from bulk_actions where id = $1`, [actionId]),
  )
  if (!bulk) return
  const plain = isPlain(bulk.action.type === 'undo' ? bulk.action.of : bulk.action)
  for (let more = true; more;) more = await runBatch(actionId, plain ? BATCH : SET, plain ? runPlain : runProgress)
}

interface Batch {
  action: StoredBulkAction
  userId: Id
  people: { prospect_id: Id; place: number }[]
  over: boolean
}

async function nextBatch(client: Db, actionId: Id, size: number): Promise<Batch | null> {
  const bulk = await firstRow(
    client.query<{ action: StoredBulkAction; user_id: Id }>(
      sql`
        update bulk_actions
        set status = 'running'
        where id = $1 and status <> 'done'
        returning action, user_id
      `,
      [actionId],
    ),
  )
  if (!bulk) return null
  const { rows: people } = await client.query<{ prospect_id: Id; place: number }>(
    sql`
      select prospect_id, place
      from bulk_people
      where action_id = $1 and reason is null and not done
      order by place
      limit $2
    `,
    [actionId, size],
  )
  return { action: bulk.action, userId: bulk.user_id, people, over: people.length < size }
}

async function writeDown(client: Db, actionId: Id, done: number, over: boolean): Promise<void> {
  await client.query(
    sql`
      update bulk_actions
      set
        done = done + $2, status = case when $3 then 'done' else status end,
        ended_at = case when $3 then world_now() end
      where id = $1
    `,
    [actionId, done, over],
  )
}

/**
 * Runs the next batch; gives whether there is more. One whom the change fails for never stops the others: the batch is
 * halved until only that one is left, who is then left out with the reason.
 */
async function runBatch(
  actionId: Id,
  size: number,
  run: (actionId: Id, size: number) => Promise<boolean>,
): Promise<boolean> {
  try {
    return await run(actionId, size)
  } catch (error) {
    if (isTransient(error)) throw error
    if (size > 1) return runBatch(actionId, Math.ceil(size / 8), run)
    await leaveOut(actionId, describeError(error))
    return true
  }
}

/** Leaves the next person out, for whom the change has failed. */
async function leaveOut(actionId: Id, error: string): Promise<void> {
  await transaction(async (client) => {
    const { rowCount } = await client.query(
      sql`
        update bulk_people
        set reason = $2
        where (action_id, prospect_id) = (
            select action_id, prospect_id
            from bulk_people
            where action_id = $1 and reason is null and not done
            order by place
            limit 1
          )
      `,
      [actionId, `Failed: ${error}`],
    )
    if (rowCount) await client.query(sql`update bulk_actions set touches = touches - 1 where id = $1`, [actionId])
  })
}

async function runPlain(actionId: Id, size: number): Promise<boolean> {
  return transaction(async (client) => {
    const batch = await nextBatch(client, actionId, size)
    if (!batch) return false
    const { people, over } = batch
    const done = people.length ? await changePlain(client, actionId, batch) : 0
    await writeDown(client, actionId, done, over)
    return !over
  })
}

/**
 * Changes what is known of a batch of people, or changes it back, and writes down what it was and is; gives for how
 * many.
 */
async function changePlain(client: Db, actionId: Id, { action, userId, people }: Batch): Promise<number> {
  const ids = people.map((person) => person.prospect_id)
  let became: Map<Id, Undone>
  if (action.type === 'undo') became = await undoPlain(client, action.actionId, action.of, ids)
  else {
    if (!isPlain(action)) throw new Error('Not a change of what is known')
    await client.query(sql`select from prospects where id = any($1::uuid[]) order by id for no key update`, [ids])
    const before = await snapshot(client, action, ids)
    await change(client, action, actionId, userId, people)
    const after = await snapshot(client, action, ids)
    became = new Map(
      ids.map((id) => [
        id,
        { reason: null, kept: null, changes: differences(before.get(id) ?? {}, after.get(id) ?? {}) },
      ]),
    )
  }
  const done = [...became].filter(([, { reason }]) => reason === null).map(([id]) => id)
  await client.query(
    sql`
      insert into events (id, at, kind, prospect_id, actor_id, payload)
      select gen_random_uuid(), world_now(), 'changedWithMany', id, $2, $3
      from unnest($1::uuid[]) u(id)
    `,
    [done, userId, JSON.stringify({ actionId, type: action.type })],
  )
  await settlePeople(client, actionId, became)
  return done.length
}

/** Writes down what became of people; whom it was not done for no longer counts among those it is for. */
async function settlePeople(
  client: Db,
  actionId: Id,
  became: ReadonlyMap<Id, Undone & { events?: readonly Id[] }>,
): Promise<void> {
  // Should two workers have the same batch in hand, the second finds it done, and nothing of its own is kept.
  const { rowCount } = await client.query(
    sql`
      update bulk_people b
      set
        done = r.reason is null, reason = r.reason, kept = r.kept, changes = r.changes,
        events = array(select jsonb_array_elements_text(coalesce(r.events, '[]')))::uuid[]
      from jsonb_to_recordset($2) as r(id uuid, reason text, kept text, changes jsonb, events jsonb)
      where b.action_id = $1 and b.prospect_id = r.id and not b.done and b.reason is null
    `,
    [actionId, JSON.stringify([...became].map(([id, one]) => ({ id, ...one })))],
  )
  if (rowCount !== became.size) throw new Error('These people have been dealt with by another worker')
  const leftOut = [...became.values()].filter(({ reason }) => reason !== null).length
  await client.query(sql`update bulk_actions set touches = touches - $2 where id = $1`, [actionId, leftOut])
}

async function runProgress(actionId: Id, size: number): Promise<boolean> {
  const batch = await nextBatch(db(), actionId, size)
  if (!batch || isPlain(batch.action)) return false
  const { action, userId, people, over } = batch
  const ids = people.map((person) => person.prospect_id)
  const settle = async (client: Db, became: ReadonlyMap<Id, Undone & { events?: readonly Id[] }>) => {
    await settlePeople(client, actionId, became)
    await writeDown(client, actionId, [...became.values()].filter(({ reason }) => reason === null).length, over)
  }
  if (ids.length && action.type === 'undo') {
    const became = new Map<Id, Undone>()
    for (const id of ids) became.set(id, await undoEvents(actionId, action.actionId, id, userId))
    await transaction((client) => settle(client, became))
    return !over
  }
  if (!ids.length || action.type === 'undo') {
    await writeDown(db(), actionId, 0, true)
    return false
  }
  await tellMany(action, userId, ids, (client, became) =>
    settle(
      client,
      new Map(
        ids.map((id) => {
          const one = became.get(id)
          return [id, { reason: one?.reason ?? null, kept: null, changes: null, events: one?.events ?? [] }]
        }),
      ),
    ),
  )
  return !over
}
