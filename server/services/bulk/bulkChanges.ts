import { isZone } from '#core/places/isZone'
import { readCountry } from '#core/places/lookUp'
import { readCustomValue, type CustomValue } from '#core/text/customValue'
import type { Id } from '#core/instant'
import type { Db } from '../../db/pool'
import { sayUserChanged } from '../../db/userChanges'
import { mustBeOnTeam } from '../access/access'
import { COLUMNS } from './bulkValues'
import { listFields } from '../fields/customFields'
import { Refusal } from '../access/errors'
import { readList } from '../lists/listAccess'
import type { Viewer } from '../access/viewer'
import { sourceNamed } from '../fields/sources'
import { addTag } from '../fields/tags'
import { followAddress, moveTasks } from '../fields/zones'
import { sql } from '../../db/sql'
import type { PlainAction } from './plainAction'

const LONGEST: Record<string, number> = { region: 60, postalCode: 20 }

/** Checks what an action names: people, lists, fields, values. Throws at the part that is wrong. */
export async function checkPlain(viewer: Viewer, action: PlainAction, client: Db): Promise<void> {
  if (action.type === 'assign') for (const userId of action.to) await mustBeOnTeam(userId, client)
  if (action.type === 'putOn') {
    const list = await readList(viewer, action.listId, { edit: true, client })
    if (list.kind !== 'fixed') {
      throw new Refusal('invalid', 'You can’t add people to a live list', [
        { field: 'action.listId', message: 'You can’t add people to a live list' },
      ])
    }
  }
  if (action.type === 'setField') await valueOf(action, client)
}

async function valueOf({ field, value }: Extract<PlainAction, { type: 'setField' }>, client: Db): Promise<CustomValue> {
  const invalid = (message: string) => new Refusal('invalid', message, [{ field: 'action.value', message }])
  if (!field.startsWith('custom:')) {
    if (value === null || value === '') return null
    if (typeof value !== 'string' || value.length > (LONGEST[field] ?? 300)) throw invalid('Expected a short text')
    const given = value.trim() || null
    const read = given && field === 'country' ? readCountry(given) : given
    if (given && !read) throw invalid(`Unknown country “${given}”`)
    if (read && field === 'timeZone' && !isZone(read)) throw invalid(`Unknown time zone “${read}”`)
    return read
  }
  const own = (await listFields(client)).fields.find((one) => one.of === 'prospect' && `custom:${one.id}` === field)
  if (!own) {
    throw new Refusal('invalid', 'There is no such field', [
      { field: 'action.field', message: 'There is no such field' },
    ])
  }
  const read = readCustomValue(value, own.kind, own.choices)
  if ('error' in read) throw invalid(read.error)
  if (read.value === null && own.required) throw invalid(`${own.name} is required`)
  return read.value
}

/** The owner most people of a person's company have. */
const COMPANY_OWNER = sql`
  (
    select o.owner_id
    from prospects o
    where o.company_id = p.company_id and o.id <> p.id and o.owner_id is not null and o.merged_into is null
    group by o.owner_id
    order by count(*) desc, o.owner_id
    limit 1
  )
`

/** Why the action leaves someone out, as an expression over the filter's tables; null for those whom it touches. */
export async function plainReason(
  action: PlainAction,
  parameter: (value: unknown) => string,
  client: Db,
): Promise<string> {
  const unless = (condition: string, reason: string) => `case when ${condition} then ${parameter(reason)}::text end`
  const has = (tag: string) =>
    sql`
      exists (
        select
        from prospect_tags x
          join tags g on g.id = x.tag_id
        where x.prospect_id = p.id and lower(g.name) = lower(${parameter(tag)}::text)
      )
    `
  switch (action.type) {
    case 'assign':
      return action.to.length === 1
        ? unless(`p.owner_id = ${parameter(action.to[0])}::uuid`, 'is theirs already')
        : 'null::text'
    case 'assignToCompanyOwner':
      return sql`
        case
          when ${COMPANY_OWNER} is null then ${parameter('nobody else there has an owner')}::text
          when p.owner_id = ${COMPANY_OWNER} then ${parameter('is theirs already')}::text
        end
      `
    case 'tag':
      return unless(has(action.tag), 'has the tag already')
    case 'untag':
      return unless(`not ${has(action.tag)}`, 'does not have the tag')
    case 'rate':
      return unless(
        action.rating === 'score'
          ? 'p.rated_by_score'
          : `not p.rated_by_score and p.rating is not distinct from ${parameter(action.rating)}::text`,
        'is rated so already',
      )
    case 'putOn':
      return unless(
        sql`
          exists (
            select from list_members x where x.list_id = ${parameter(action.listId)}::uuid and x.prospect_id = p.id
          )
        `,
        'is on the list already',
      )
    case 'setField': {
      const value = await valueOf(action, client)
      // Emptied, the zone follows the address again.
      if (action.field === 'timeZone') {
        return value === null
          ? unless('not p.time_zone_is_manual', 'follows the address already')
          : unless(`p.time_zone = ${parameter(value)}::text and p.time_zone_is_manual`, 'has that already')
      }
      const column = COLUMNS[action.field]
      if (column) return unless(`coalesce(p.${column}, '') = ${parameter(value ?? '')}::text`, 'has that already')
      const key = `${parameter(action.field.slice('custom:'.length))}::text`
      return unless(
        value === null ? `not p.custom ? ${key}` : `p.custom -> ${key} = ${parameter(JSON.stringify(value))}::jsonb`,
        'has that already',
      )
    }
  }
}

/** Makes the change for some of the people. `place` is where each stands among all of them, for what goes in turn. */
export async function change(
  client: Db,
  action: PlainAction,
  actionId: Id,
  userId: Id,
  batch: readonly { prospect_id: Id; place: number }[],
): Promise<void> {
  const ids = batch.map((person) => person.prospect_id)
  // Always in the order of ids, as everything locks people.
  const locked = sql`
    with held as materialized (
      select id
      from prospects
      where id = any($1::uuid[])
      order by id
      for no key update
    )
  `
  const set = (assignment: string, ...values: unknown[]) =>
    client.query(
      `${locked} update prospects p set ${assignment}, version = version + 1 from held where held.id = p.id`,
      [ids, ...values],
    )
  switch (action.type) {
    case 'assign': {
      const owners = batch.map((person) => action.to[(person.place - 1) % action.to.length]!)
      await client.query(
        sql`
          ${locked}
          update prospects p
          set owner_id = given.owner, version = version + 1
          from unnest($1::uuid[], $2::uuid[]) as given(id, owner), held
          where p.id = given.id and held.id = p.id
        `,
        [ids, owners],
      )
      await client.query(
        sql`
          update tasks t
          set owner_id = given.owner
          from unnest($1::uuid[], $2::uuid[]) as given(id, owner)
          where t.prospect_id = given.id and t.status = 'open'
        `,
        [ids, owners],
      )
      sayUserChanged(client, 'queue', null)
      return
    }
    case 'assignToCompanyOwner': {
      await set(`owner_id = coalesce(${COMPANY_OWNER}, p.owner_id)`)
      await client.query(
        sql`
          update tasks t
          set owner_id = p.owner_id
          from prospects p
          where p.id = t.prospect_id and t.prospect_id = any($1::uuid[]) and t.status = 'open'
        `,
        [ids],
      )
      sayUserChanged(client, 'queue', null)
      return
    }
    case 'tag': {
      const tag = await addTag(action.tag, client)
      await client.query(
        sql`
          insert into prospect_tags (prospect_id, tag_id)
          select id, $2
          from unnest($1::uuid[]) u(id)
          order by id
          on conflict do nothing
        `,
        [ids, tag.id],
      )
      return
    }
    case 'untag':
      await client.query(
        sql`
          delete from prospect_tags x
          using tags t
          where t.id = x.tag_id and lower(t.name) = lower($2) and x.prospect_id = any($1::uuid[])
        `,
        [ids, action.tag],
      )
      return
    case 'rate':
      return void (await (action.rating === 'score'
        ? set('rated_by_score = true')
        : set('rating = $2, rated_by_score = false', action.rating)))
    case 'putOn':
      await client.query(
        sql`
          insert into list_batches (id, list_id, at, by_id, count)
          select $1, id, world_now(), $3, 0
          from lists
          where id = $2
          on conflict (id) do nothing
        `,
        [actionId, action.listId, userId],
      )
      await client.query(
        sql`
          insert into list_members (list_id, prospect_id, batch_id)
          select a.list_id, u.id, a.id
          from list_batches a, unnest($2::uuid[]) u(id)
          where a.id = $1
          order by u.id
          on conflict do nothing
        `,
        [actionId, ids],
      )
      await client.query(
        sql`
          update list_batches
          set count = (select count(*) from list_members where batch_id = $1)
          where id = $1
        `,
        [actionId],
      )
      return
    case 'setField': {
      const value = await valueOf(action, client)
      if (action.field === 'timeZone') {
        await set(
          value === null
            ? 'time_zone_is_manual = false'
            : `time_zone = $2, time_zone_from = 'given', time_zone_is_manual = true`,
          ...(value === null ? [] : [value]),
        )
        return value === null ? followAddress(client, ids) : moveTasks(client, ids)
      }
      if (action.field === 'country' || action.field === 'region') {
        await set(`${action.field} = $2`, value)
        return followAddress(client, ids)
      }
      const column = COLUMNS[action.field]
      if (column) {
        return void (await set(
          `${column} = $2`,
          action.field === 'source' ? await sourceNamed(value as string | null, client) : value,
        ))
      }
      const id = action.field.slice('custom:'.length)
      await (value === null
        ? set('custom = p.custom - $2::text', id)
        : set('custom = p.custom || $2::jsonb', JSON.stringify({ [id]: value })))
    }
  }
}
