import { randomUUID } from 'node:crypto'
import { connect, createServer, type Server, type Socket } from 'node:net'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { logOutcome } from '../../../shared/api/desk/desk'
import { queue } from '../../../shared/api/desk/queue'
import { closePool, db, openPool } from '../../../server/db/pool'
import { enroll } from '../../../server/services/cadences/enrollments'
import type { Viewer } from '../../../server/services/access/viewer'
import { caller, type Caller } from '../../fixtures/caller'
import { addCadence, addPeople, addUser, outcomeId, rows, startWorld } from '../../fixtures/people'
import { freePort, killAll, pause, start, until } from '../../fixtures/programs'
import { serve } from '../../fixtures/server'
import { sql } from '../../../server/db/sql'

/** A wire to the database that can be cut: connections through it are dropped and none is taken. */
function wire(to: { host: string; port: number }): { server: Server; cut(): void; mend(): void } {
  const open = new Set<Socket>()
  let whole = true
  const server = createServer((near) => {
    if (!whole) return void near.destroy()
    const far = connect(to.port, to.host)
    for (const [one, other] of [
      [near, far],
      [far, near],
    ] as const) {
      open.add(one)
      one.pipe(other)
      one
        .on('error', () => other.destroy())
        .on('close', () => {
          open.delete(one)
          other.destroy()
        })
    }
  })
  return {
    server,
    cut() {
      whole = false
      for (const socket of open) socket.destroy()
    },
    mend() {
      whole = true
    },
  }
}

let server: Awaited<ReturnType<typeof serve>>
let line: ReturnType<typeof wire>
let direct: ReturnType<typeof openPool>
let rep: Viewer
let asRep: Caller

beforeAll(async () => {
  await startWorld()
  const url = new URL(process.env.DATABASE_URL!)
  direct = openPool(url.href, 2)
  line = wire({ host: url.hostname, port: Number(url.port) })
  await new Promise<void>((resolve) => line.server.listen(0, '127.0.0.1', resolve))
  await closePool()
  url.port = String((line.server.address() as { port: number }).port)
  process.env.DATABASE_URL = url.href
  rep = await addUser('rep', 'Imani Osei')
  server = await serve()
  asRep = await caller(server.url, rep)
})
afterAll(async () => {
  killAll()
  await server.close()
  await direct.end()
  line.cut()
  line.server.close()
})

const health = () =>
  fetch(`${server.url}/api/health`).then(async (response) => ({
    status: response.status,
    body: (await response.json()) as Record<string, unknown>,
  }))

describe('the database gone for a while', () => {
  it('is said in one sentence, loses nothing, does nothing by halves, and needs no restart', async () => {
    const { ids } = await addPeople(2, rep.id)
    const noAnswer = await outcomeId('No answer')
    const event = randomUUID()
    const log = { params: { id: ids[0]! }, body: { id: event, outcomeId: noAnswer } }
    line.cut()
    expect(await health()).toMatchObject({
      status: 503,
      body: { status: 'down', database: false, reasons: ['The database cannot be reached'] },
    })
    const error = await asRep.refused(logOutcome, 503, log)
    expect(error).toMatchObject({
      code: 'unavailable',
      message: expect.stringMatching(/^The database cannot be reached just now\. Nothing was lost/),
    })
    await asRep.refused(queue, 503)
    expect(
      (await direct.query(sql`select count(*)::int as count from touches where prospect_id = $1`, [ids[0]])).rows,
    ).toEqual([{ count: 0 }])
    line.mend()
    expect((await until(health, (seen) => seen.body.database === true)).body.database).toBe(true)
    // The same event, sent again by a program that was not sure: once.
    await asRep.ok(logOutcome, log)
    await asRep.refused(logOutcome, 409, log)
    expect(await rows(sql`select count(*)::int as count from touches where prospect_id = $1`, [ids[0]])).toEqual([
      { count: 1 },
    ])
  })
  it('in the middle of many logs, leaves each done whole or not at all', async () => {
    const { ids } = await addPeople(40, rep.id)
    const noAnswer = await outcomeId('No answer')
    const results = Promise.all(
      ids.map(async (id, index) => {
        await pause(index * 5)
        return asRep.ok(logOutcome, { params: { id }, body: { id: randomUUID(), outcomeId: noAnswer } }).then(
          () => true,
          () => false,
        )
      }),
    )
    await pause(80)
    line.cut()
    await pause(40)
    line.mend()
    const done = await results
    const { rows: found } = await direct.query<{ touches: number; stages: number; events: number }>(
      sql`
        select
          (select count(*)::int from touches where prospect_id = any($1)) as touches,
          (select count(*)::int from prospects where id = any($1) and stage_id = 'attempting') as stages,
          (select count(*)::int from events where prospect_id = any($1) and kind = 'callLogged') as events
      `,
      [ids],
    )
    const [{ touches, stages, events }] = found as [(typeof found)[number]]
    expect([stages, events]).toEqual([touches, touches])
    // Anyone who heard "done" heard the truth; a commit whose answer was lost may have been done as well.
    expect(touches).toBeGreaterThanOrEqual(done.filter(Boolean).length)
  })
  it('is survived by a worker, which then does what fell due meanwhile', async () => {
    const { ids } = await addPeople(5, rep.id)
    await until(
      () =>
        db()
          .query(sql`select 1`)
          .then(
            () => true,
            () => false,
          ),
      Boolean,
    )
    await enroll(rep, (await addCadence([{ kind: 'task' }])).id, { prospectIds: ids.slice(0, 1) }, false)
    const worker = start('worker', { SMTP_URL: 'smtp://127.0.0.1:1', MAIL_IN_PORT: String(await freePort()) })
    const tasks = () =>
      direct
        .query<{ count: number }>(
          sql`
            select count(*)::int as count
            from tasks
            where kind = 'task' and prospect_id = any($1)
          `,
          [ids],
        )
        .then(({ rows }) => rows[0]!.count)
    expect(await until(tasks, (count) => count === 1)).toBe(1)
    line.cut()
    await pause(2_500)
    line.mend()
    await until(
      () =>
        db()
          .query(sql`select 1`)
          .then(
            () => true,
            () => false,
          ),
      Boolean,
    )
    await enroll(rep, (await addCadence([{ kind: 'task' }])).id, { prospectIds: ids }, false)
    expect(await until(tasks, (count) => count === 6)).toBe(6)
    expect(worker.exitCode).toBe(null)
  })
})
