import type { EntryFacts } from '#core/cadence/entry'
import type { Breadth } from '#core/engine/breadth'
import type { EngineState, Turn } from '#core/engine/state/engineState'
import type { Playbook } from '#core/engine/state/playbook'
import type { ListKind } from '#core/enumerations'
import { conditionsOf, type Filter } from '#core/filter/filter'
import type { Facts } from '#core/filter/matches'
import { factsSql, filterFrom, toSql } from '#core/filter/sql'
import { emptyParts, type Translation } from '#core/filter/sqlTranslation'
import type { Id } from '#core/instant'
import type { Db } from '../db/pool'
import { sql } from '../db/sql'

/**
 * The state with what conditions and rules on who may enter cadences ask of prospects, and whose turn it is. With
 * `locks`, whose turn it is changes for nobody else until the transaction is done.
 */
export async function withFacts(
  client: Db,
  state: EngineState,
  ids: readonly Id[],
  { filters = [], entries = false, turns = [] }: Partial<Pick<Breadth, 'filters' | 'entries' | 'turns'>>,
  book: Playbook,
  { locks = false } = {},
): Promise<EngineState> {
  const conditioned = await withConditions(client, state, ids, filters, book)
  const asked = turns.length ? { ...conditioned, turn: await readTurns(client, turns, locks) } : conditioned
  return entries ? { ...asked, entries: { ...asked.entries, ...(await readEntries(client, ids)) } } : asked
}

/**
 * The state with what filters ask of prospects, read from the same rows as lists are. Fixed lists are not among it: the
 * state holds them (`Breadth.records`).
 */
async function withConditions(
  client: Db,
  state: EngineState,
  ids: readonly Id[],
  filters: readonly Filter[],
  book: Playbook,
): Promise<EngineState> {
  const conditions = filters.flatMap(conditionsOf)
  if (!conditions.length) return state
  const lists = conditions.flatMap(({ field, test }) => (field === 'lists' && 'values' in test ? test.values : []))
  const meanings = lists.length ? await meaningsOf(client) : new Map<Id, never>()
  const live = [...new Set(lists)].filter((id) => meanings.get(id)?.kind === 'live')
  const translation: Translation = {
    ...emptyParts([ids]),
    fields: book.filterFields,
    lists: meanings,
    now: state.now,
    timeZone: book.timeZone,
    me: null,
  }
  const facts = factsSql(translation, new Set(conditions.map(({ field }) => field)))
  const onLists = live.map((id) => {
    const on = toSql({ field: 'lists', test: { op: 'hasAny', values: [id] } }, translation)
    return `case when ${on} then ${translation.parameter(id)}::text end`
  })
  const { rows } = await client.query<{ id: Id; facts: Facts; lists: Id[] }>(
    sql`
      select p.id, ${facts} as facts, array_remove(array[${onLists.join(', ')}]::text[], null) as lists
      from ${filterFrom(translation)}
      where p.id = any($1::uuid[])
    `,
    translation.values,
  )
  const read = rows.map((row) => [row.id, { ...row.facts, lists: row.lists }] as const)
  return { ...state, facts: { ...state.facts, ...Object.fromEntries(read) } }
}

async function meaningsOf(client: Db): Promise<Translation['lists']> {
  const { rows } = await client.query<{ id: Id; kind: ListKind; filter: Filter }>(
    sql`select id, kind, filter from lists`,
  )
  return new Map(rows.map(({ id, kind, filter }) => [id, kind === 'fixed' ? { kind } : { kind, filter }]))
}

/** When each of the users was last given a prospect in turn. Rows are locked in the order of the users. */
async function readTurns(client: Db, userIds: readonly Id[], locks: boolean): Promise<EngineState['turn']> {
  if (locks) {
    await client.query(
      sql`
        insert into assignment_turns (id, number)
        select u.id, 0
        from users u
        where u.id = any($1::uuid[])
        order by u.id
        on conflict do nothing
      `,
      [userIds],
    )
  }
  const { rows } = await client.query<Turn>(
    sql`
      select id, number
      from assignment_turns
      where id = any($1::uuid[])
      order by id
      ${locks ? 'for no key update' : ''}
    `,
    [userIds],
  )
  return Object.fromEntries(rows.map((row) => [row.id, row]))
}

const ENTRIES_SQL = sql`
  select
    p.id, p.company_id as "companyId",
    (
      select coalesce(json_object_agg(x.cadence_id, x.at), '{}')
      from (
        select e.cadence_id, ms(max(e.ended_at)) as at
        from enrollments e
        where e.prospect_id = p.id and e.status = 'ended'
        group by 1
      ) x
    ) as "leftAt"
  from prospects p
  where p.id = any($1::uuid[])
`
const AT_COMPANIES_SQL = sql`
  select p.company_id as "companyId", e.prospect_id as "prospectId", e.cadence_id as "cadenceId"
  from prospects p
    join enrollments e on e.prospect_id = p.id and e.status <> 'ended'
  where p.company_id = any($1::uuid[])
`
interface EntryRow {
  id: Id
  companyId: Id | null
  leftAt: EntryFacts['leftAt']
}
type AtCompany = EntryFacts['colleagues'][number] & { companyId: Id }

/** What rules on who may enter a cadence ask: when each left which cadence, and what is open at their companies. */
async function readEntries(client: Db, ids: readonly Id[]): Promise<EngineState['entries']> {
  const { rows } = await client.query<EntryRow>(ENTRIES_SQL, [ids])
  const companies = [...new Set(rows.flatMap(({ companyId }) => companyId ?? []))]
  const { rows: open } = await client.query<AtCompany>(AT_COMPANIES_SQL, [companies])
  const byCompany = new Map<Id | null, AtCompany[]>(companies.map((id) => [id, []]))
  for (const row of open) byCompany.get(row.companyId)!.push(row)
  const factsOf = ({ id, companyId, leftAt }: EntryRow): [Id, EntryFacts] => [
    id,
    { leftAt, colleagues: byCompany.get(companyId) ?? [] },
  ]
  return Object.fromEntries(rows.map(factsOf))
}
