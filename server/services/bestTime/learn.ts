import { learnBestTimes, type BestTimeModel, type LearnedCalls } from '#core/stats/bestTime'
import { db, transaction } from '../../db/pool'
import { firstRow, sql } from '../../db/sql'

/** The kind of company `c` that a chance is learned for, as an expression. */
export const KIND_OF_COMPANY = `lower(btrim(coalesce(c.industry, '')))`

/**
 * Works out what the calls of the last year came to, by kind of company and hour of the week where the people are now.
 * Only calls that were logged with an outcome count; one that was neither an attempt nor a conversation does not. Run
 * by several at once, it comes to the same.
 */
export async function learnCallHours(): Promise<void> {
  await transaction(async (client) => {
    await client.query(sql`lock table call_hours in share row exclusive mode`)
    await client.query(sql`delete from call_hours`)
    await client.query(sql`
      -- Zones that PostgreSQL does not know would stop all of it.
      with zones as materialized (
        select name
        from pg_timezone_names
      )
      insert into call_hours (industry, weekday, hour, calls, reached, learned_at)
      select
        ${KIND_OF_COMPANY}, extract(isodow from t.at at time zone z.name)::int,
        extract(hour from t.at at time zone z.name)::int, count(*),
        count(*) filter (where t.counts_as = 'conversation'), clock_timestamp()
      from touches t
        join prospects p on p.id = t.prospect_id
        join zones z on z.name = p.time_zone
        left join companies c on c.id = p.company_id
      where t.kind = 'call'
        and t.outcome_id is not null
        and t.counts_as in ('attempt', 'conversation')
        and t.at > world_now() - interval '1 year'
      group by 1, 2, 3
    `)
  })
}

let learned: { version: string; model: BestTimeModel | null } | null = null

/** What the team's calls teach, as of the last time it was worked out; null before the first call. */
export async function bestTimeModel(): Promise<BestTimeModel | null> {
  const row = await firstRow(
    db().query<{ version: string }>({
      name: 'call-hours-version',
      text: sql`select max(learned_at)::text || ' ' || count(*) as version from call_hours`,
    }),
  )
  const version = row!.version ?? ''
  if (learned?.version !== version) {
    const { rows } = await db().query<LearnedCalls>(sql`
      select nullif(industry, '') as industry, weekday, hour, calls as "all", reached as count
      from call_hours
    `)
    learned = { version, model: learnBestTimes(rows) }
  }
  return learned.model
}
