import { execFileSync } from 'node:child_process'
import { randomUUID } from 'node:crypto'
import { once } from 'node:events'
import { connect } from 'node:net'
import { db } from '../server/db/pool'
import { addKey } from '../server/services/access/sessions'
import { betweenRounds, type Measured, type Rounds } from './measure'
import { startWeb } from './web'
import { addCrowd, addUser, freshWorld } from './world'
import { firstRow, sql } from '../server/db/sql'

const CLIENTS = 8
/** Short rounds, ours and theirs in turn. */
const SECONDS = 4
const ROUNDS = 7
const PORT = 4290

function tpcb(): number {
  const url = process.env.BENCH_CLUSTER!.replace('NAME', 'bench_pgbench')
  const out = execFileSync(
    `${process.env.PG_BIN}/pgbench`,
    ['-c', String(CLIENTS), '-j', '2', '-T', String(SECONDS), '-n', url],
    { encoding: 'utf8' },
  )
  return Number(/tps = ([\d.]+)/.exec(out)![1])
}

/**
 * A client that keeps one connection and asks one thing at a time, doing as little as it can: what it takes is not
 * ours.
 */
async function openClient(key: string): Promise<{ post(path: string, body: string): Promise<number>; close(): void }> {
  const socket = connect(PORT, '127.0.0.1')
  await once(socket, 'connect')
  let reported: (status: number) => void = () => {}
  let held = ''
  socket.setEncoding('latin1').on('data', (chunk) => {
    held += chunk
    const head = held.indexOf('\r\n\r\n')
    const length = /content-length: (\d+)/i.exec(held)
    if (head < 0 || !length || held.length < head + 4 + Number(length[1])) return
    const status = Number(held.slice(9, 12))
    held = ''
    reported(status)
  })
  return {
    post: (path, body) =>
      new Promise((resolve, reject) => {
        reported = resolve
        socket.once('close', reject)
        socket.write(
          `POST ${path} HTTP/1.1\r\nhost: 127.0.0.1:${PORT}\r\nauthorization: Bearer ${key}\r\ncontent-type: application/json\r\ncontent-length: ${Buffer.byteLength(body)}\r\n\r\n${body}`,
        )
      }).then((status) => {
        socket.removeAllListeners('close')
        return status as number
      }),
    close: () => socket.destroy(),
  }
}

/**
 * Logging an outcome with all its consequences in one HTTP call, against pgbench's TPC-B-like transaction at the same
 * number of clients.
 */
export async function measureOutcome(): Promise<Measured> {
  const cluster = process.env.BENCH_CLUSTER!
  const world = await freshWorld('bench_outcome')
  await db().query(sql`drop database if exists bench_pgbench with (force)`)
  await db().query(sql`create database bench_pgbench`)
  execFileSync(`${process.env.PG_BIN}/pgbench`, ['-i', '-q', '-s', '50', cluster.replace('NAME', 'bench_pgbench')], {
    stdio: 'ignore',
  })
  // Every client is a rep of their own with people of their own, as on a real team.
  const reps = []
  for (let n = 0; n < CLIENTS; n++) {
    reps.push(await addUser('rep', `Rep ${n}`))
    await addCrowd(60_000 / CLIENTS, reps[n]!.id)
  }
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
      insert into cadence_steps (id, cadence_id, position, kind, wait_amount, wait_unit, name)
      select gen_random_uuid(), $1, n, 'call', 1, 'business_days', 'Call ' || n
      from generate_series(0, 4) n
    `,
    [cadenceId],
  )
  await db().query(
    sql`
      with step as (
        select id
        from cadence_steps
        where cadence_id = $1 and position = 0
      ),
      e as (
        insert into enrollments (id, prospect_id, cadence_id, step_id, status, started_at)
        select gen_random_uuid(), p.id, $1, step.id, 'active', world_now()
        from prospects p, step
        returning *
      )
      insert into tasks (id, prospect_id, owner_id, kind, priority, title, due_at, status, enrollment_id, step_id,
      time_zone)
      select
        gen_random_uuid(), e.prospect_id, p.owner_id, 'call', 2, 'Call', world_now(), 'open', e.id, e.step_id,
        'America/New_York'
      from e
        join prospects p on p.id = e.prospect_id
    `,
    [cadenceId],
  )
  await db().query(sql`update team set playbook_version = playbook_version + 1`)
  await db().query('vacuum analyze')
  const outcome = await firstRow(db().query<{ id: string }>(sql`select id from outcomes where name = 'No answer'`))
  const desks: { key: string; work: { id: string; prospect_id: string }[] }[] = []
  for (const rep of reps) {
    const { rows: work } = await db().query<{ id: string; prospect_id: string }>(
      sql`select id, prospect_id from tasks where owner_id = $1 order by id`,
      [rep.id],
    )
    desks.push({ key: (await addKey(rep, 'bench')).key, work })
  }
  const web = await startWeb(PORT)
  try {
    const run = async (): Promise<number> => {
      // Connections are opened again: the server has closed those that rested during the baseline.
      const until = Date.now() + SECONDS * 1_000
      let done = 0
      const client = async ({ key, work }: (typeof desks)[number]) => {
        const { post, close } = await openClient(key)
        while (Date.now() < until) {
          const task = work.pop()
          if (!task) throw new Error('The bench has run out of work')
          const status = await post(
            `/api/prospects/${task.prospect_id}/outcomes`,
            JSON.stringify({ id: randomUUID(), outcomeId: outcome!.id, taskId: task.id }),
          )
          if (status !== 200) throw new Error(`Logging answered ${status}`)
          done++
        }
        close()
      }
      await Promise.all(desks.map(client))
      return done / SECONDS
    }
    for (let warm = 0; warm < 3; warm++) await run()
    const rounds: Rounds = { ours: [], theirs: [] }
    for (let round = 0; round < ROUNDS; round++) {
      rounds.theirs.push(tpcb())
      rounds.ours.push(await run())
    }
    // Both are rates: what is slower has the smaller one.
    const { ours, theirs, ratio } = betweenRounds(rounds)
    return {
      what: 'Log an outcome over HTTP',
      baseline: `a TPC-B-like transaction, ${CLIENTS} clients each`,
      ours,
      theirs,
      unit: 'per second',
      ratio: 1 / ratio,
      atMost: 5,
    }
  } finally {
    web.end()
    await world.leave()
  }
}
