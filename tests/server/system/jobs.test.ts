import { randomUUID } from 'node:crypto'
import { createServer } from 'node:http'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { addField, editField } from '../../../shared/api/settings/fields'
import { editScore, getScore } from '../../../shared/api/settings/settings'
import { getProspect } from '../../../shared/api/prospects'
import { dial } from '../../../shared/api/desk/desk'
import { db } from '../../../server/db/pool'
import { rereadEnvironment } from '../../../server/environment'
import { startWorker, type Worker } from '../../../server/jobs/worker'
import { addPeople, freeze, MONDAY, rows } from '../../fixtures/people'
import { withTeam } from '../../fixtures/team'
import '../database'
import { sql } from '../../../server/db/sql'

const team = withTeam()
const complaints: string[] = []
let worker: Worker
beforeAll(async () => {
  worker = await startWorker({
    rest: 50,
    inbound: false,
    complain: (what, error) => complaints.push(`${what}: ${String(error)}`),
  })
})
afterAll(() => worker.stop())

describe('a worker', () => {
  it('scores all prospects again when score points have changed', async () => {
    const { ids } = await addPeople(3, team.rep.id)
    await db().query(
      sql`
        insert into touches (id, prospect_id, kind, at, counts_as)
        select gen_random_uuid(), id, 'reply', world_now(), 'none'
        from unnest($1::uuid[]) id
      `,
      [ids],
    )
    const score = await team.asManager.ok(getScore)
    await team.asManager.ok(editScore, { body: { ...score, points: { ...score.points, reply: 40 } } })
    await expect
      .poll(async () => (await team.asRep.ok(getProspect, { params: { id: ids[2]! } })).score, { timeout: 20_000 })
      .toBe(40)
    expect(await rows(sql`select distinct rating from prospects where id = any($1::uuid[])`, [ids])).toEqual([
      { rating: 'hot' },
    ])
  })
  it('builds the index of an indexed field, and takes it away again', async () => {
    const { id } = await team.asManager.ok(addField, {
      body: { of: 'prospect', name: 'Barrels', kind: 'number', indexed: true },
    })
    const there = async () =>
      (await rows(sql`select from pg_class where relname = $1`, [`own_${id.replaceAll('-', '')}`])).length
    await expect.poll(there, { timeout: 20_000 }).toBe(1)
    await team.asManager.ok(editField, { params: { id }, body: { version: 1, indexed: false } })
    await expect.poll(there, { timeout: 20_000 }).toBe(0)
  })
  it('has nothing to complain about', () => expect(complaints).toEqual([]))
})

describe('a call', () => {
  it('is written down before it rings, and made once however often it is asked for', async () => {
    const dialed: string[] = []
    let during = 0
    const lines = createServer((request, response) => {
      let body = ''
      request
        .on('data', (part: Buffer) => {
          body += String(part)
        })
        .on('end', () => {
          dialed.push((JSON.parse(body) as { to: string }).to)
          rows(sql`select id from calls`).then(
            (found) => {
              during = found.length
              response.setHeader('content-type', 'application/json').end('{"id":"line-1"}')
            },
            () => response.destroy(),
          )
        })
    }).listen(0, '127.0.0.1')
    await new Promise((resolve) => lines.once('listening', resolve))
    process.env.LINE_URL = `http://127.0.0.1:${(lines.address() as { port: number }).port}`
    rereadEnvironment()
    try {
      const {
        ids: [prospectId],
      } = await addPeople(1, team.rep.id)
      const body = { id: randomUUID(), prospectId: prospectId! }
      const first = await team.asRep.ok(dial, { body })
      expect(during).toBe(1)
      // The answer was lost: asked for again, it is the same call, and nobody is called twice.
      expect(await team.asRep.ok(dial, { body })).toEqual(first)
      expect(dialed).toHaveLength(1)
      lines.close()
      lines.closeAllConnections()
      const failed = { id: randomUUID(), prospectId: prospectId! }
      await team.asRep.refused(dial, 503, { body: failed })
      expect(await rows(sql`select ended_at is not null as ended from calls where id = $1`, [failed.id])).toEqual([
        { ended: true },
      ])
    } finally {
      lines.close()
      delete process.env.LINE_URL
      rereadEnvironment()
    }
  })
})

describe('whether a prospect may be called', () => {
  // From memory: the Australian standard of 2017 ends Saturdays at 17:00 and knows no Sundays, the Canadian rules begin
  // at 9:00; 16 CFR 310.4(c) at 8:00.
  it.each([
    ['AU', 'Australia/Sydney', '2026-11-28T05:00:00Z', true],
    ['AU', 'Australia/Sydney', '2026-11-28T06:30:00Z', false],
    ['AU', 'Australia/Sydney', '2026-11-29T01:00:00Z', false],
    ['CA', 'America/Toronto', '2026-11-23T13:30:00Z', false],
    ['US', 'America/New_York', '2026-11-23T13:30:00Z', true],
  ])('in %s (%s) at %s: %s, on the screen as on the line', async (country, timeZone, at, open) => {
    await db().query(
      sql`
        update team
        set call_days = $1, call_from = 0, call_to = 1440, playbook_version = playbook_version + 1
      `,
      [[1, 2, 3, 4, 5, 6, 7]],
    )
    const {
      ids: [id],
    } = await addPeople(1, team.rep.id)
    await db().query(sql`update prospects set country = $2, time_zone = $3, region = null where id = $1`, [
      id,
      country,
      timeZone,
    ])
    await freeze(Date.parse(at))
    try {
      expect((await team.asRep.ok(getProspect, { params: { id: id! } })).calling).toMatchObject({ open, why: null })
      if (!open) {
        expect((await team.asRep.refused(dial, 422, { body: { id: randomUUID(), prospectId: id } })).message).toMatch(
          /^Not called|^Outside calling hours there\. Call from /,
        )
      }
    } finally {
      await freeze(MONDAY)
    }
  })
})
