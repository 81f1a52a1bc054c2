import type pg from 'pg'
import { addLists } from '../demo/lists'
import { db } from '../server/db/pool'
import type { Viewer } from '../server/services/access/viewer'
import { addUser, freshWorld } from './world'
import { firstRow, sql } from '../server/db/sql'

const PEOPLE = 1_000_000
/** Touches a person has on average. */
const TOUCHES = 10

/**
 * A team of forty with a million prospects at a quarter of a million companies and ten million touches of two years,
 * made set by set from a hash of each one's number, so that every run measures the same world; with the lists of the
 * demo.
 */
export async function millionWorld(): Promise<{
  manager: Viewer & { password: string }
  rep: Viewer & { password: string }
  leave(): Promise<void>
}> {
  const world = await freshWorld('bench_million')
  const manager = await addUser('manager', 'Maren Halloran')
  const rep = await addUser('rep', 'Imani Osei')
  for (let n = 0; n < 38; n++) await addUser('rep', `Rep ${n}`)
  const client = await db().connect()
  try {
    // Rows are made to fit each other, so that nothing has to be asked row by row; what hangs on them is worked out
    // after.
    await client.query(
      `set session_replication_role = replica; set synchronous_commit = off; set work_mem = '256MB'; set maintenance_work_mem = '512MB'; alter table prospects disable trigger prospects_placed`,
    )
    await client.query(
      `create function pg_temp.roll(n bigint, salt int, sides int) returns int language sql immutable as $$ select ((hashint8(n * 131 + salt)::bigint & 2147483647) % sides)::int $$`,
    )
    await client.query(
      `create function pg_temp.key(kind int, n bigint) returns uuid language sql immutable as $$ select ('0000000' || to_hex(kind) || '-' || substr(lpad(to_hex(n), 16, '0'), 1, 4) || '-4000-8000-' || substr(lpad(to_hex(n), 16, '0'), 5, 12))::uuid $$`,
    )
    await client.query(
      sql`
        create temp table team_users as select id,
        row_number() over (order by email) - 1 as n from users where role = 'rep'
      `,
    )
    await client.query(
      sql`
        insert into companies (
          id, name, name_key, domain, status, country, region, city, industry, size, created_at
        )
        select
          pg_temp.key(1, n), 'Company ' || n, 'company ' || n, 'c' || n || '.example',
          case
            when pg_temp.roll(n, 1, 50) = 0 then 'customer'
            when pg_temp.roll(n, 1, 50) = 1 then 'not_a_fit'
            else 'open'
          end, (array['US', 'US', 'US', 'CA', 'GB', 'DE'])[1 + pg_temp.roll(n, 2, 6)], null,
          'Town ' || pg_temp.roll(n, 3, 900),
          (array['cheese', 'cider', 'seed vault', 'museum store', 'cold warehouse'])[1 + pg_temp.roll(n, 4, 5)],
          pg_temp.roll(n, 5, 400), world_now() - interval '720 days'
        from generate_series(1, $1::int) n
      `,
      [PEOPLE / 4],
    )
    await withoutIndexes(client, 'prospects', () =>
      client.query(
        sql`
          insert into prospects (
            id, first_name, last_name, name_key, title, company_id, owner_id, stage_id, time_zone, country, city,
            source,
            rating, status, stop_call, custom, created_at
          )
          select
            pg_temp.key(2, i), 'Person', 'No ' || i, 'person no ' || i, 'Cellar master', pg_temp.key(1, 1 + i / 4),
            u.id,
            (
              array['new', 'new', 'attempting', 'attempting', 'attempting', 'in_conversation', 'nurture',
              'unreached']
            )[1 + pg_temp.roll(i, 6, 8)], 'America/New_York',
            (array['US', 'US', 'US', 'CA', 'GB', 'DE'])[1 + pg_temp.roll(i / 4 + 1, 2, 6)],
            'Town ' || pg_temp.roll(i / 4 + 1, 3, 900),
            (array['Cold chain fair', 'Bought', 'Website', null])[1 + pg_temp.roll(i, 7, 4)],
            case
              when pg_temp.roll(i, 8, 100) < 5 then 'hot'
              when pg_temp.roll(i, 8, 100) < 20 then 'warm'
              when pg_temp.roll(i, 8, 100) < 40 then 'cold'
            end,
            case
              when pg_temp.roll(i, 9, 100) < 2 then 'archived'
              when pg_temp.roll(i, 9, 100) < 6 then 'paused'
              else 'active'
            end, pg_temp.roll(i, 10, 60) = 0, '{}',
            world_now() - pg_temp.roll(i, 11, 720 * 1440) * interval '1 minute'
          from generate_series(0, $1::int - 1) i
            join team_users u on u.n = pg_temp.roll(i, 12, 39)
        `,
        [PEOPLE],
      ),
    )
    await client.query(
      sql`
        insert into email_addresses (id, prospect_id, address)
        select pg_temp.key(3, n), pg_temp.key(2, n), 'p' || n || '@c' || (1 + n / 4) || '.example'
        from generate_series(0, $1::int - 1) n
      `,
      [PEOPLE],
    )
    await client.query(
      sql`
        insert into phones (id, prospect_id, number)
        select
          pg_temp.key(4, n), pg_temp.key(2, n),
          '+1' || (201 + n % 700) || '555' || lpad((n / 700 % 10000)::text, 4, '0')
        from generate_series(0, $1::int - 1) n
      `,
      [PEOPLE],
    )
    await client.query(
      sql`
        insert into tags (id, name, created_at)
        values (gen_random_uuid(), 'Met at the fair', world_now()), (gen_random_uuid(), 'Two sites', world_now())
      `,
    )
    await client.query(
      sql`
        insert into prospect_tags (prospect_id, tag_id)
        select pg_temp.key(2, n), t.id
        from generate_series(0, $1::int - 1) n
          join tags t on pg_temp.roll(n, case when t.name = 'Two sites' then 13 else 14 end, 100) < 2
      `,
      [PEOPLE],
    )
    await client.query(
      sql`
        create temp table kinds as select row_number() over (order by position) - 1 as n, id,
        counts_as from outcomes where counts_as <> 'none'
      `,
    )
    const outcomes = await firstRow(client.query<{ count: number }>(sql`select count(*) as count from kinds`))
    // Between nobody ever and twice the average, at moments between when they were added and now.
    await withoutIndexes(client, 'touches', () =>
      client.query(
        sql`
          insert into touches (id, prospect_id, kind, at, user_id, outcome_id, counts_as)
          select
            pg_temp.key(5, t.m), pg_temp.key(2, t.n), t.kind,
            world_now() - t.age * (pg_temp.roll(t.m, 15, 1000) / 1000.0), u.id, o.id,
            coalesce(o.counts_as, 'none')
          from (
            select
              g as n, g * 32::bigint + k as m, pg_temp.roll(g, 11, 720 * 1440) * interval '1 minute' as age,
              pg_temp.roll(g, 12, 39) as owner,
              (
                array['call', 'call', 'call', 'call', 'call', 'call', 'call', 'call', 'call', 'call', 'email',
                'email', 'email', 'email', 'email', 'email', 'email', 'text', 'text', 'reply', 'meeting']
              )[1 + pg_temp.roll(g * 32::bigint + k, 16, 21)] as kind
            from generate_series(0, $1::int - 1) g
              cross join lateral generate_series(1, pg_temp.roll(g, 17, 2 * $2::int + 1)) k
          ) t
            join team_users u on u.n = t.owner
            left join kinds o on t.kind = 'call' and o.n = pg_temp.roll(t.m, 18, $3::int)
        `,
        [PEOPLE, TOUCHES, outcomes!.count],
      ),
    )
    await client.query(sql`
      insert into deals (id, company_id, prospect_id, owner_id, name, status, likelihood, opened_at, value)
      select
        gen_random_uuid(), c.id, p.id, p.owner_id, 'First order', 'won', 100, world_now() - interval '200 days',
        1800
      from companies c
        join lateral (select * from prospects p where p.company_id = c.id limit 1) p on true
      where c.status = 'customer'
    `)
    await client.query(
      sql`
        insert into tasks (id, prospect_id, owner_id, kind, priority, title, due_at, status, time_zone)
        select
          pg_temp.key(6, n), p.id, p.owner_id, 'call', 2, 'Call',
          world_now() + (pg_temp.roll(n, 19, 20) - 10) * interval '1 day', 'open', p.time_zone
        from generate_series(0, $1::int - 1) n
          join prospects p on p.id = pg_temp.key(2, n)
        where pg_temp.roll(n, 20, 10) = 0
      `,
      [PEOPLE],
    )
    for (let from = 0; from < PEOPLE; from += 20_000) {
      await client.query(
        sql`
          select count_touches(
            array(select pg_temp.key(2, n) from generate_series($1::int, $1::int + 19999) n)
          )
        `,
        [from],
      )
    }
    await client.query(
      `set session_replication_role = origin; alter table prospects enable always trigger prospects_placed`,
    )
    // The table is written again, as it would lie after years of vacuuming.
    await client.query('vacuum full prospects')
    await client.query('vacuum analyze')
  } finally {
    client.release(true)
  }
  await addLists(manager, rep)
  await db().query('analyze lists; analyze list_members')
  return { manager, rep, leave: world.leave }
}

/** Fills a table while its indexes are away, the primary key aside, and makes them again. */
async function withoutIndexes(client: pg.PoolClient, table: string, fill: () => Promise<unknown>): Promise<void> {
  const { rows } = await client.query<{ indexname: string; indexdef: string }>(
    sql`
      select indexname, indexdef
      from pg_indexes
      where tablename = $1 and indexname <> $1 || '_pkey'
    `,
    [table],
  )
  for (const { indexname } of rows) await client.query(sql`drop index ${indexname}`)
  await fill()
  for (const { indexdef } of rows) await client.query(indexdef)
}
