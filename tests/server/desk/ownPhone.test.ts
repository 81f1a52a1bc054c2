import { randomUUID } from 'node:crypto'
import { createServer } from 'node:http'
import type { AddressInfo } from 'node:net'
import { describe, expect, it } from 'vitest'
import { brief, callState, dial, hangUp, logOutcome } from '../../../shared/api/desk/desk'
import { me } from '../../../shared/api/session'
import { db } from '../../../server/db/pool'
import { sql } from '../../../server/db/sql'
import { rereadEnvironment } from '../../../server/environment'
import { addPeople, freeze, MONDAY, outcomeId } from '../../fixtures/people'
import { withTeam } from '../../fixtures/team'

const team = withTeam()
const HOUR = 3_600_000

const callWith = (dialer: 'dialer' | 'own_phone') =>
  db().query(sql`update users set calls_with = $2 where id = $1`, [team.rep.id, dialer])

/** Runs `work` with an exchange that writes down whom it rings. */
async function withExchange(work: (rung: string[]) => Promise<void>): Promise<void> {
  const rung: string[] = []
  const exchange = createServer((request, response) => {
    request.on('data', (part: Buffer) => rung.push((JSON.parse(part.toString()) as { to: string }).to))
    request.on('end', () => response.end('{"id":"line-1"}'))
  }).listen(0, '127.0.0.1')
  await new Promise((resolve) => exchange.once('listening', resolve))
  process.env.LINE_URL = `http://127.0.0.1:${(exchange.address() as AddressInfo).port}`
  rereadEnvironment()
  try {
    await work(rung)
  } finally {
    delete process.env.LINE_URL
    rereadEnvironment()
    exchange.close()
  }
}

describe('a call on one’s own phone', () => {
  it('is given to the phone as a tel: link (RFC 3966), and is over when the user says so', async () => {
    freeze(MONDAY)
    const [prospectId] = (await addPeople(1, team.rep.id)).ids as [string]
    await callWith('own_phone')
    expect((await team.asRep.ok(me, {})).user!.callsWith).toBe('own_phone')
    await withExchange(async (rung) => {
      const body = { id: randomUUID(), prospectId }
      const made = await team.asRep.ok(dial, { body })
      // A global number with no separators: "tel:" and E.164.
      expect(made.uri).toMatch(/^tel:\+[1-9]\d{1,14}$/)
      expect(made.uri).toBe(`tel:${made.number}`)
      expect(await team.asRep.ok(dial, { body })).toEqual(made)
      const params = { id: made.id }
      expect((await team.asRep.ok(callState, { params })).status).toBe('own_phone')
      await team.asOther.refused(callState, 404, { params })
      await team.asRep.ok(hangUp, { params })
      expect((await team.asRep.ok(callState, { params })).status).toBe('ended')
      expect(rung).toEqual([])
      // It is a call like any other: the Desk knows of it, and its outcome counts.
      expect((await team.asRep.ok(brief, { params: { id: prospectId } })).call).toMatchObject({ id: made.id })
      await team.asRep.ok(logOutcome, {
        params: { id: prospectId },
        body: { id: randomUUID(), outcomeId: await outcomeId('No answer'), phoneId: made.phoneId, details: {} },
      })
      const after = await team.asRep.ok(brief, { params: { id: prospectId } })
      expect(after.call).toBeNull()
      expect(after.prospect.attempts).toBe(1)
      // Who calls with the dialer has it ring.
      await callWith('dialer')
      const rings = await team.asRep.ok(dial, { body: { id: randomUUID(), prospectId } })
      expect(rings.uri).toBeNull()
      expect(rung).toEqual([rings.number])
    })
    // Without a dialer every call is made on one's own phone.
    expect((await team.asRep.ok(dial, { body: { id: randomUUID(), prospectId } })).uri).toMatch(/^tel:/)
  })
  it('keeps to stops and calling hours as any call does', async () => {
    freeze(MONDAY + 14 * HOUR)
    const [prospectId] = (await addPeople(1, team.rep.id)).ids as [string]
    await callWith('own_phone')
    await team.asRep.refused(dial, 422, { body: { id: randomUUID(), prospectId } })
    freeze(MONDAY)
    await db().query(sql`update prospects set stop_call = true where id = $1`, [prospectId])
    await team.asRep.refused(dial, 422, { body: { id: randomUUID(), prospectId } })
  })
})
