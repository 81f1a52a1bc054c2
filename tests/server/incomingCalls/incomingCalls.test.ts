import { randomUUID } from 'node:crypto'
import { Webhook } from 'standardwebhooks'
import { beforeEach, describe, expect, it } from 'vitest'
import { brief, logOutcome } from '../../../shared/api/desk/desk'
import {
  answerIncomingCall,
  endIncomingCall,
  listIncomingCalls,
  markIncomingCallSeen,
} from '../../../shared/api/desk/incoming'
import { queue } from '../../../shared/api/desk/queue'
import { listNotifications } from '../../../shared/api/notifications'
import { erasePerson } from '../../../shared/api/prospects'
import { prospectHistory } from '../../../shared/api/events/history'
import { me } from '../../../shared/api/session'
import { db } from '../../../server/db/pool'
import { sql } from '../../../server/db/sql'
import { endForgottenCalls } from '../../../server/services/incomingCalls/receive'
import { LINE_SECRET, withExchange } from '../../fixtures/exchange'
import { addPeople, freeze, MONDAY, outcomeId, rows } from '../../fixtures/people'
import { withTeam } from '../../fixtures/team'

const team = withTeam()
const exchange = withExchange(team, { patienceMs: 60_000 })
beforeEach(async () => {
  await freeze(MONDAY)
})

let people = 0
/** Someone of the rep’s with a number that nobody else has. */
async function someone() {
  const number = `+1607555${String(100 + people++).padStart(4, '0')}`
  const { ids } = await addPeople(1, team.rep.id)
  await db().query(sql`update phones set number = $2 where prospect_id = $1`, [ids[0], number])
  return { id: ids[0]!, number }
}
const unknown = () => `+1607555${String(9_000 + people++)}`
type Asker = typeof team.asRep
const ringing = async (as: Asker) => (await as.ok(listIncomingCalls, {})).calls
const statusOf = async (ref: string) =>
  (await rows<{ status: string }>(sql`select status from incoming_calls where line_ref = $1`, [ref]))[0]?.status
/** Waits until the exchange's callback has been taken. */
async function until(ref: string, status: string): Promise<void> {
  await expect.poll(() => statusOf(ref), { timeout: 5_000, interval: 20 }).toBe(status)
}
/** A recipient calls; gives the exchange's name of the call. */
async function comesIn(number: string): Promise<string> {
  const ref = exchange.comeIn(number)
  await until(ref, 'ringing')
  return ref
}

describe('a call that comes in', () => {
  it('rings for the owner of the person, is answered, logged as theirs to us, and over', async () => {
    const { id, number } = await someone()
    expect((await team.asRep.ok(me, {})).incomingCalls).toBe(true)
    const ref = await comesIn(number)
    const [call] = await ringing(team.asRep)
    expect(call).toMatchObject({ number, status: 'ringing', people: [{ id, company: 'Marlpit Creamery' }] })
    expect(await ringing(team.asOther)).toEqual([])
    const params = { id: call!.id }
    await team.asOther.refused(answerIncomingCall, 404, { params })
    await team.asRep.ok(answerIncomingCall, { params })
    // The answer was lost: answered once more, nothing changes.
    await team.asRep.ok(answerIncomingCall, { params })
    expect(await ringing(team.asRep)).toMatchObject([{ id: call!.id, status: 'answered' }])
    const line = await fetch(`${exchange.url}/calls/${ref}`)
    expect(await line.json()).toMatchObject({ status: 'answered' })
    await team.asRep.ok(logOutcome, {
      params: { id },
      body: { id: randomUUID(), outcomeId: await outcomeId('Interested'), call: 'incoming' },
    })
    await team.asRep.ok(endIncomingCall, { params })
    await until(ref, 'over')
    expect(await ringing(team.asRep)).toEqual([])
    expect(await rows(sql`select counts_as from touches where prospect_id = $1`, [id])).toEqual([
      { counts_as: 'conversation' },
    ])
    expect(await rows(sql`select 1 from events where prospect_id = $1 and kind = 'callMissed'`, [id])).toEqual([])
  })

  it('that is over waits until it is logged, in another browser, too, or put away', async () => {
    const { id, number } = await someone()
    const over = async () => {
      const ref = await comesIn(number)
      const [call] = (await ringing(team.asRep)).filter(({ status }) => status === 'ringing')
      await team.asRep.ok(answerIncomingCall, { params: { id: call!.id } })
      exchange.end(ref)
      await until(ref, 'over')
      return call!.id
    }
    const first = await over()
    expect(await ringing(team.asRep)).toMatchObject([{ id: first, status: 'over', people: [{ id }] }])
    const body = { id: randomUUID(), outcomeId: await outcomeId('Interested') }
    // A call of another kind is not this one.
    await team.asRep.ok(logOutcome, { params: { id }, body: { ...body, call: 'elsewhere' } })
    expect(await ringing(team.asRep)).toHaveLength(1)
    await team.asRep.ok(logOutcome, { params: { id }, body: { ...body, id: randomUUID(), call: 'incoming' } })
    expect(await ringing(team.asRep)).toEqual([])
    const second = await over()
    await team.asRep.ok(markIncomingCallSeen, { params: { id: second } })
    expect(await ringing(team.asRep)).toEqual([])
  })

  it('rings for who called the number last, before its owner', async () => {
    const { id, number } = await someone()
    await db().query(
      sql`
        insert into calls (id, user_id, prospect_id, phone_id, started_at)
        select gen_random_uuid(), $2, prospect_id, id, world_now() - interval '2 days'
        from phones
        where prospect_id = $1
      `,
      [id, team.other.id],
    )
    const ref = await comesIn(number)
    expect(await ringing(team.asRep)).toEqual([])
    expect(await ringing(team.asOther)).toMatchObject([{ number, status: 'ringing' }])
    exchange.end(ref)
    await until(ref, 'missed')
  })

  it('that nobody answers stands on top of the queue, notifies, and is in the activity', async () => {
    const { id, number } = await someone()
    const ref = await comesIn(number)
    exchange.end(ref)
    await until(ref, 'missed')
    const { items } = await team.asRep.ok(queue, {})
    expect(items.find((item) => item.prospectId === id)).toMatchObject({
      group: 'promised',
      kind: 'call_back',
      why: 'called us just now',
    })
    const { notifications } = await team.asRep.ok(listNotifications, {})
    expect(notifications[0]).toMatchObject({ to: `/prospects/${id}`, sentence: expect.stringMatching(/^Missed call/) })
    const { entries } = await team.asManager.ok(prospectHistory, { params: { id } })
    expect(JSON.stringify(entries)).toContain('Missed call')
    // Calling back is what the task is for: logged, it is done.
    const { task } = await team.asRep.ok(brief, { params: { id } })
    await team.asRep.ok(logOutcome, {
      params: { id },
      body: { id: randomUUID(), taskId: task!.id, outcomeId: await outcomeId('No answer') },
    })
    expect(
      await rows(sql`select 1 from tasks where prospect_id = $1 and kind = 'call_back' and status = 'open'`, [id]),
    ).toEqual([])
  })

  it('that is declined was missed', async () => {
    const { number } = await someone()
    const ref = await comesIn(number)
    const [call] = await ringing(team.asRep)
    await team.asRep.ok(endIncomingCall, { params: { id: call!.id } })
    await until(ref, 'missed')
    const line = await fetch(`${exchange.url}/calls/${ref}`)
    expect(await line.json()).toMatchObject({ status: 'ended' })
  })

  it('of a number that nobody has rings for everyone, one of whom gets it', async () => {
    const number = unknown()
    const ref = await comesIn(number)
    const [call] = await ringing(team.asRep)
    expect(call).toMatchObject({ people: [] })
    expect((await ringing(team.asOther)).map((one) => one.id)).toEqual([call!.id])
    const params = { id: call!.id }
    expect(call!.forEveryone).toBe(true)
    // One who does not want it leaves it to the others.
    expect((await team.asRep.refused(endIncomingCall, 422, { params })).code).toBe('refused')
    expect(await statusOf(ref)).toBe('ringing')
    const results = await Promise.allSettled([
      team.asRep.ok(answerIncomingCall, { params }),
      team.asOther.ok(answerIncomingCall, { params }),
    ])
    expect(results.map(({ status }) => status).sort()).toEqual(['fulfilled', 'rejected'])
    exchange.end(ref)
    await until(ref, 'over')
  })

  it('of a number that nobody has stays on the screen when it is missed, until it is seen to', async () => {
    const ref = await comesIn(unknown())
    exchange.end(ref)
    await until(ref, 'missed')
    const [call] = await ringing(team.asRep)
    expect(call).toMatchObject({ status: 'missed', people: [] })
    await team.asOther.ok(markIncomingCallSeen, { params: { id: call!.id } })
    expect(await ringing(team.asRep)).toEqual([])
  })

  it('whose caller hangs up at the moment of answering was missed', async () => {
    const { id, number } = await someone()
    const ref = await comesIn(number)
    const [call] = await ringing(team.asRep)
    await db().query(sql`update incoming_calls set line_ref = 'unknown to the exchange' where line_ref = $1`, [ref])
    const { code } = await team.asRep.refused(answerIncomingCall, 409, { params: { id: call!.id } })
    expect(code).toBe('conflict')
    expect(await statusOf('unknown to the exchange')).toBe('missed')
    expect(await rows(sql`select 1 from tasks where prospect_id = $1 and kind = 'call_back'`, [id])).toHaveLength(1)
  })

  it('whose end is never announced is ended after two minutes', async () => {
    const { number } = await someone()
    const ref = await comesIn(number)
    await endForgottenCalls()
    expect(await statusOf(ref)).toBe('ringing')
    await db().query(sql`update incoming_calls set created_at = now() - interval '3 minutes' where line_ref = $1`, [
      ref,
    ])
    await endForgottenCalls()
    expect(await statusOf(ref)).toBe('missed')
  })

  it('keeps no number of someone who was erased', async () => {
    const { id, number } = await someone()
    const ref = await comesIn(number)
    exchange.end(ref)
    await until(ref, 'missed')
    const body = { id: randomUUID(), name: 'tomas bellweather 1' }
    await team.asManager.ok(erasePerson, { params: { id }, body })
    expect(await rows(sql`select number from incoming_calls where line_ref = $1`, [ref])).toEqual([{ number: '' }])
  })
})

describe('callbacks of the exchange', () => {
  const post = async (body: object, secret = LINE_SECRET, at = new Date()) => {
    const raw = JSON.stringify(body)
    const id = `cb_${randomUUID()}`
    const response = await fetch(`${team.url}/hooks/calls`, {
      method: 'POST',
      headers: {
        'webhook-id': id,
        'webhook-timestamp': String(Math.floor(at.getTime() / 1_000)),
        'webhook-signature': new Webhook(secret).sign(id, at, raw),
      },
      body: raw,
    })
    return response.status
  }
  it('are taken once, however often they come', async () => {
    const body = { type: 'call.incoming', id: 'twice', from: unknown() }
    expect([await post(body), await post(body)]).toEqual([200, 200])
    const ended = { type: 'call.ended', id: 'twice' }
    expect([await post(ended), await post(ended)]).toEqual([200, 200])
    expect(await statusOf('twice')).toBe('missed')
    // The end of a call that was never announced.
    expect(await post({ type: 'call.ended', id: 'never' })).toBe(200)
  })

  it('are refused with a wrong signature, an old one, and in another shape', async () => {
    const body = { type: 'call.incoming', id: 'bad', from: unknown() }
    const other = `whsec_${Buffer.from('another secret than the one set!').toString('base64')}`
    expect(await post(body, other)).toBe(403)
    expect(await post(body, LINE_SECRET, new Date(Date.now() - 600_000))).toBe(403)
    expect(await post({ ...body, from: '555-0100' })).toBe(400)
    expect(await statusOf('bad')).toBeUndefined()
  })
})
