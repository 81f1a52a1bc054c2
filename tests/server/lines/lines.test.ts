import { randomUUID } from 'node:crypto'
import type { z } from 'zod'
import { beforeEach, describe, expect, it } from 'vitest'
import { addBlock, getBlock } from '../../../shared/api/blocks/blocks'
import { dialLines, linesReport } from '../../../shared/api/blocks/lines'
import { skipInBlock, workBlock } from '../../../shared/api/blocks/work'
import { brief, logOutcome } from '../../../shared/api/desk/desk'
import { addVoicemailMessage } from '../../../shared/api/desk/voicemail'
import { prospectHistory } from '../../../shared/api/events/history'
import { editLineOutcomes, getLineOutcomes } from '../../../shared/api/settings/lineOutcomes'
import { editOutcome, listOutcomes } from '../../../shared/api/settings/outcomes'
import { writeWav } from '../../../core/audio/audioLength'
import { db } from '../../../server/db/pool'
import { sql } from '../../../server/db/sql'
import type { Behavior } from '../../../standins/lines/lines'
import type { Caller } from '../../fixtures/caller'
import { withExchange } from '../../fixtures/exchange'
import { addPeople, freeze, MONDAY, outcomeId, rows } from '../../fixtures/people'
import { withTeam } from '../../fixtures/team'

const team = withTeam()
const exchange = withExchange(team, { ringMs: 60 })
const MESSAGE = 'This is Thornwick Sensing. Sorry, nobody was free: call us at (212) 555-0101.'
beforeEach(async () => {
  await freeze(MONDAY)
  await db().query(sql`update call_blocks set closed_at = world_now() where closed_at is null`)
  await db().query(sql`update call_block_sittings set ended_at = now() where ended_at is null`)
})

let used = 0
/** People with numbers of their own, each of which behaves as said. */
async function peopleWho(behaviors: readonly Behavior[]) {
  const { ids } = await addPeople(behaviors.length, team.rep.id)
  for (const [index, behavior] of behaviors.entries()) {
    const number = `+1607555${String(used++).padStart(4, '0')}`
    await db().query(sql`update phones set number = $2 where prospect_id = $1`, [ids[index], number])
    await exchange.set(number, behavior)
  }
  return ids
}
type Given = Partial<z.input<typeof addBlock.body>>
async function blockOf(behaviors: readonly Behavior[], given: Given = {}) {
  const ids = await peopleWho(behaviors)
  const body = {
    id: randomUUID(),
    name: 'Cold rooms',
    campaign: `Campaign ${randomUUID()}`,
    callerIds: [team.rep.id, team.other.id],
    who: { prospectIds: ids },
    lines: 3,
    callBackMessage: MESSAGE,
    ...given,
  }
  await team.asManager.ok(addBlock, { body })
  return { id: body.id, ids, campaign: body.campaign }
}
const begin = (caller: Caller, id: string) => caller.ok(workBlock, { params: { id }, body: {} })
const poll = (caller: Caller, id: string, on = true) => caller.ok(dialLines, { params: { id }, body: { on } })
/** Waits for a call, as the Desk does; gives it. */
async function waitForCall(caller: Caller, id: string) {
  let call: { id: string; prospectId: string } | null = null
  await expect
    .poll(async () => (call = (await poll(caller, id)).call), { timeout: 20_000, interval: 40 })
    .not.toBeNull()
  return call!
}
/** A campaign’s calls of yesterday: so many answered, some of them abandoned, and nine times as many not. */
async function callsBefore(campaign: string, answered: number, abandoned = 0) {
  const [phone] = await rows<{ id: string; owner: string }>(sql`select id, prospect_id as owner from phones limit 1`)
  await db().query(
    sql`
      insert into calls (
        id, user_id, prospect_id, phone_id, started_at, ended_at, campaign, line_status, connected_at, logged_by
      )
      select gen_random_uuid(), $1, $2, $3, world_now() - interval '1 day', world_now() - interval '1 day', $4,
        case when n <= $6 then 'abandoned' when n <= $5 then 'completed' else 'no_answer' end,
        case when n > $6 and n <= $5 then world_now() - interval '1 day' end, gen_random_uuid()
      from generate_series(1, $5 * 10) as n
    `,
    [team.rep.id, phone!.owner, phone!.id, campaign, answered, abandoned],
  )
}
const statusesOf = async (id: string) =>
  (
    await rows<{ status: string }>(sql`select line_status as status from calls where block_id = $1 order by 1`, [id])
  ).map(({ status }) => status)

describe('a block that dials several lines', () => {
  it('puts the caller through to who answers, logs by itself who does not, and goes on', async () => {
    const unanswered = ['busy', 'rejected', 'no_answer', 'voicemail', 'not_in_service'] as const
    const { id, ids } = await blockOf([...unanswered, 'answered', 'busy'])
    await begin(team.asRep, id)
    const call = await waitForCall(team.asRep, id)
    expect(call.prospectId).toBe(ids[5])
    // The Desk has this person in hand and nobody else.
    const { items } = await begin(team.asRep, id)
    expect(items.map(({ prospectId }) => prospectId)).toEqual([ids[5]])
    const history = async (prospectId: string) => {
      const { entries } = await team.asRep.ok(prospectHistory, { params: { id: prospectId } })
      return entries.map(({ title }) => title).join('\n')
    }
    expect(await history(ids[0]!)).toContain('Busy')
    expect(await history(ids[4]!)).toContain('Wrong number')
    expect(await statusesOf(id)).toEqual(['busy', 'connected', 'no_answer', 'not_in_service', 'rejected', 'voicemail'])
    // Nobody is dialed for a caller who has one in hand.
    expect((await poll(team.asRep, id)).ringing).toEqual([])
    const { outcomes, task } = await team.asRep.ok(brief, { params: { id: ids[5]! }, query: { block: id } })
    const interested = outcomes.find(({ name }) => name === 'Interested')!
    await team.asRep.ok(logOutcome, {
      params: { id: ids[5]! },
      body: {
        id: randomUUID(),
        outcomeId: interested.id,
        taskId: task?.id ?? null,
        blockId: id,
        fingerprint: interested.fingerprint,
      },
    })
    expect((await poll(team.asRep, id)).call).toBeNull()
    await expect.poll(async () => (await poll(team.asRep, id)).last.length, { interval: 50 }).toBe(6)
    await expect.poll(() => statusesOf(id).then((all) => all.filter((one) => one === 'busy').length)).toBe(2)
    const block = await team.asManager.ok(getBlock, { params: { id } })
    expect(block.made).toMatchObject({ call: 7, conversation: 1 })
    expect(block.counts.open).toBe(0)
    const report = await team.asManager.ok(linesReport, { params: { id } })
    expect(report).toMatchObject({ dialed: 7, answered: 1, abandoned: 0, fault: null, byStatus: { rejected: 1 } })
  })

  it('dials one line for one caller while nothing is known, and more once there is room', async () => {
    const { id, campaign } = await blockOf(Array(8).fill('no_answer') as Behavior[])
    await begin(team.asRep, id)
    expect((await poll(team.asRep, id)).ringing).toHaveLength(1)
    await poll(team.asRep, id, false)
    const more = await blockOf(Array(8).fill('no_answer') as Behavior[], { campaign: campaign.toUpperCase() })
    await callsBefore(campaign, 300)
    await begin(team.asRep, more.id)
    expect((await poll(team.asRep, more.id)).ringing).toHaveLength(2)
    // Asked again at once, no more are dialed than may ring.
    expect((await poll(team.asRep, more.id)).ringing).toHaveLength(2)
    // Two who wait have three lines each: hardly ever do more than two of six answer.
    await begin(team.asOther, more.id)
    expect((await poll(team.asOther, more.id)).ringing.length).toBeGreaterThanOrEqual(5)
    await poll(team.asOther, more.id, false)
    // Over what may be abandoned, it is one for each caller again.
    const over = await blockOf(Array(8).fill('no_answer') as Behavior[], { campaign })
    await callsBefore(campaign, 20, 10)
    await begin(team.asRep, over.id)
    expect((await poll(team.asRep, over.id)).ringing).toHaveLength(1)
    const report = await team.asManager.ok(linesReport, { params: { id: over.id } })
    expect(report).toMatchObject({ answered: 320, abandoned: 10 })
    expect(report.abandonedShare!.high).toBeGreaterThan(0.03)
  })

  it('plays the call-back message to who answers when nobody is free, and calls them next', async () => {
    const { id, ids, campaign } = await blockOf(['answered', 'answered', 'answered', 'no_answer'])
    await callsBefore(campaign, 900)
    await begin(team.asRep, id)
    const first = await waitForCall(team.asRep, id)
    await expect.poll(() => statusesOf(id), { timeout: 8_000 }).toContain('abandoned')
    await expect
      .poll(async () => (await statusesOf(id)).filter((status) => status === 'ringing').length, { timeout: 5_000 })
      .toBe(0)
    const said = exchange.made().filter(({ said }) => said !== null)
    expect(said.map((one) => one.said)).toContain(MESSAGE)
    const waiting = await rows<{ id: string }>(
      sql`
        select prospect_id as id
        from call_block_people
        where block_id = $1 and answered_at is not null
        order by answered_at
      `,
      [id],
    )
    expect(waiting.length).toBeGreaterThan(0)
    const { entries } = await team.asRep.ok(prospectHistory, { params: { id: waiting[0]!.id } })
    expect(entries.map(({ title }) => title)).toContain('Answered, no caller free')
    await team.asRep.ok(skipInBlock, { params: { id }, body: { prospectId: first.prospectId, why: 'Hung up' } })
    const { task } = await team.asRep.ok(brief, { params: { id: waiting[0]!.id }, query: { block: id } })
    expect(task).toMatchObject({ kind: 'call_back', title: 'Call back: they answered and no caller was free' })
    // Of the three who are left, two are dialed: they are one of them.
    const dialed = async () =>
      (
        await rows<{ who: string; count: number }>(
          sql`
            select prospect_id as who, count(*)::int as count
            from calls
            where block_id = $1
            group by 1
          `,
          [id],
        )
      ).find(({ who }) => who === waiting[0]!.id)!.count
    expect(await dialed()).toBe(1)
    await poll(team.asRep, id)
    expect(await dialed()).toBe(2)
    expect(ids).toContain(waiting[0]!.id)
  })

  it('shares what is answered among its callers: never one call to two, nor one person twice', async () => {
    const { id, campaign } = await blockOf(Array(16).fill('answered') as Behavior[])
    await callsBefore(campaign, 3_000)
    const talk = async (caller: Caller) => {
      await begin(caller, id)
      const spoken: string[] = []
      for (let nth = 0; nth < 4; nth++) {
        const { prospectId } = await waitForCall(caller, id)
        spoken.push(prospectId)
        await caller.ok(logOutcome, {
          params: { id: prospectId },
          body: { id: randomUUID(), outcomeId: await outcomeId('Interested'), blockId: id },
        })
      }
      await poll(caller, id, false)
      return spoken
    }
    const spoken = (await Promise.all([talk(team.asRep), talk(team.asOther)])).flat()
    expect(new Set(spoken).size).toBe(8)
    const connected = exchange.made().filter(({ isConnected }) => isConnected)
    expect(new Set(connected.map(({ number }) => number)).size).toBe(connected.length)
  })

  it('keeps who was spoken to in hand when the line drops, also in another browser, until the outcome is logged', async () => {
    const { id, ids } = await blockOf(['answered', 'busy'])
    await begin(team.asRep, id)
    const call = await waitForCall(team.asRep, id)
    const [{ ref }] = (await rows<{ ref: string }>(sql`select line_ref as ref from calls where id = $1`, [
      call.id,
    ])) as [{ ref: string }]
    exchange.end(ref)
    await expect.poll(() => statusesOf(id)).toEqual(['completed'])
    // The browser was closed: the next one begins with the same person, and nobody else is dialed.
    await poll(team.asRep, id, false)
    expect((await poll(team.asRep, id)).call).toEqual(call)
    expect((await begin(team.asRep, id)).items.map(({ prospectId }) => prospectId)).toEqual([ids[0]])
    expect(await statusesOf(id)).toEqual(['completed'])
    await team.asRep.ok(logOutcome, {
      params: { id: ids[0]! },
      body: { id: randomUUID(), outcomeId: await outcomeId('Interested'), blockId: id },
    })
    await poll(team.asRep, id)
    await expect.poll(() => statusesOf(id), { timeout: 5_000 }).toEqual(['busy', 'completed'])
  })

  it('leaves the caller’s message in voicemail boxes where the block says so', async () => {
    const wav = writeWav(new Float32Array(4_000), 4_000)
    await team.asRep.raw(
      'POST',
      `${addVoicemailMessage.path}?name=${encodeURIComponent('Short hello')}`,
      Buffer.from(wav),
    )
    const { id, ids } = await blockOf(['voicemail'], { leavesMessages: true })
    await begin(team.asRep, id)
    await poll(team.asRep, id)
    await expect.poll(() => statusesOf(id), { timeout: 5_000 }).toEqual(['message_left'])
    const block = await team.asManager.ok(getBlock, { params: { id } })
    expect(block.beads).toMatchObject([{ prospectId: ids[0], state: 'message' }])
    expect(block.calls).toMatchObject([{ outcome: 'Left voicemail' }])
  })

  it('takes callbacks that are played twice, of calls that are over, and of none of ours, for nothing new', async () => {
    const { id } = await blockOf(['busy'])
    await begin(team.asRep, id)
    await poll(team.asRep, id)
    await expect.poll(() => statusesOf(id), { timeout: 5_000 }).toEqual(['busy'])
    const { lineEnded, lineAnswered, lineVoicemail } = await import('../../../server/services/lines/callbacks')
    const [call] = await rows<{ id: string; ref: string }>(
      sql`select id, line_ref as ref from calls where block_id = $1`,
      [id],
    )
    await lineEnded(call!.id, 'abandoned')
    await lineVoicemail(call!.id, call!.ref)
    await lineAnswered(call!.id, call!.ref)
    await lineEnded(randomUUID(), 'busy')
    expect(await statusesOf(id)).toEqual(['busy'])
    expect((await team.asManager.ok(getBlock, { params: { id } })).made.call).toBe(1)
  })
})

describe('several lines are refused', () => {
  it('for a message without a number, for reps who are not managers, and with no dialer', async () => {
    const ids = await peopleWho(['busy'])
    const body = { id: randomUUID(), name: 'Cold rooms', callerIds: [team.rep.id], who: { prospectIds: ids }, lines: 2 }
    const error = await team.asManager.refused(addBlock, 400, { body: { ...body, callBackMessage: 'Sorry!' } })
    expect(error.problems).toMatchObject([{ field: 'callBackMessage' }])
    const byRep = await team.asRep.refused(addBlock, 400, { body: { ...body, callBackMessage: MESSAGE } })
    expect(byRep.problems).toMatchObject([{ field: 'lines' }])
    exchange.connect(exchange.url, null)
    const without = await team.asManager.refused(addBlock, 400, { body: { ...body, callBackMessage: MESSAGE } })
    expect(without.problems).toMatchObject([{ field: 'lines' }])
    exchange.connect()
  })

  it('where an outcome that is to be logged is archived, and says which; not for callers of other blocks', async () => {
    const { id } = await blockOf(['busy'])
    await team.asManager.refused(dialLines, 403, { params: { id }, body: { on: true } })
    await begin(team.asRep, id)
    const chosen = await team.asManager.ok(getLineOutcomes, {})
    const { outcomes } = await team.asManager.ok(listOutcomes, {})
    const busy = outcomes.find((one) => one.id === chosen.busy)!
    const { id: outcome, position, faults: _, ...content } = busy
    const edit = (archived: boolean) =>
      team.asManager.ok(editOutcome, { params: { id: outcome }, body: { ...content, position, archived } })
    await edit(true)
    await team.asRep.refused(dialLines, 422, { params: { id }, body: { on: true } })
    expect((await team.asManager.ok(linesReport, { params: { id } })).fault).toContain('busy')
    const needing = outcomes.find(({ name }) => name === 'Meeting booked')!.id
    const refused = await team.asManager.refused(editLineOutcomes, 400, { body: { ...chosen, busy: needing } })
    expect(refused.problems).toMatchObject([{ field: 'busy' }])
    await team.asRep.refused(editLineOutcomes, 403, { body: chosen })
    await team.asManager.ok(editLineOutcomes, { body: { ...chosen, busy: chosen.no_answer } })
    expect((await poll(team.asRep, id)).on).toBe(true)
    await edit(false)
    await team.asManager.ok(editLineOutcomes, { body: chosen })
  })
})
