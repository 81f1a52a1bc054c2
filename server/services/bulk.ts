import type { Filter } from '#core/filter/filter'
import { FILTER_FROM } from '#core/filter/sql'
import type { Id, Instant } from '#core/instant'
import type { BulkAction } from '#shared/api/bulk'
import { breaksUnique, db, transaction, type Db } from '../db/pool'
import { mustBeOnTeam } from './access'
import { notFound, Refusal } from './errors'
import { ask, filterWorld, IN_SIGHT, inWords, type PeopleQuestion } from './filters'
import { readList } from './listAccess'
import { question } from './people'
import type { Viewer } from './sessions'
import { addTag } from './tags'

/** Whom a change is for: those who are named, or all that a filter, a list and a search find. */
export interface BulkAsked { action: BulkAction, prospectIds?: readonly Id[], filter?: Filter | string, list?: Id, search?: string }

/** An action with what it names looked up, so that its conditions are plain SQL. */
type Ready = Exclude<BulkAction, { do: 'tag' | 'untag' }> | { do: 'tag' | 'untag', tag: string, tagId: Id | null }

async function ready(viewer: Viewer, action: BulkAction, client: Db): Promise<Ready> {
  switch (action.do) {
    case 'assign':
      for (const userId of action.to) await mustBeOnTeam(userId, client)
      return action
    case 'putOn': {
      const list = await readList(viewer, action.listId, { edit: true, client })
      if (list.kind !== 'fixed') throw new Refusal('invalid', 'A live list is its filter: nobody is put on it', [{ field: 'action.listId', message: 'A live list is its filter: nobody is put on it' }])
      return action
    }
    case 'tag': case 'untag': {
      const { rows: [tag] } = await client.query<{ id: Id }>('select id from tags where lower(name) = lower($1)', [action.tag])
      return { ...action, tagId: tag?.id ?? null }
    }
    default: return action
  }
}

/** Why the action leaves somebody out, as an expression over FILTER_FROM; null for those whom it touches. */
function reasonSql(action: Ready, parameter: (value: unknown) => string): string {
  const unless = (condition: string, reason: string) => `case when ${condition} then ${parameter(reason)}::text end`
  const has = (tagId: Id | null) => `exists (select from prospect_tags x where x.prospect_id = p.id and x.tag_id = ${parameter(tagId)}::uuid)`
  switch (action.do) {
    case 'assign': return action.to.length === 1 ? unless(`p.owner_id = ${parameter(action.to[0])}::uuid`, 'is theirs already') : 'null::text'
    case 'tag': return unless(has(action.tagId), 'has the tag already')
    case 'untag': return unless(`not ${has(action.tagId)}`, 'does not have the tag')
    case 'rate': return unless(`p.rating is not distinct from ${parameter(action.rating)}::text`, 'is rated so already')
    case 'work': return unless(`p.working = ${parameter(action.working)}::text`, 'is so already')
    case 'putOn': return unless(`exists (select from list_members x where x.list_id = ${parameter(action.listId)}::uuid and x.prospect_id = p.id)`, 'is on the list already')
  }
}

async function askedAbout(viewer: Viewer, asked: BulkAsked): Promise<{ about: PeopleQuestion, sight: string, words: string }> {
  const world = await filterWorld(viewer)
  if (asked.prospectIds) {
    const about = ask(viewer, { all: [] }, world, parameter => [`p.id = any(${parameter(asked.prospectIds)}::uuid[])`])
    return { about, sight: '', words: `${asked.prospectIds.length} chosen` }
  }
  const about = await question(viewer, asked, world)
  const words = [inWords(about.filter, world), ...(asked.list ? ['on a list'] : []), ...(asked.search ? [`matching “${asked.search}”`] : [])].join(', ')
  return { about, sight: about.showsRemoved ? '' : IN_SIGHT, words }
}

type LeftOut = { reason: string, count: number, people: { id: Id, name: string }[] }[]
const NAMED = 20

/** How many people a change would touch now, and whom it leaves out and why, by name for the first twenty of each. */
export async function previewBulk(viewer: Viewer, asked: BulkAsked): Promise<{ touches: number, leftOut: LeftOut }> {
  const { about, sight } = await askedAbout(viewer, asked)
  const reason = reasonSql(await ready(viewer, asked.action, db()), about.parameter)
  const { rows } = await db().query<{ reason: string | null, count: number, people: { id: Id, name: string }[] }>(`select reason, count(*) as count, (array_agg(jsonb_build_object('id', id, 'name', name) order by name, id))[1:${NAMED}] as people
    from (select p.id, btrim(p.first_name || ' ' || p.last_name) as name, ${reason} as reason from ${FILTER_FROM} where ${about.where}${sight}) found group by reason order by 2 desc`, about.values)
  return { touches: rows.find(row => row.reason === null)?.count ?? 0, leftOut: rows.filter((row): row is LeftOut[number] => row.reason !== null) }
}

/** Starts a change of many: writes down whom it is for, and leaves the rest to a worker. Told twice, it is one. */
export async function startBulk(viewer: Viewer, asked: BulkAsked & { id: Id }): Promise<{ id: Id, touches: number }> {
  try {
    return await transaction(async (client) => {
      const { about, sight, words } = await askedAbout(viewer, asked)
      if (asked.action.do === 'tag') await addTag(asked.action.tag, client)
      const action = await ready(viewer, asked.action, client)
      const reason = reasonSql(action, about.parameter)
      await client.query(`insert into bulk_actions (id, user_id, action, about, state, at) values ($1, $2, $3, $4, 'waiting', world_now())`, [asked.id, viewer.id, JSON.stringify(asked.action), words.slice(0, 2000)])
      const { rows: [made] } = await client.query<{ touches: number }>(`with people as (insert into bulk_people (action_id, prospect_id, place, reason)
          select ${about.parameter(asked.id)}::uuid, p.id, row_number() over (order by p.created_at, p.id), ${reason} from ${FILTER_FROM} where ${about.where}${sight} returning reason)
        select count(*) filter (where reason is null) as touches from people`, about.values)
      await client.query('update bulk_actions set touches = $2 where id = $1', [asked.id, made!.touches])
      await client.query(`select graphile_worker.add_job('runBulk', json_build_object('actionId', $1::uuid), job_key => 'bulk ' || $1::text, max_attempts => 10)`, [asked.id])
      return { id: asked.id, touches: made!.touches }
    })
  }
  catch (error) {
    if (breaksUnique(error, 'bulk_actions_pkey')) throw new Refusal('conflict', 'This has been started already')
    throw error
  }
}

/** The state of a change and its account: the caller's own, or anybody's for managers. */
export async function getBulk(viewer: Viewer, id: Id) {
  const { rows: [row] } = await db().query<{ id: Id, action: BulkAction, about: string, by: string, state: 'waiting' | 'running' | 'done', touches: number, done: number, at: Instant, endedAt: Instant | null }>(`select b.id, b.action, b.about, u.name as by, b.state, b.touches, b.done, ms(b.at) as at, ms(b.ended_at) as "endedAt"
    from bulk_actions b join users u on u.id = b.user_id where b.id = $1 and (b.user_id = $2 or $3)`, [id, viewer.id, viewer.role !== 'rep'])
  if (!row) throw notFound('change')
  const { rows: leftOut } = await db().query<LeftOut[number]>(`select b.reason, count(*) as count, (array_agg(jsonb_build_object('id', p.id, 'name', btrim(p.first_name || ' ' || p.last_name)) order by p.name_key, p.id))[1:${NAMED}] as people
    from bulk_people b join prospects p on p.id = b.prospect_id where b.action_id = $1 and b.reason is not null group by 1 order by 2 desc`, [id])
  return { ...row, leftOut }
}

/** How many people are changed in one transaction. */
const BATCH = 5_000

/** Runs a change of many to its end, a batch at a time. Killed at any moment and run again, it goes on where it stood. */
export async function runBulk(actionId: Id): Promise<void> {
  for (let more = true; more;) more = await runBatch(actionId)
}

async function runBatch(actionId: Id): Promise<boolean> {
  return transaction(async (client) => {
    const { rows: [bulk] } = await client.query<{ action: BulkAction, user_id: Id }>(`update bulk_actions set state = 'running' where id = $1 and state <> 'done' returning action, user_id`, [actionId])
    if (!bulk) return false
    const { rows: batch } = await client.query<{ prospect_id: Id, place: number }>('select prospect_id, place from bulk_people where action_id = $1 and reason is null and not done order by place limit $2', [actionId, BATCH])
    if (batch.length) {
      const ids = batch.map(person => person.prospect_id)
      await change(client, bulk.action, actionId, bulk.user_id, batch)
      await client.query(`insert into happenings (id, at, kind, prospect_id, actor_id, data) select gen_random_uuid(), world_now(), 'changedWithMany', id, $2, $3 from unnest($1::uuid[]) u(id)`, [ids, bulk.user_id, JSON.stringify({ actionId, do: bulk.action.do })])
      await client.query('update bulk_people set done = true where action_id = $1 and prospect_id = any($2::uuid[])', [actionId, ids])
    }
    const over = batch.length < BATCH
    await client.query(`update bulk_actions set done = done + $2, state = case when $3 then 'done' else state end, ended_at = case when $3 then world_now() end where id = $1`, [actionId, batch.length, over])
    return !over
  })
}

async function change(client: Db, action: BulkAction, actionId: Id, userId: Id, batch: readonly { prospect_id: Id, place: number }[]): Promise<void> {
  const ids = batch.map(person => person.prospect_id)
  // Always in the order of ids, as everything locks people.
  const locked = 'with held as materialized (select id from prospects where id = any($1::uuid[]) order by id for no key update)'
  switch (action.do) {
    case 'assign': {
      const owners = batch.map(person => action.to[(person.place - 1) % action.to.length]!)
      await client.query(`${locked} update prospects p set owner_id = given.owner, version = version + 1 from unnest($1::uuid[], $2::uuid[]) as given(id, owner), held where p.id = given.id and held.id = p.id`, [ids, owners])
      await client.query(`update tasks t set owner_id = given.owner from unnest($1::uuid[], $2::uuid[]) as given(id, owner) where t.prospect_id = given.id and t.state = 'open'`, [ids, owners])
      return
    }
    case 'tag': {
      const tag = await addTag(action.tag, client)
      await client.query('insert into prospect_tags (prospect_id, tag_id) select id, $2 from unnest($1::uuid[]) u(id) order by id on conflict do nothing', [ids, tag.id])
      return
    }
    case 'untag':
      await client.query('delete from prospect_tags x using tags t where t.id = x.tag_id and lower(t.name) = lower($2) and x.prospect_id = any($1::uuid[])', [ids, action.tag])
      return
    case 'rate':
      await client.query(`${locked} update prospects p set rating = $2, version = version + 1 from held where held.id = p.id`, [ids, action.rating])
      return
    case 'work':
      await client.query(`${locked} update prospects p set working = $2, version = version + 1 from held where held.id = p.id`, [ids, action.working])
      return
    case 'putOn':
      await client.query('insert into list_additions (id, list_id, at, by_id, count) select $1, id, world_now(), $3, 0 from lists where id = $2 on conflict (id) do nothing', [actionId, action.listId, userId])
      await client.query('insert into list_members (list_id, prospect_id, addition_id) select a.list_id, u.id, a.id from list_additions a, unnest($2::uuid[]) u(id) where a.id = $1 order by u.id on conflict do nothing', [actionId, ids])
      await client.query('update list_additions set count = (select count(*) from list_members where addition_id = $1) where id = $1', [actionId])
  }
}
