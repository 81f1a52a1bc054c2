import { suspect, type Likeness, type Suspicion } from '#core/text/duplicates'
import type { Id, Instant } from '#core/instant'
import { db } from '../../db/pool'
import { limitedTo, mustSee, visible } from '../access/access'
import { Refusal } from '../access/errors'
import type { Viewer } from '../access/viewer'
import { sql } from '../../db/sql'

/** Keeps that two people only look alike. */
export async function tellApart(viewer: Viewer, ids: readonly [Id, Id]): Promise<void> {
  for (const id of ids) await mustSee(viewer, id)
  const [one, other] = [...ids].sort()
  if (one === other) {
    throw new Refusal('invalid', 'Choose two prospects', [{ field: 'ids', message: 'Choose two prospects' }])
  }
  await db().query(
    sql`
      insert into not_duplicates (one_id, other_id, by_id, at)
      values ($1, $2, $3, world_now())
      on conflict do nothing
    `,
    [one, other, viewer.id],
  )
}

interface Shown extends Likeness {
  id: Id
  name: string
  title: string | null
  company: string | null
  stage: string
  owner: string | null
  touches: number
  createdAt: Instant
}

/** More people than this on one number share a switchboard, not a name. */
const SWITCHBOARD = 5

/** How many pairs are looked at. */
const LOOKED_AT = 2_000

/**
 * Pairs of people who may be one, the surest first; of one person, where `about` is given. Pairs marked as not
 * duplicates are left out.
 */
export async function findDuplicates(
  viewer: Viewer,
  about: Id | null,
  limit: number,
): Promise<{ pairs: { one: Shown; other: Shown; sureness: number; reasons: string[] }[] }> {
  if (about) await mustSee(viewer, about)
  // Of one person it is asked along the indexes, from them to everyone else; of all, each pair once.
  const both = `${about ? 'a.id = $2::uuid and b.id <> a.id' : '$2::uuid is null and b.id > a.id'} and ${visible('a', '$1')} and ${visible('b', '$1')}`
  const alike = about
    ? `union select a.id, b.id from prospects a join prospects b on b.name_key = a.name_key where ${both}`
    : ''
  const { rows } = await db().query<{ one: Id; other: Id }>(
    sql`
      with pairs as (
        select a.id as one, b.id as other
        from prospects a
          join phones x on x.prospect_id = a.id
          join phones y on y.number = x.number
          join prospects b on b.id = y.prospect_id
        where (select count(*) from (select from phones z where z.number = x.number limit ${SWITCHBOARD + 1}) c) <=
            ${SWITCHBOARD}
          and ${both}
        union
        select a.id, b.id
        from prospects a
          join prospects b on b.company_id = a.company_id
            and split_part(b.name_key, ' ', -1) = split_part(a.name_key, ' ', -1)
        where ${both} ${alike}
      )
      select one, other
      from pairs
      where not exists (
          select from not_duplicates t where t.one_id = least(one, other) and t.other_id = greatest(one, other)
        )
      limit ${LOOKED_AT}
    `,
    [limitedTo(viewer), about],
  )
  const shown = await describeAll([...new Set(rows.flatMap((row) => [row.one, row.other]))])
  const judged = rows.flatMap(({ one, other }) => {
    const [a, b] = [shown.get(one)!, shown.get(other)!]
    const suspicion: Suspicion | null = suspect(a, b)
    return suspicion ? [{ one: a, other: b, ...suspicion }] : []
  })
  return {
    pairs: judged.sort((a, b) => b.sureness - a.sureness || a.one.name.localeCompare(b.one.name)).slice(0, limit),
  }
}

async function describeAll(ids: readonly Id[]): Promise<ReadonlyMap<Id, Shown>> {
  const { rows } = await db().query<Shown>(
    sql`
      select
        p.id, p.first_name as "firstName", p.last_name as "lastName",
        btrim(p.first_name || ' ' || p.last_name) as name, p.title, p.company_id as "companyId", c.name as company,
        s.name as stage, u.name as owner, ms(p.created_at) as "createdAt",
        array(select number from phones n where n.prospect_id = p.id order by position) as phones,
        array(select address from email_addresses e where e.prospect_id = p.id order by position) as emails,
        (select count(*) from touches t where t.prospect_id = p.id) as touches
      from prospects p
        left join companies c on c.id = p.company_id
        join stages s on s.id = p.stage_id
        left join users u on u.id = p.owner_id
      where p.id = any($1::uuid[])
    `,
    [ids],
  )
  return new Map(rows.map((row) => [row.id, row]))
}
