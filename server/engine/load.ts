import {
  ENTITY_NAMES,
  emptyState,
  linkId,
  type EngineState,
  type EntityName,
  type ListMember,
  type ProspectTag,
} from '#core/engine/state/engineState'
import type { Breadth as NeededBreadth } from '#core/engine/breadth'
import type { Id } from '#core/instant'
import type { Db } from '../db/pool'
import { selectList, TABLES, type StoredEntity } from './columns'
import { customValueRows, OWN_VALUES_SQL } from './customValues'
import { firstRow, sql } from '../db/sql'

/**
 * How much comes along with a person (see core/engine/breadth); what is left out is not needed. What conditions and
 * entry rules ask is read by `withFacts`, once it is known what they mean.
 */
export type Breadth = Pick<NeededBreadth, 'colleagues'> & Partial<NeededBreadth>

/** The people of $1 who exist, and their companies, as arrays; with everyone at these companies, if asked. */
function whoSql({ colleagues }: Pick<Breadth, 'colleagues'>): string {
  const near = sql`
    select id, company_id
    from prospects
    where id = any($1::uuid[]) and merged_into is null
  `
  const all = colleagues
    ? sql`
      ${near} union select p.id,
      p.company_id from prospects p join (${near}) n on n.company_id = p.company_id where p.merged_into is null
    `
    : near
  return sql`
    who as materialized (select array_agg(id) as ids, array_agg(distinct company_id) as companies from (${all}) n)
  `
}

/**
 * Locks what is about to change, always in the same order: companies by id, then prospects by id. A company is shared
 * by those who work different people there, and taken alone by who may change it or all its people. Gives the ids of
 * those found, colleagues included when asked for; anyone who joined a company while it waited is not among them. With
 * `skipLocked`, people whose company or row is held elsewhere are left out; with `alone`, their company is taken alone
 * also where no colleagues are asked for.
 */
export async function lock(
  client: Db,
  ids: readonly Id[],
  breadth: Breadth,
  { skipLocked = false, alone = breadth.colleagues } = {},
): Promise<Id[]> {
  const skip = skipLocked ? ' skip locked' : ''
  // Counting the companies makes them be locked before the first person is; a row that changed while it was waited for
  // is judged again.
  const { rows } = await client.query<{ id: Id }>({
    name: `lock${skip}${breadth.colleagues ? '-colleagues' : ''}${alone ? '-alone' : ''}`,
    text: sql`
      with ${whoSql(breadth)},
      held as materialized (
        select c.id
        from companies c
        where c.id = any((select companies from who)::uuid[])
        order by c.id
        for ${alone ? 'no key update' : 'share'}${skip}
      )
      select p.id
      from prospects p
      where p.id = any((select ids from who)::uuid[])
        and (select count(*) from held) >= 0
        and (p.company_id is null or p.company_id in (select id from held))
      order by p.id
      for no key update${skip}
    `,
    values: [ids],
  })
  return rows.map((row) => row.id)
}

const OPEN_ONLY: Partial<Record<StoredEntity, string>> = {
  enrollment: `t.status <> 'ended'`,
  meeting: `t.status = 'booked'`,
  deal: `t.status = 'open'`,
}

const THEIRS = 't.prospect_id = any((select ids from who)::uuid[])'
const UNDER_WAY = `exists (select from enrollments e where e.id = t.enrollment_id and e.status <> 'ended')`

/** What is read in another place, or for undo alone. */
const UNREAD = new Set<EntityName>(['customValue', 'notification', 'turn'])
/** Tables that are read where tags and lists are asked for alone. */
const RECORDS: ReadonlySet<EntityName> = new Set(['prospectTag', 'listMember'])

/** Whether a touch `t` happened in a cadence that its prospect is in. Of colleagues no others are read. */
const IN_CADENCE = sql`
  exists (
    select
    from enrollments e
    where e.prospect_id = t.prospect_id and e.status <> 'ended' and e.started_at <= t.at
  )
`

/** What the touches that are left out came to, of those who have any. */
const TOUCHES_BEFORE_SQL = sql`
  (
    select coalesce(
      json_object_agg(
        p.id,
        json_build_object('attempts', p.attempts - x.attempts, 'conversations', p.conversations - x.conversations)
      ), '{}'
    )
    from prospects p
      cross join lateral (
        select
          count(*) as touches, count(*) filter (where t.counts_as = 'attempt') as attempts,
          count(*) filter (where t.counts_as = 'conversation') as conversations
        from touches t
        where t.prospect_id = p.id and ${IN_CADENCE}
      ) x
    where p.id = any((select ids from who)::uuid[])
      and p.id <> all($1::uuid[])
      and p.last_touch_at is not null
      and (
        p.attempts > x.attempts
          or p.conversations > x.conversations
          or exists (
            select
            from touches t
            where t.prospect_id = p.id
            offset x.touches
          )
      )
  )
`

function rowsOf(entity: StoredEntity): string {
  const tables: Record<StoredEntity, string> = {
    company: 'from companies t where t.id = any((select companies from who)::uuid[])',
    prospect: 'from prospects t where t.id = any((select ids from who)::uuid[])',
    emailAddress: `from email_addresses t where ${THEIRS}`,
    phone: `from phones t where ${THEIRS}`,
    enrollment: `from enrollments t where ${THEIRS}`,
    meeting: `from meetings t where ${THEIRS}`,
    // Open work, and what the open enrollments have made already.
    emailMessage: sql`
      from email_messages t where ${THEIRS}
        and (
          t.status not in ('sent', 'cancelled', 'failed')
            or ${UNDER_WAY}
            or t.id = any($2::uuid[])
            or exists (select from meetings a where a.id = t.meeting_id and a.status = 'booked')
        )
    `,
    task: `from tasks t where ${THEIRS} and (t.status = 'open' or ${UNDER_WAY})`,
    touch: `from touches t where ${THEIRS} and (t.prospect_id = any($1::uuid[]) or ${IN_CADENCE})`,
    deal: `from deals t where ${THEIRS}`,
    delayedAction: `from delayed_actions t where ${THEIRS} and t.status = 'waiting'`,
    // Undo reads those that it deletes.
    notification: 'from notifications t where false',
    // Read with the facts, where an action asks for them.
    turn: 'from assignment_turns t where false',
    prospectTag: `from prospect_tags t where ${THEIRS}`,
    listMember: `from list_members t where ${THEIRS}`,
  }
  if (TABLES[entity].link) {
    return `(select coalesce(json_agg(x), '[]') from (select ${selectList(entity, 't')} ${tables[entity]}) x) as "${entity}"`
  }
  const only = OPEN_ONLY[entity]
  return `(select coalesce(json_object_agg(x.id, x order by x.id), '{}') from (select ${selectList(entity, 't')} ${tables[entity]}${only ? ` and ${only}` : ''}) x) as "${entity}"`
}

// Only people of whom something is said in a custom field.
const valuesSql = (own: boolean) => sql`
  (
    select coalesce(json_object_agg(t.id, t.custom || coalesce(c.custom, '{}')), '{}')
    from (
      select
        p.id, p.company_id,
        coalesce((select jsonb_object_agg('custom:' || key, value) from jsonb_each(p.custom)), '{}')
          ${own ? `|| ${OWN_VALUES_SQL}` : ''} as custom
      from prospects p
      where p.id = any((select ids from who)::uuid[])
    ) t
      left join lateral (
        select jsonb_object_agg('company:custom:' || key, value) as custom
        from companies co
          cross join jsonb_each(co.custom)
        where co.id = t.company_id
      ) c on true
    where t.custom <> '{}' or c.custom is not null
  )
`

// Nearly everyone takes every kind: only the others are read.
const OPTED_OUT_SQL = sql`
  (
    select coalesce(
      json_object_agg(
        p.id, array(select unnest('{one_to_one,marketing,requested}'::text[]) except select unnest(p.email_types))
      ), '{}'
    )
    from prospects p
    where p.id = any((select ids from who)::uuid[]) and cardinality(p.email_types) < 3
  )
`

// Rows come in the order of their ids: what follows from the same rows is then the same in the same order, as
// fingerprints need.
const loadSql = (breadth: Breadth) => sql`
  with ${whoSql(breadth)}
  select
    ms(world_now()) as now, ${valuesSql(breadth.records === true)} as "customValues", ${OPTED_OUT_SQL} as "optedOutOf",
    ${breadth.colleagues ? TOUCHES_BEFORE_SQL : `'{}'::json`} as "touchesBefore",
    (select playbook_version from team) as "playbookVersion",
    ${ENTITY_NAMES.filter(
      (entity): entity is StoredEntity => !UNREAD.has(entity) && (breadth.records || !RECORDS.has(entity)),
    )
      .map(rowsOf)
      .join(',\n')}
`
const LOAD_SQL = [false, true].map((records) =>
  [false, true].map((colleagues) => loadSql({ colleagues, records })),
) as [[string, string], [string, string]]

/** An engine state and the version of the playbook that held when it was read. */
export interface Loaded {
  state: EngineState
  playbookVersion: number
}

/**
 * Reads everything the engine may know about the people, in one statement. `messageIds` names mail that matters even
 * though it has left. For a change, `loadLocked` does this behind a lock.
 */
export async function load(
  client: Db,
  ids: readonly Id[],
  messageIds: readonly Id[] = [],
  breadth: Breadth = { colleagues: false },
): Promise<Loaded> {
  const [records, colleagues] = [breadth.records ? 1 : 0, breadth.colleagues ? 1 : 0] as const
  const text = LOAD_SQL[records][colleagues]
  const row = await firstRow(client.query({ name: `load-${records}${colleagues}`, text, values: [ids, messageIds] }))
  const { now, customValues, optedOutOf, touchesBefore, playbookVersion, prospectTag, listMember, ...entities } =
    row as {
      now: number
      customValues: Parameters<typeof customValueRows>[0]
      optedOutOf: EngineState['optedOutOf']
      touchesBefore: EngineState['touchesBefore']
      playbookVersion: number
      prospectTag?: Omit<ProspectTag, 'id'>[]
      listMember?: Omit<ListMember, 'id'>[]
    }
  return {
    state: {
      ...emptyState(now),
      optedOutOf,
      touchesBefore,
      ...entities,
      customValue: customValueRows(customValues),
      prospectTag: linked(prospectTag, (link) => link.tagId),
      listMember: linked(listMember, (link) => link.listId),
    },
    playbookVersion,
  }
}

/** Rows that say that two things belong together, with their ids. */
function linked<Link extends { prospectId: Id }>(
  links: readonly Link[] = [],
  other: (link: Link) => Id,
): Record<Id, Link & { id: Id }> {
  return Object.fromEntries(
    links.map((link) => {
      const id = linkId(link.prospectId, other(link))
      return [id, { id, ...link }]
    }),
  )
}

/**
 * Locks people and reads them, in one go. Where someone changed company meanwhile, the transaction is to be tried
 * again.
 */
export async function loadLocked(
  client: Db,
  ids: readonly Id[],
  messageIds: readonly Id[],
  breadth: Breadth,
): Promise<Loaded> {
  const [held, loaded] = await Promise.all([lock(client, ids, breadth), load(client, ids, messageIds, breadth)])
  if (Object.keys(loaded.state.prospect).length !== held.length) {
    throw Object.assign(new Error('Someone changed company while it was locked'), { code: '40001' })
  }
  return loaded
}
