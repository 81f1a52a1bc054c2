import { randomUUID } from 'node:crypto'
import { createServer, type Server } from 'node:http'
import { Webhook } from 'standardwebhooks'
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest'
import type { z } from 'zod'
import { enroll } from '../../../shared/api/cadences/enrollments'
import { cadenceResults } from '../../../shared/api/cadences/results'
import { brief, writeText } from '../../../shared/api/desk/desk'
import { queue } from '../../../shared/api/desk/queue'
import { listNotifications } from '../../../shared/api/notifications'
import { editPhone, stopProspect } from '../../../shared/api/prospects'
import { prospectHistory } from '../../../shared/api/events/history'
import { db } from '../../../server/db/pool'
import { firstRow, sql } from '../../../server/db/sql'
import { takeDueSteps } from '../../../server/engine/dueSteps'
import { rereadEnvironment } from '../../../server/environment'
import { deliverText } from '../../../server/services/texts/deliver'
import { addPeople, freeze, MONDAY, rows } from '../../fixtures/people'
import { activeCadence, stepDraft } from '../../fixtures/steps'
import { withTeam } from '../../fixtures/team'

const team = withTeam()
const HOUR = 3_600_000
const SECRET = `whsec_${Buffer.from('a secret for the tests of texts!').toString('base64')}`
/** What the gateway was handed, and how it answers. */
const taken: { id: string; to: string; from: string; text: string }[] = []
let answer = 202
let tokens: (string | undefined)[] = []
let gateway: Server

beforeAll(async () => {
  gateway = createServer((request, response) => {
    let raw = ''
    request.on('data', (part) => (raw += part))
    request.on('end', () => {
      tokens.push(request.headers.authorization)
      if (answer < 300) taken.push(JSON.parse(raw) as (typeof taken)[number])
      const body = answer < 300 ? {} : { error: { code: 'invalid', message: 'Not a mobile number' } }
      response.writeHead(answer, { 'content-type': 'application/json' }).end(JSON.stringify(body))
    })
  })
  await new Promise<void>((ready) => gateway.listen(0, '127.0.0.1', ready))
  const { port } = gateway.address() as { port: number }
  Object.assign(process.env, {
    TEXT_URL: `http://127.0.0.1:${port}/`,
    TEXT_TOKEN: 'token',
    TEXT_SECRET: SECRET,
    TEXT_FROM: '+16075550100',
  })
  rereadEnvironment()
})
afterAll(async () => {
  for (const name of ['TEXT_URL', 'TEXT_TOKEN', 'TEXT_SECRET', 'TEXT_FROM']) Reflect.deleteProperty(process.env, name)
  rereadEnvironment()
  await new Promise((ended) => gateway.close(ended))
})
beforeEach(async () => {
  await freeze(MONDAY)
  taken.length = 0
  tokens = []
  answer = 202
})

let people = 0
/** A prospect of the rep’s with a mobile number that nobody else has. */
async function someone() {
  const { ids } = await addPeople(1, team.rep.id)
  const phone = (await firstRow(
    db().query<{ id: string; number: string }>(
      sql`update phones set kind = 'mobile', number = $2 where prospect_id = $1 returning id, number`,
      [ids[0], `+1212555${String(110 + people++).padStart(4, '0')}`],
    ),
  ))!
  return { id: ids[0]!, phoneId: phone.id, number: phone.number }
}
type Body = Partial<z.input<typeof writeText.body>>
const bodyFor = (to: { phoneId: string }, given: Body = {}) => ({
  id: randomUUID(),
  phoneId: to.phoneId,
  body: 'Are you in today?',
  agreed: true,
  ...given,
})
/** Sends a text as the rep, and lets it leave. */
async function send(to: { id: string; phoneId: string }, given: Body = {}) {
  const body = bodyFor(to, given)
  await team.asRep.ok(writeText, { params: { id: to.id }, body })
  await deliverText(body.id)
  return body.id
}
async function callBack(body: object, given: { id?: string; secret?: string; at?: Date } = {}) {
  const raw = JSON.stringify(body)
  const id = given.id ?? `cb_${randomUUID()}`
  const at = given.at ?? new Date()
  const signature = new Webhook(given.secret ?? SECRET).sign(id, at, raw)
  const response = await fetch(`${team.url}/hooks/texts`, {
    method: 'POST',
    headers: {
      'webhook-id': id,
      'webhook-timestamp': String(Math.floor(at.getTime() / 1_000)),
      'webhook-signature': signature,
    },
    body: raw,
  })
  return response.status
}
const statusOf = async (id: string) =>
  (
    await rows<{ status: string; error: string | null }>(sql`select status, error from text_messages where id = $1`, [
      id,
    ])
  )[0]
/** What is sent by itself leaves. */
async function answersLeave() {
  for (const { id } of await rows<{ id: string }>(sql`select id from text_messages where status = 'queued'`)) {
    await deliverText(id)
  }
}
const textsTo = (number: string) => taken.filter(({ to }) => to === number).map(({ text }) => text)

describe('a text that a rep sends', () => {
  it('leaves over the gateway under its own id, counts as the last text, and is delivered', async () => {
    const to = await someone()
    const id = await send(to)
    expect(taken).toEqual([{ id, to: to.number, from: '+16075550100', text: 'Are you in today?' }])
    expect(tokens).toEqual(['Bearer token'])
    expect(await statusOf(id)).toEqual({ status: 'sent', error: null })
    expect(await callBack({ type: 'text.delivered', id })).toBe(200)
    expect(await statusOf(id)).toEqual({ status: 'delivered', error: null })
    expect(await rows(sql`select kind, counts_as from touches where prospect_id = $1`, [to.id])).toEqual([
      { kind: 'text', counts_as: 'none' },
    ])
    const seen = await team.asRep.ok(brief, { params: { id: to.id } })
    expect(seen).toMatchObject({
      textGateway: true,
      texts: [{ id, direction: 'out', body: 'Are you in today?', status: 'delivered' }],
      prospect: { phones: [{ textConsent: 'given' }] },
    })
    const { entries } = await team.asRep.ok(prospectHistory, { params: { id: to.id } })
    expect(entries.find(({ kind }) => kind === 'textWritten')).toMatchObject({ body: 'Are you in today?' })
    // None of what was written is in the log.
    expect(await rows(sql`select id from events where payload::text like '%in today%'`)).toEqual([])
  })
  it('is sent once, however often it is asked for and handed over', async () => {
    const to = await someone()
    const body = bodyFor(to)
    await team.asRep.ok(writeText, { params: { id: to.id }, body })
    await team.asRep.refused(writeText, 409, { params: { id: to.id }, body })
    answer = 503
    await expect(deliverText(body.id)).rejects.toThrow('The gateway for texts does not answer')
    expect(await statusOf(body.id)).toEqual({ status: 'queued', error: null })
    answer = 202
    await deliverText(body.id)
    await deliverText(body.id)
    expect(taken.map(({ id }) => id)).toEqual([body.id])
  })
  it('is the step of a cadence that was due, which goes on', async () => {
    const to = await someone()
    const steps = [
      stepDraft('text', { body: 'Hello {{ first_name }}' }),
      stepDraft('call', { wait: { amount: 1, unit: 'business_days', at: null } }),
    ]
    const id = await activeCadence(team.asManager, { steps })
    await team.asRep.ok(enroll, { params: { id }, body: { prospectIds: [to.id] } })
    await takeDueSteps()
    const task = (
      await rows<{ id: string }>(sql`select id from tasks where prospect_id = $1 and status = 'open'`, [to.id])
    )[0]!
    const textId = await send(to, { taskId: task.id })
    const counted = async () => {
      const { steps: results } = await team.asManager.ok(cadenceResults, { params: { id } })
      return results[0]!.figures
    }
    expect(await counted()).toEqual({ done: 1, delivered: 0, replied: 0, meetings: 0 })
    expect(await callBack({ type: 'text.delivered', id: textId })).toBe(200)
    expect(await counted()).toEqual({ done: 1, delivered: 1, replied: 0, meetings: 0 })
    expect(
      await rows(
        sql`
          select e.status, s.kind
          from enrollments e
            join cadence_steps s on s.id = e.step_id
          where e.prospect_id = $1
        `,
        [to.id],
      ),
    ).toEqual([{ status: 'waiting', kind: 'call' }])
    await callBack({ type: 'text.received', from: to.number, text: 'Yes, call me' })
    expect(await counted()).toEqual({ done: 1, delivered: 1, replied: 1, meetings: 0 })
  })
  it('needs that the person agreed, a number that works, and calling hours there', async () => {
    const to = await someone()
    const refused = async (body: object) =>
      (await team.asRep.refused(writeText, 422, { params: { id: to.id }, body })).problems.map(({ field }) => field)
    expect(await refused(bodyFor(to, { agreed: false }))).toEqual(['agreed'])
    const other = await someone()
    expect(await refused(bodyFor(other))).toEqual(['phoneId'])
    await team.asOther.refused(writeText, 404, { params: { id: to.id }, body: bodyFor(to) })
    await team.asRep.refused(writeText, 400, {
      params: { id: to.id },
      body: bodyFor(to, { body: 'ü'.repeat(700) + '€'.repeat(900) }),
    })
    await freeze(MONDAY + 12 * HOUR)
    expect(await refused(bodyFor(to))).toEqual(['to'])
    await freeze(MONDAY)
    await team.asRep.ok(stopProspect, { params: { id: to.id }, body: { id: randomUUID(), channel: 'call', on: true } })
    expect(await refused(bodyFor(to))).toEqual(['to'])
    expect(taken).toEqual([])
  })
  it('does not leave where a stop came first, and is not forgotten where it cannot be delivered', async () => {
    const to = await someone()
    const body = bodyFor(to)
    await team.asRep.ok(writeText, { params: { id: to.id }, body })
    await team.asRep.ok(stopProspect, { params: { id: to.id }, body: { id: randomUUID(), channel: 'call', on: true } })
    await deliverText(body.id)
    expect(taken).toEqual([])
    expect(await statusOf(body.id)).toEqual({ status: 'failed', error: 'Asked not to be called or texted' })
    const other = await someone()
    answer = 400
    const refused = await send(other)
    expect(await statusOf(refused)).toEqual({ status: 'failed', error: 'Not a mobile number' })
    // Where the gateway does not answer the last time it is asked, it counts as not delivered.
    answer = 500
    const late = bodyFor(other)
    await team.asRep.ok(writeText, { params: { id: other.id }, body: late })
    await deliverText(late.id, true)
    expect(await statusOf(late.id)).toEqual({ status: 'failed', error: 'The gateway for texts does not answer' })
    answer = 202
    const lost = await send(other)
    for (let twice = 0; twice < 2; twice++) {
      expect(await callBack({ type: 'text.failed', id: lost, error: 'Switched off' })).toBe(200)
    }
    const tasks = await rows<{ title: string }>(
      sql`select title from tasks where prospect_id = $1 and status = 'open' and kind = 'task'`,
      [other.id],
    )
    expect(tasks.map(({ title }) => title)).toEqual(Array(3).fill('A text was not delivered: reach them another way'))
  })
})

describe('a text that comes in', () => {
  it('stands first on the Desk, ends the cadence, and is answered there at any hour', async () => {
    const to = await someone()
    await send(to)
    await freeze(MONDAY + 12 * HOUR)
    expect(await callBack({ type: 'text.received', from: to.number, text: 'Yes, after 3' })).toBe(200)
    const { items } = await team.asRep.ok(queue, { query: { limit: 200 } })
    expect(items[0]!.kind).toBe('reply')
    const taskId = items.find(({ prospectId, kind }) => prospectId === to.id && kind === 'reply')!.taskId!
    const seen = await team.asRep.ok(brief, { params: { id: to.id }, query: { task: taskId } })
    expect(seen.texts[0]).toMatchObject({ direction: 'in', body: 'Yes, after 3', phoneId: to.phoneId })
    expect(seen.task).toMatchObject({ kind: 'reply', title: 'Replied by text' })
    await send(to, { taskId, body: 'Then at 3' })
    expect(textsTo(to.number).at(-1)).toBe('Then at 3')
    expect(await rows(sql`select status from tasks where id = $1`, [taskId])).toEqual([{ status: 'done' }])
  })
  it('played twice is one; with a wrong signature, too old, or no callback at all, none', async () => {
    const to = await someone()
    await send(to)
    const body = { type: 'text.received', from: to.number, text: 'Once' }
    const id = `cb_${randomUUID()}`
    expect([await callBack(body, { id }), await callBack(body, { id })]).toEqual([200, 200])
    const other = `whsec_${Buffer.from('a secret that another one wrote.').toString('base64')}`
    expect(await callBack(body, { secret: other })).toBe(403)
    expect(await callBack(body, { at: new Date(Date.now() - 10 * 60_000) })).toBe(403)
    expect(await callBack({ type: 'text.eaten' })).toBe(400)
    expect(await callBack({ type: 'text.received', from: '12', text: 'x' })).toBe(400)
    const came = await rows(sql`select id from text_messages where prospect_id = $1 and direction = 'in'`, [to.id])
    const replies = await rows(sql`select id from tasks where prospect_id = $1 and kind = 'reply'`, [to.id])
    expect([came.length, replies.length]).toEqual([1, 1])
  })
  it('says STOP: nothing goes there any more, which is said once; START allows it again; HELP is answered', async () => {
    const to = await someone()
    await send(to)
    taken.length = 0
    const say = (text: string) => callBack({ type: 'text.received', from: to.number, text })
    await say('Stop.')
    await say('STOP')
    await answersLeave()
    expect(textsTo(to.number)).toHaveLength(1)
    expect(textsTo(to.number)[0]).toContain('no more texts from us')
    const params = { id: to.id }
    const refused = await team.asRep.refused(writeText, 422, { params, body: bodyFor(to) })
    expect(refused.message).toContain('They asked for no more texts')
    const consent = await team.asRep.refused(editPhone, 422, {
      params: { ...params, phone: to.phoneId },
      body: { textConsent: 'given' },
    })
    expect(consent.message).toContain('only START')
    // What a rep noted by hand, a rep can change.
    const other = await someone()
    const note = (textConsent: string) =>
      team.asRep.ok(editPhone, { params: { id: other.id, phone: other.phoneId }, body: { textConsent } as never })
    await note('declined')
    await team.asRep.refused(writeText, 422, { params: { id: other.id }, body: bodyFor(other) })
    await note('given')
    await send(other, { agreed: false })
    taken.splice(0, taken.length, ...taken.filter(({ to: number }) => number === to.number))
    expect(await rows(sql`select id from tasks where prospect_id = $1 and kind = 'reply'`, [to.id])).toEqual([])
    await say('help')
    await answersLeave()
    expect(textsTo(to.number)[1]).toContain('Reply STOP')
    await say('START')
    await answersLeave()
    expect(textsTo(to.number)[2]).toContain('again')
    await send(to, { agreed: false })
    expect(textsTo(to.number)).toHaveLength(4)
  })
  it('stops a number for everyone who has it, and is kept where nobody has', async () => {
    const [one, other] = [await someone(), await someone()]
    await db().query(sql`update phones set number = $2 where id = $1`, [other.phoneId, one.number])
    await callBack({ type: 'text.received', from: one.number, text: 'STOP' })
    expect(
      await rows(sql`select text_consent from phones where id = any($1::uuid[])`, [[one.phoneId, other.phoneId]]),
    ).toEqual([{ text_consent: 'stopped' }, { text_consent: 'stopped' }])
    expect(await callBack({ type: 'text.received', from: '+12125550199', text: 'Who is this?' })).toBe(200)
    expect(await rows(sql`select body, prospect_id from text_messages where number = '+12125550199'`)).toEqual([
      { body: 'Who is this?', prospect_id: null },
    ])
    const seenBy = async (as = team.asManager) =>
      (await as.ok(listNotifications, { query: {} })).notifications.find(({ kind }) => kind === 'unknown_text')
    expect(await seenBy()).toMatchObject({ to: '/prospects?add=%2B12125550199', read: false })
    expect(await seenBy(team.asRep)).toBeUndefined()
    // STOP from a number that nobody has is answered, and holds for a prospect who gets it later.
    await callBack({ type: 'text.received', from: '+12125550199', text: 'STOP' })
    await answersLeave()
    expect(textsTo('+12125550199')).toHaveLength(1)
    const later = await someone()
    await db().query(sql`update phones set number = '+12125550199' where id = $1`, [later.phoneId])
    expect(await rows(sql`select text_consent from phones where id = $1`, [later.phoneId])).toEqual([
      { text_consent: 'stopped' },
    ])
    // What came before anyone had the number is theirs now.
    const { texts } = await team.asRep.ok(brief, { params: { id: later.id } })
    expect(texts.map(({ body }) => body)).toContain('Who is this?')
    expect(await seenBy()).toMatchObject({ to: `/prospects/${later.id}` })
  })
})
