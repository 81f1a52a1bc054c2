import type { EngineState } from '#core/engine/state/engineState'
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
 * The state with what filters ask of prospects, read from the same rows as lists are. Fixed lists are not among it: the
 * state holds them (`Breadth.records`).
 */
export async function withFacts(
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
