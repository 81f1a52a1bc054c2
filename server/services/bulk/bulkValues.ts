import type { Changes } from '../../engine/eventLog'
import type { Id } from '#core/instant'
import type { Db } from '../../db/pool'
import { sayUserChanged } from '../../db/userChanges'
import type { PlainAction } from './plainAction'
import { moveTasks } from '../fields/zones'
import { sql } from '../../db/sql'

type Values = Record<string, unknown>

/** The columns of people that a bulk action may set. */
export const COLUMNS: Record<string, string> = {
  title: 'title',
  source: 'source',
  city: 'city',
  region: 'region',
  postalCode: 'postal_code',
  country: 'country',
  timeZone: 'time_zone',
}
/** Fields that decide by whose clock someone is called. */
const PLACING = new Set(['region', 'country', 'timeZone'])

/** What an action changes of someone, as an expression that gives a JSON object. */
function valuesSql(action: PlainAction, parameter: (value: unknown) => string): string {
  switch (action.type) {
    case 'assign':
    case 'assignToCompanyOwner':
      return sql`
        json_build_object(
          'owner_id', p.owner_id, 'tasks',
          (select json_object_agg(t.id, t.owner_id) from tasks t where t.prospect_id = p.id and t.status = 'open')
        )
      `
    case 'tag':
    case 'untag':
      return sql`
        json_build_object(
          'tag',
          (
            select g.name
            from prospect_tags x
              join tags g on g.id = x.tag_id
            where x.prospect_id = p.id and lower(g.name) = lower(${parameter(action.tag)}::text)
          )
        )
      `
    case 'rate':
      return `json_build_object('rating', p.rating, 'rated_by_score', p.rated_by_score)`
    case 'putOn':
      return sql`
        json_build_object(
          'list',
          (
            select x.list_id
            from list_members x
            where x.list_id = ${parameter(action.listId)}::uuid and x.prospect_id = p.id
          )
        )
      `
    case 'setField': {
      if (PLACING.has(action.field)) {
        return sql`
          json_build_object(
            'region', p.region, 'country', p.country, 'time_zone', p.time_zone, 'time_zone_from', p.time_zone_from,
            'time_zone_is_manual',
            p.time_zone_is_manual
          )
        `
      }
      const column = COLUMNS[action.field]
      if (column) return `json_build_object('${column}', p.${column})`
      const key = parameter(action.field.slice('custom:'.length))
      return `json_build_object(${key}::text, p.custom -> ${key}::text)`
    }
  }
}

/** What some people have now of what an action changes. */
export async function snapshot(client: Db, action: PlainAction, ids: readonly Id[]): Promise<Map<Id, Values>> {
  const values: unknown[] = [ids]
  const current = valuesSql(action, (value) => `$${values.push(value)}`)
  const { rows } = await client.query<{ id: Id; values: Values }>(
    sql`
      select p.id, ${current} as values
      from prospects p
      where p.id = any($1::uuid[])
    `,
    values,
  )
  return new Map(rows.map((row) => [row.id, row.values]))
}

/** The fields in which two snapshots differ. */
export function differences(before: Values, after: Values): Changes {
  const changed = Object.keys(after).filter(
    (field) => JSON.stringify(before[field] ?? null) !== JSON.stringify(after[field] ?? null),
  )
  return Object.fromEntries(changed.map((field) => [field, [before[field] ?? null, after[field] ?? null]]))
}

const TEXT_COLUMNS = new Set([...Object.values(COLUMNS), 'time_zone_from'])

/** Sets fields of people back to what they were; every row is locked and known to hold what it was set to. */
export async function restore(
  client: Db,
  actionId: Id,
  people: readonly { id: Id; changes: Changes }[],
): Promise<void> {
  for (const field of new Set(people.flatMap(({ changes }) => Object.keys(changes)))) {
    const those = people.flatMap(({ id, changes }) =>
      changes[field] ? [{ id, was: changes[field][0], is: changes[field][1] }] : [],
    )
    const rows = `jsonb_to_recordset($1::jsonb) as r(id uuid, was jsonb, "is" jsonb)`
    const text = `r.was #>> '{}'`
    const set = (assignment: string) =>
      client.query(
        sql`
          update prospects p
          set ${assignment}, version = p.version + 1
          from ${rows}
          where p.id = r.id
        `,
        [JSON.stringify(those)],
      )
    if (field === 'owner_id') await set(`owner_id = (${text})::uuid`)
    else if (field === 'rating') await set(`rating = ${text}`)
    else if (field === 'rated_by_score' || field === 'time_zone_is_manual') await set(`${field} = (${text})::boolean`)
    else if (TEXT_COLUMNS.has(field)) await set(`${field} = ${text}`)
    else if (field === 'tasks') {
      await client.query(
        sql`
          update tasks t
          set owner_id = (w.value #>> '{}')::uuid
          from ${rows}, jsonb_each(r.was) w
          where jsonb_typeof(r.was) = 'object'
            and t.id = w.key::uuid
            and t.status = 'open'
            and t.owner_id::text is not distinct from r."is" ->> w.key
        `,
        [JSON.stringify(those)],
      )
      sayUserChanged(client, 'queue', null)
    } else if (field === 'tag') {
      await client.query(
        sql`
          insert into prospect_tags (prospect_id, tag_id)
          select r.id, g.id
          from ${rows}
            join tags g on lower(g.name) = lower(${text})
          on conflict do nothing
        `,
        [JSON.stringify(those)],
      )
      await client.query(
        sql`
          delete from prospect_tags x
          using ${rows}, tags g
          where x.prospect_id = r.id and g.id = x.tag_id and lower(g.name) = lower(r."is" #>> '{}')
        `,
        [JSON.stringify(those)],
      )
    } else if (field === 'list') {
      await client.query(
        sql`
          delete from list_members
          where batch_id = $1 and prospect_id = any($2::uuid[])
        `,
        [actionId, those.map((one) => one.id)],
      )
      await client.query(
        sql`
          update list_batches
          set count = (select count(*) from list_members where batch_id = $1)
          where id = $1
        `,
        [actionId],
      )
    } else {
      await client.query(
        sql`
          update prospects p
          set
            custom = case
              when r.was is null or jsonb_typeof(r.was) = 'null' then p.custom - $2::text
              else p.custom || jsonb_build_object($2::text, r.was)
            end, version = p.version + 1
          from ${rows}
          where p.id = r.id
        `,
        [JSON.stringify(those), field],
      )
    }
    if (field === 'time_zone') {
      await moveTasks(
        client,
        those.map((one) => one.id),
      )
    }
  }
}
