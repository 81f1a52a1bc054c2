import { db } from '../server/db/pool'
import { nowAndPlaybook } from '../server/engine/nowAndPlaybook'
import { firstInQueue } from '../server/services/desk/queue'
import { quantile, time, type Measured } from './measure'
import { addCrowd, addUser, freshWorld } from './world'
import { firstRow, sql } from '../server/db/sql'

/**
 * The first 50 of the Desk's queue for a rep with 2,000 due among 200,000 prospects, against one select by primary key.
 */
export async function measureQueue(): Promise<Measured> {
  const world = await freshWorld('bench_queue')
  const rep = await addUser('rep', 'Bench Rep')
  const others = await addUser('rep', 'Everyone Else')
  await addCrowd(200_000, others.id)
  await db().query(
    sql`
      insert into tasks (id, prospect_id, owner_id, kind, priority, title, due_at, status, time_zone)
      select
        gen_random_uuid(), id, case when n <= 2000 then $1::uuid else $2::uuid end,
        case when n % 5 = 0 then 'call_back' when n % 41 = 0 then 'reply' else 'call' end,
        case when n % 5 = 0 then 1 when n % 41 = 0 then 0 else 2 end, 'Call',
        world_now() - n % 5000 * interval '1 minute', 'open',
        (array['America/New_York', 'America/Los_Angeles', 'Europe/London', 'Asia/Tokyo'])[1 + n % 4]
      from (select id, row_number() over (order by id) as n from prospects) p
    `,
    [rep.id, others.id],
  )
  await db().query(
    sql`
      insert into touches (id, prospect_id, kind, at, user_id, counts_as)
      select gen_random_uuid(), prospect_id, 'call', world_now() - interval '3 days', owner_id, 'attempt'
      from tasks
      where owner_id = $1
    `,
    [rep.id],
  )
  await db().query('vacuum analyze')
  const one = await firstRow(db().query<{ id: string }>(sql`select id from prospects limit 1`))
  const baseline = () =>
    db().query({ name: 'by-key', text: sql`select * from prospects where id = $1`, values: [one!.id] })
  const front = async () => {
    const { now, book } = await nowAndPlaybook()
    return firstInQueue(rep, 50, now, book)
  }
  for (let warm = 0; warm < 100; warm++) await Promise.all([baseline(), front()])
  const ours: number[] = []
  const theirs: number[] = []
  for (let round = 0; round < 400; round++) {
    theirs.push(await time(baseline))
    ours.push(await time(() => front()))
  }
  const items = await front()
  if (items.length !== 50) throw new Error(`${items.length} in the queue`)
  await world.leave()
  return {
    what: 'First 50 of the queue, 2,000 due among 200,000',
    baseline: 'one select by primary key',
    ours: quantile(ours, 0.95),
    theirs: quantile(theirs, 0.95),
    unit: 'ms at p95',
    ratio: quantile(ours, 0.95) / quantile(theirs, 0.95),
    atMost: 12,
  }
}
