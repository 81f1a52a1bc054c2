import { randomUUID } from 'node:crypto'
import { brief } from '../server/services/desk/brief'
import { logOutcome } from '../server/services/desk/outcomes'
import { db } from '../server/db/pool'
import { firstRow, sql } from '../server/db/sql'
import type { Viewer } from '../server/services/access/viewer'
import { median, quantile, time, type Measured } from './measure'
import { addUser, freshWorld } from './world'

const SMALL = 10
const LARGE = 10_000
const ROUNDS = 40

/** A company with so many people, each with a number, an address and three calls of before; gives their ids. */
async function addCompany(people: number, ownerId: string): Promise<string[]> {
  const companyId = randomUUID()
  await db().query(
    sql`
      insert into companies (id, name, name_key, created_at)
      values ($1, 'Company of ' || $2::int, 'company of ' || $2::int, world_now())
    `,
    [companyId, people],
  )
  const { rows } = await db().query<{ id: string }>(
    sql`
      insert into prospects (
        id, first_name, last_name, name_key, company_id, owner_id, stage_id, time_zone, country, region, created_at
      )
      select
        gen_random_uuid(), 'Person', 'No ' || n, 'person no ' || n, $1, $2, 'attempting', 'America/New_York', 'US',
        'NY', world_now()
      from generate_series(1, $3::int) n
      returning id
    `,
    [companyId, ownerId, people],
  )
  const ids = rows.map(({ id }) => id)
  await db().query(
    sql`
      insert into phones (id, prospect_id, number)
      select gen_random_uuid(), id, '+1212555' || lpad((row_number() over () % 10000)::text, 4, '0')
      from unnest($1::uuid[]) id
    `,
    [ids],
  )
  await db().query(
    sql`
      insert into email_addresses (id, prospect_id, address)
      select gen_random_uuid(), id, id || '@company.example'
      from unnest($1::uuid[]) id
    `,
    [ids],
  )
  await db().query(
    sql`
      insert into touches (id, prospect_id, kind, at, user_id, counts_as)
      select gen_random_uuid(), id, 'call', world_now() - n * interval '7 days', $2, 'attempt'
      from unnest($1::uuid[]) id
        cross join generate_series(1, 3) n
    `,
    [ids, ownerId],
  )
  return ids
}

/** Logs an outcome as its prospect was seen; gives how long that takes. */
async function logCall(viewer: Viewer, prospectId: string, outcomeId: string): Promise<number> {
  const seen = await brief(viewer, prospectId, null)
  const outcome = seen.outcomes.find(({ id }) => id === outcomeId)!
  return time(() =>
    logOutcome(viewer, prospectId, {
      id: randomUUID(),
      outcomeId,
      taskId: null,
      phoneId: seen.prospect.phones[0]!.id,
      details: {},
      fingerprint: outcome.fingerprint,
    }),
  )
}

/** Logging a call with someone at a company of 10,000 against one of 10, and how long it takes to open them. */
export async function measureCompany(): Promise<(Measured | string)[]> {
  const world = await freshWorld('bench_company')
  const rep = await addUser('rep', 'Rep')
  const [small, large] = [await addCompany(SMALL * ROUNDS, rep.id), await addCompany(LARGE, rep.id)]
  // Forty companies of ten: in each round another person, at either.
  await db().query(
    sql`
      with numbered as (
        select id, (row_number() over (order by id) - 1) / $2::int as company
        from unnest($1::uuid[]) id
      ),
      made as (
        insert into companies (id, name, name_key, created_at)
        select gen_random_uuid(), 'Small ' || n, 'small ' || n, world_now()
        from generate_series(0, $3::int - 1) n
        returning id, name
      )
      update prospects p
      set company_id = m.id
      from numbered n
        join made m on m.name = 'Small ' || n.company
      where p.id = n.id
    `,
    [small, SMALL, ROUNDS],
  )
  await db().query('vacuum analyze')
  const outcome = await firstRow(db().query<{ id: string }>(sql`select id from outcomes where name = 'No answer'`))
  const took = { brief: [[], []] as number[][], event: [[], []] as number[][] }
  for (let round = 0; round < ROUNDS; round++) {
    for (const [place, id] of [small[round * SMALL]!, large[round]!].entries()) {
      took.brief[place]!.push(await time(() => brief(rep, id, null)))
      took.event[place]!.push(await logCall(rep, id, outcome!.id))
    }
  }
  await world.leave()
  const [theirs, ours] = took.event.map(median) as [number, number]
  return [
    {
      what: 'logging a call, company of 10,000',
      baseline: 'a company of 10',
      ours,
      theirs,
      unit: 'ms',
      ratio: ours / theirs,
      atMost: 2,
    },
    `opening a prospect at a company of 10,000, 95th percentile: ${quantile(took.brief[1]!, 0.95).toFixed(0)} ms (asked: under 500 ms)`,
  ]
}
