import { randomUUID } from 'node:crypto'
import { db } from '../server/db/pool'
import { sql } from '../server/db/sql'
import { forecastLaunch } from '../server/services/cadences/launch'
import { median, quantile, time } from './measure'
import { addCrowd, addUser, freshWorld } from './world'

const PEOPLE = 10_000
const ROUNDS = 7

/** What is said before a cadence of four steps is started with 10,000 people, all at once and 60 a day. */
export async function measureForecast(): Promise<string[]> {
  const world = await freshWorld('bench_forecast')
  const manager = await addUser('manager', 'Manager')
  const reps = await Promise.all(Array.from({ length: 10 }, (_, n) => addUser('rep', `Rep ${n}`)))
  await addCrowd(PEOPLE, reps[0]!.id)
  await db().query(
    sql`
      update prospects p
      set owner_id = ($1::uuid[])[1 + r.n % $2]
      from (select id, row_number() over () as n from prospects) r
      where r.id = p.id
    `,
    [reps.map(({ id }) => id), reps.length],
  )
  const cadenceId = randomUUID()
  await db().query(
    sql`
      insert into cadences (id, name, status, created_at)
      values ($1, 'Bench', 'active', world_now())
    `,
    [cadenceId],
  )
  await db().query(
    sql`
      insert into cadence_steps (id, cadence_id, position, kind, wait_amount, wait_unit, name, subject, body)
      select new_id(), $1, s.position, s.kind, s.wait, 'business_days', s.kind, 'The night it drifted', 'Hello'
      from (values (0, 'call', 0), (1, 'email', 1), (2, 'call', 2), (3, 'email', 3)) as s(position, kind, wait)
    `,
    [cadenceId],
  )
  await db().query(sql`update team set playbook_version = playbook_version + 1`)
  const { rows } = await db().query<{ id: string }>(sql`select id from prospects`)
  const who = { prospectIds: rows.map(({ id }) => id) }
  const said: string[] = []
  for (const perDay of [null, 60]) {
    const took: number[] = []
    for (let round = 0; round < ROUNDS; round++) {
      took.push(await time(() => forecastLaunch(manager, cadenceId, { who, startAt: null, perDay })))
    }
    const [middle, most] = [median(took), quantile(took, 0.95)].map((ms) => ms.toFixed(0))
    const how = perDay === null ? 'all at once' : `${perDay} a day`
    said.push(`forecast of a launch, 10,000 people, ${how}: ${middle} ms, at most ${most} ms (asked: under 2 s)`)
  }
  await world.leave()
  return said
}
