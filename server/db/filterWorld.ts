import type { ListKind } from '#core/enumerations'
import { fieldsOf, type Choice, type Field, type World } from '#core/filter/fields'
import type { Filter } from '#core/filter/filter'
import type { ListMeaning } from '#core/filter/sqlTranslation'
import type { Id, Instant } from '#core/instant'
import type { Db } from './pool'
import { sql } from './sql'

/** What filters are understood in: the fields with their values, what lists mean, the moment and the team's zone. */
export interface ReadWorld {
  fields: ReadonlyMap<string, Field>
  lists: ReadonlyMap<Id, ListMeaning>
  now: Instant
  timeZone: string
  country: string
  stages: readonly Choice[]
  users: readonly Choice[]
}

/** Which lists and imports are offered as values: conditions on lists l and on imports, with their values. */
interface Offered {
  lists: string
  imports: string
  values: readonly unknown[]
}

interface WorldRow extends Omit<World, 'sources' | 'custom' | 'qualities'> {
  qualities: string[]
  custom: World['custom']
  meanings: { id: Id; kind: ListKind; filter: Filter }[]
  now: Instant
  timeZone: string
  country: string
}

const worldSql = (mine: Offered) => sql`
  select
    ms(world_now()) as now, (select time_zone from team) as "timeZone", (select country from team) as country,
    (select call_qualities from team) as qualities,
    (
      select coalesce(
        json_agg(json_build_object('id', id, 'name', name, 'kind', kind) order by position), '[]'
      )
      from stages
    ) as stages,
    (select coalesce(json_agg(json_build_object('id', id, 'name', name) order by name), '[]') from users) as
      users,
    (
      select coalesce(json_agg(json_build_object('id', id, 'name', name) order by lower(name)), '[]')
      from tags
    ) as tags,
    (
      select coalesce(json_agg(json_build_object('id', id, 'name', name) order by position), '[]')
      from outcomes
    ) as outcomes,
    (
      select coalesce(json_agg(json_build_object('id', id, 'name', name) order by lower(name)), '[]')
      from cadences
    ) as cadences,
    (
      select coalesce(json_agg(json_build_object('id', id, 'name', name) order by lower(name)), '[]')
      from forms
    ) as forms,
    (
      select coalesce(json_agg(json_build_object('id', id, 'name', file_name) order by created_at desc), '[]')
      from imports
      where status = 'done' and (${mine.imports})
    ) as imports,
    (
      select coalesce(json_agg(json_build_object('id', l.id, 'name', l.name) order by l.position, l.id), '[]')
      from lists l
      where ${mine.lists}
    ) as lists,
    (select coalesce(json_agg(json_build_object('id', id, 'kind', kind, 'filter', filter)), '[]') from lists)
      as meanings,
    (
      select coalesce(
        json_agg(
          json_build_object('id', id, 'of', of, 'name', name, 'kind', kind, 'choices', choices) order by
            position
        ), '[]'
      )
      from custom_fields
    ) as custom
`

/** Everything that can be asked: what the engine understands conditions in. */
export const EVERYTHING: Offered = { lists: 'true', imports: 'true', values: [] }

/** Reads what filters are understood in. A list that is not offered keeps its meaning inside others. */
export async function readFilterWorld(client: Db, mine: Offered): Promise<ReadWorld> {
  const [{ rows }, from] = await Promise.all([
    client.query<WorldRow>({
      name: mine === EVERYTHING ? 'filter-world-whole' : 'filter-world',
      text: worldSql(mine),
      values: [...mine.values],
    }),
    sources(client),
  ])
  const row = rows[0]!
  const { now, timeZone, country, stages, users } = row
  const named = (names: readonly string[]) => names.map((name) => ({ id: name, name }))
  const world: World = { ...row, sources: named(from), qualities: named(row.qualities) }
  return {
    fields: new Map(fieldsOf(world).map((field) => [field.key, field])),
    now,
    timeZone,
    country,
    stages,
    users,
    lists: new Map(row.meanings.map(({ id, kind, filter }) => [id, kind === 'fixed' ? { kind } : { kind, filter }])),
  }
}

/**
 * The sources people came from. Found by hopping from one to the next along their index, however many people there are.
 */
async function sources(client: Db): Promise<string[]> {
  const { rows } = await client.query<{ source: string }>(sql`
    with recursive hop as (
      (
        select source
        from prospects
        where source is not null
        order by source
        limit 1
      )
      union all
      select (select p.source from prospects p where p.source > hop.source order by p.source limit 1)
      from hop
      where hop.source is not null
    )
    select source
    from hop
    where source is not null
    limit 500
  `)
  return rows.map((row) => row.source)
}
