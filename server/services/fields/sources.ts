import { tidy } from '#core/text/names'
import { transaction, db, type Db } from '../../db/pool'
import { notFound, Refusal } from '../access/errors'
import { firstRow, sql } from '../../db/sql'

/** Where people come from: name, cost in the team's currency, other names in files, and what it brought. */
export interface Source {
  name: string
  cost: number
  aliases: string[]
  people: number
  /** Who answered or was spoken to. */ reached: number
  meetings: number
  opened: number
  deals: number
  wonValue: number
}

/**
 * The sources by name, each with what it cost and brought: people, those of them who were reached or met, deals opened
 * and won, with what the won are worth.
 */
export async function listSources(): Promise<{ sources: Source[] }> {
  const { rows } = await db().query<Source>(sql`
    with people as (
      select
        source, count(*)::int as people,
        count(*) filter (where conversations > 0 or last_reply_at is not null)::int as reached,
        count(*) filter (where last_meeting_at is not null)::int as meetings
      from prospects
      where source is not null and merged_into is null
      group by source
    ),
    brought as (
      select
        p.source, count(*)::int as opened, count(*) filter (where d.status = 'won')::int as deals,
        coalesce(sum(d.value) filter (where d.status = 'won'), 0)::float8 as value
      from deals d
        join prospects p on p.id = d.prospect_id
      where p.source is not null
      group by p.source
    )
    select
      s.name, s.cost::float8 as cost, s.aliases, coalesce(p.people, 0) as people, coalesce(p.reached, 0) as reached,
      coalesce(p.meetings, 0) as meetings, coalesce(b.opened, 0) as opened, coalesce(b.deals, 0) as deals,
      coalesce(b.value, 0) as "wonValue"
    from sources s
      left join people p on p.source = s.name
      left join brought b on b.source = s.name
    order by lower(s.name)
  `)
  return { sources: rows }
}

/**
 * Says what a source costs and what else it is called. People who came under another of its names come from it from
 * then on.
 */
export async function saveSource(
  name: string,
  given: { cost: number; aliases: readonly string[] },
): Promise<{ people: number }> {
  const aliases = [
    ...new Set(given.aliases.map(tidy).filter((alias) => alias && alias.toLowerCase() !== name.toLowerCase())),
  ]
  return transaction(async (client) => {
    await client.query(sql`select pg_advisory_xact_lock(hashtext('sources'))`)
    const taken = await firstRow(
      client.query<{ name: string; alias: string }>(
        sql`
          select s.name, a.alias
          from sources s
            cross join lateral unnest(s.aliases) a(alias)
          where lower(s.name) <> lower($1) and lower(a.alias) = any(select lower(n) from unnest($2::text[] || $1) n)
          limit 1
        `,
        [name, aliases],
      ),
    )
    if (taken) {
      throw new Refusal('conflict', `“${taken.alias}” is already an alias of “${taken.name}”`, [
        { field: 'aliases', message: `“${taken.alias}” is already an alias of “${taken.name}”` },
      ])
    }
    await client.query(
      sql`
        insert into sources (name, cost, aliases)
        values ($1, $2, $3)
        on conflict (lower(name)) do update set cost = excluded.cost, aliases = excluded.aliases
      `,
      [name, given.cost, aliases],
    )
    // What was a source of its own and is now another name of this one.
    await client.query(
      sql`
        delete from sources
        where lower(name) = any(select lower(a) from unnest($1::text[]) a)
      `,
      [aliases],
    )
    const { rowCount } = await client.query(
      sql`
        update prospects
        set source = (select name from sources where lower(name) = lower($1))
        where lower(source) = any(select lower(a) from unnest($2::text[]) a)
      `,
      [name, aliases],
    )
    return { people: rowCount ?? 0 }
  })
}

/** Removes a source that nobody comes from. */
export async function removeSource(name: string): Promise<void> {
  const used = await firstRow(db().query(sql`select from prospects where source = $1 limit 1`, [name]))
  if (used) {
    throw new Refusal('refused', 'Prospects have this source. Make it an alias of another source instead')
  }
  const { rowCount } = await db().query(sql`delete from sources where name = $1`, [name])
  if (!rowCount) throw notFound('source')
}

/** The name a source goes by, kept as a new one where nobody knows it. Null for none. */
export async function sourceNamed(given: string | null | undefined, client: Db): Promise<string | null> {
  const wanted = given ? tidy(given) : ''
  if (!wanted) return null
  const known = await firstRow(
    client.query<{ name: string }>(
      sql`
        select name
        from sources
        where lower(name) = lower($1) or lower($1) = any(select lower(a) from unnest(aliases) a)
        order by (lower(name) = lower($1)) desc
        limit 1
      `,
      [wanted],
    ),
  )
  if (known) return known.name
  const made = await firstRow(
    client.query<{ name: string }>(
      sql`
        insert into sources (name)
        values ($1)
        on conflict (lower(name)) do update set cost = sources.cost
        returning name
      `,
      [wanted],
    ),
  )
  return made!.name
}
