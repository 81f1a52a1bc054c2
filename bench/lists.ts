import { randomUUID } from 'node:crypto'
import { db } from '../server/db/pool'
import { runBulk } from '../server/services/bulk/runBulk'
import { startBulk } from '../server/services/bulk/bulk'
import { listLists } from '../server/services/lists/lists'
import { countAsked, findPeople } from '../server/services/lists/people'
import { median, quantile, time, type Measured } from './measure'
import { millionWorld } from './million'
import { firstRow, sql } from '../server/db/sql'

const COUNTS = [
  {
    what: 'Count of five conditions, few fit',
    sentence:
      'rating is hot and stage is "Attempting" and attempts is at least 7 and last call is in the last 30 days and country is "CA"',
    sql: sql`
      select count(*) as count
      from prospects
      where status <> 'archived'
        and rating = 'hot'
        and stage_id = 'attempting'
        and attempts >= 7
        and last_call_at >= $1
        and lower(country) = 'ca'
    `,
    atMost: 1.1,
  },
  {
    what: 'Count of five conditions, many fit',
    sentence:
      'rating is not set and stage is any of "New", "Attempting" and attempts is at least 2 and last call is more than 30 days ago and do not call is no',
    sql: sql`
      select count(*) as count
      from prospects
      where status <> 'archived'
        and rating is null
        and stage_id in ('new', 'attempting')
        and attempts >= 2
        and last_call_at < $1
        and not stop_call
    `,
    atMost: 0.2,
  },
]

/**
 * Lists among 1,000,000 people with 10,000,000 touches: counts, first rows and a change of many, each beside plain SQL.
 */
export async function measureLists(): Promise<Measured[]> {
  const { manager, rep, leave } = await millionWorld()
  const size = await firstRow(
    db().query<{ people: number; touches: number; since: Date }>(
      sql`
        select
          (select count(*) from prospects) as people, (select count(*) from touches) as touches,
          world_now() - interval '30 days' as since
      `,
    ),
  )
  const measured: Measured[] = []
  for (const { what, sentence, sql, atMost } of COUNTS) {
    const ours: number[] = []
    const theirs: number[] = []
    let found = { count: 0, exact: true }
    let exact = 0
    for (let round = 0; round < 12; round++) {
      const before = await time(async () => {
        exact = (await db().query<{ count: number }>(sql, [size!.since])).rows[0]!.count
      })
      const own = await time(async () => {
        found = await countAsked(manager, { filter: sentence })
      })
      if (round < 2) continue
      theirs.push(before)
      ours.push(own)
    }
    if (Math.abs(found.count - exact) > (found.exact ? 0 : 0.1 * exact)) {
      throw new Error(`${what}: ${found.count} where there are ${exact}`)
    }
    measured.push({
      what: `${what}: ${found.exact ? '' : 'about '}${found.count} of ${size!.people}, of whom ${exact} do`,
      baseline: 'the exact count in SQL by hand',
      ours: median(ours),
      theirs: median(theirs),
      unit: 'ms',
      ratio: median(ours) / median(theirs),
      atMost,
    })
  }
  const one = await firstRow(db().query<{ id: string }>(sql`select id from prospects limit 1`))
  const byKey = () =>
    db().query({ name: 'by-key', text: sql`select * from prospects where id = $1`, values: [one!.id] })
  const columns = ['companyName', 'stage', 'lastTouch', 'nextAction', 'owner']
  for (const list of [
    ...(await listLists(manager)).lists,
    ...(await listLists(rep)).lists.filter((own) => own.visibility === 'me'),
  ]) {
    const viewer = list.visibility === 'me' ? rep : manager
    const first = () => findPeople(viewer, { list: list.id, columns, sort: list.sort, limit: 100 })
    for (let warm = 0; warm < 5; warm++) await Promise.all([byKey(), first()])
    const ours: number[] = []
    const theirs: number[] = []
    for (let round = 0; round < 60; round++) {
      theirs.push(await time(byKey))
      ours.push(await time(first))
    }
    const { people } = await first()
    measured.push({
      what: `First ${people.length} of “${list.name}” among ${size!.people}, ${size!.touches} touches`,
      baseline: 'one select by primary key',
      ours: quantile(ours, 0.95),
      theirs: quantile(theirs, 0.95),
      unit: 'ms at p95',
      ratio: quantile(ours, 0.95) / quantile(theirs, 0.95),
      atMost: 15,
    })
  }
  measured.push(await measureBulk(manager, rep))
  await leave()
  return measured
}

async function measureBulk(
  manager: Awaited<ReturnType<typeof millionWorld>>['manager'],
  rep: { id: string },
): Promise<Measured> {
  const { rows } = await db().query<{ id: string }>(
    sql`select id from prospects where owner_id <> $1 order by id limit 300000`,
    [rep.id],
  )
  const part = (n: number) => rows.slice(n * 100_000, (n + 1) * 100_000).map((row) => row.id)
  // Whom each way changes lies beside whom the other changes, among people who are alike.
  const theirs = await time(() =>
    db().query(
      sql`
        update prospects
        set owner_id = $2, version = version + 1
        where id = any($1::uuid[])
      `,
      [part(0), rep.id],
    ),
  )
  const ours = await time(async () => {
    const { id } = await startBulk(manager, {
      id: randomUUID(),
      action: { type: 'assign', to: [rep.id] },
      prospectIds: part(1),
    })
    await runBulk(id)
  })
  return {
    what: 'Assign 100,000 of them, counted, logged and accounted for',
    baseline: 'one plain UPDATE of as many',
    ours,
    theirs,
    unit: 'ms',
    ratio: ours / theirs,
    atMost: 3,
  }
}
