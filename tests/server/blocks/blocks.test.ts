import { randomUUID } from 'node:crypto'
import type { z } from 'zod'
import { beforeEach, describe, expect, it } from 'vitest'
import {
  addBlock,
  addToBlock,
  blockCsv,
  closeBlock,
  editBlock,
  getBlock,
  listBlocks,
  previewBlock,
  removeFromBlock,
} from '../../../shared/api/blocks/blocks'
import { nextPass, skipInBlock, workBlock } from '../../../shared/api/blocks/work'
import { brief, logOutcome } from '../../../shared/api/desk/desk'
import { queue } from '../../../shared/api/desk/queue'
import { listNotifications } from '../../../shared/api/notifications'
import { prospectHistory, undo } from '../../../shared/api/events/history'
import { editOutcome, listOutcomes } from '../../../shared/api/settings/outcomes'
import { db } from '../../../server/db/pool'
import { sql } from '../../../server/db/sql'
import type { Caller } from '../../fixtures/caller'
import { addPeople, freeze, MONDAY, outcomeId, rows } from '../../fixtures/people'
import { withTeam } from '../../fixtures/team'

const DAY = 86_400_000
const team = withTeam()
beforeEach(() => freeze(MONDAY))

type Given = Partial<z.input<typeof addBlock.body>>
/** A block with people of their own, made by the manager for both reps. */
async function block(count: number, given: Given = {}) {
  const { ids, companyId } = await addPeople(count, team.rep.id)
  const { id, people } = await team.asManager.ok(addBlock, {
    body: {
      id: randomUUID(),
      name: 'Aging rooms, Monday',
      callerIds: [team.rep.id, team.other.id],
      script: 'Hello {{ first_name }}, about {{ company }}',
      who: { prospectIds: ids },
      ...given,
    },
  })
  return { id, ids, companyId, people }
}
const work = (caller: Caller, id: string, more: { paused?: boolean; first?: string } = {}) =>
  caller.ok(workBlock, { params: { id }, body: more })
const inHand = async (caller: Caller, id: string, more: { first?: string } = {}) =>
  (await work(caller, id, more)).items.filter(({ group }) => group === 'due').map(({ prospectId }) => prospectId)
async function log(caller: Caller, blockId: string, prospectId: string, name: string, more: object = {}) {
  const id = randomUUID()
  const details = { note: 'Asked about the rooms', ...more }
  await caller.ok(logOutcome, {
    params: { id: prospectId },
    body: { id, outcomeId: await outcomeId(name), blockId, details },
  })
  return id
}
const read = (id: string) => team.asManager.ok(getBlock, { params: { id } })

describe('a call block', () => {
  it('says beforehand who can be called now and later, and who is skipped and why', async () => {
    const { ids } = await addPeople(8, team.rep.id)
    await db().query(sql`update prospects set time_zone = 'Pacific/Honolulu', region = 'HI' where id = $1`, [ids[0]])
    await db().query(sql`update prospects set stop_call = true where id = $1`, [ids[1]])
    await db().query(sql`delete from phones where prospect_id = $1`, [ids[2]])
    await db().query(sql`update phones set status = 'wrong' where prospect_id = $1`, [ids[3]])
    await db().query(sql`update phones set kind = 'mobile' where prospect_id = $1`, [ids[4]])
    await db().query(sql`update prospects set attempts = 4 where id = $1`, [ids[5]])
    await db().query(
      sql`update prospects set stage_id = (select id from stages where kind = 'closed' limit 1) where id = $1`,
      [ids[6]],
    )
    const asked = { who: { prospectIds: ids }, phoneKinds: ['work' as const], attempts: { from: 0, to: 3 } }
    const seen = await team.asManager.ok(previewBlock, { body: asked })
    // 10:42 in New York is 5:42 in Honolulu.
    expect(seen).toMatchObject({ found: 8, people: 2, callableNow: 1, laterToday: 1 })
    expect(Object.fromEntries(seen.skipped.map(({ why, count }) => [why, count]))).toEqual({
      'Do not call': 1,
      'No number to call': 2,
      'No number of those that are called': 1,
      'Not 0 to 3 attempts so far': 1,
      'Their stage is closed': 1,
    })
    const { people } = await team.asManager.ok(addBlock, {
      body: { id: randomUUID(), name: 'Checked', callerIds: [team.rep.id], ...asked },
    })
    expect(people).toBe(2)
    // Those who wait in an open block are in no other.
    const again = await team.asManager.ok(previewBlock, { body: asked })
    expect(again.skipped.find(({ why }) => why === 'In the call block “Checked”')?.count).toBe(2)
  })
  it('gives two callers who share it never the same person, each with number and script', async () => {
    const { id, ids } = await block(8)
    const [mine, theirs] = await Promise.all([inHand(team.asRep, id), inHand(team.asOther, id)])
    expect(mine).toHaveLength(3)
    expect(theirs).toHaveLength(3)
    expect(mine.filter((one) => theirs.includes(one))).toEqual([])
    // The other rep does not own them, and sees them because they call them.
    const seen = await team.asOther.ok(brief, { params: { id: theirs[0]! }, query: { block: id } })
    expect(seen.script).toMatch(/^Hello Tomas, about Marlpit Creamery/)
    // Asked again, everyone has those they had.
    expect(await inHand(team.asRep, id)).toEqual(mine)
    await team.asRep.refused(logOutcome, 409, {
      params: { id: theirs[0]! },
      body: { id: randomUUID(), outcomeId: await outcomeId('Busy'), blockId: id, details: { note: 'x' } },
    })
    await log(team.asOther, id, theirs[0]!, 'Busy')
    const next = await inHand(team.asOther, id)
    expect(next).toEqual([theirs[1], theirs[2], ids.find((one) => ![...mine, ...theirs].includes(one))])
  })
  it('hands twenty who ask at once nobody twice', async () => {
    const { id } = await block(40)
    const got = await Promise.all(
      Array.from({ length: 20 }, (_, index) => inHand(index % 2 ? team.asRep : team.asOther, id)),
    )
    const taken = await rows<{ id: string; by: string }>(
      sql`select prospect_id as id, taken_by as by from call_block_people where block_id = $1 and taken_by is not null`,
      [id],
    )
    expect(new Set(taken.map((one) => one.id)).size).toBe(taken.length)
    const of = (userId: string) => taken.filter(({ by }) => by === userId).map((one) => one.id)
    expect(
      got
        .filter((_, index) => index % 2)
        .flat()
        .every((one) => !of(team.other.id).includes(one)),
    ).toBe(true)
  })
  it('counts what was logged in it, and calls those who were not reached in a second pass', async () => {
    const { id, ids } = await block(4, {
      purpose: 'follow_up',
      callerIds: [team.rep.id],
      payBasis: 'conversation',
      payRate: 2.5,
    })
    expect(await read(id)).toMatchObject({ status: 'not_begun', inWords: '4 people; 4 to call' })
    await log(team.asRep, id, ids[0]!, 'Left voicemail')
    const meeting = { title: 'A look', startAt: MONDAY + DAY, minutes: 30, timeZone: 'America/New_York' }
    await log(team.asRep, id, ids[1]!, 'Meeting booked', { meeting })
    await log(team.asRep, id, ids[2]!, 'No answer')
    expect(await read(id)).toMatchObject({ status: 'under_way', counts: { message: 1, meeting: 1, tried: 1, open: 1 } })
    await team.asRep.ok(skipInBlock, { params: { id }, body: { prospectId: ids[3]!, why: 'On leave until May' } })
    const through = await read(id)
    expect(through.status).toBe('done')
    expect(through.skipped).toEqual([
      { prospect: { id: ids[3], name: 'Tomas Bellweather 4' }, why: 'On leave until May' },
    ])
    expect((await work(team.asRep, id)).block).toMatchObject({ open: 0, notReached: 2, pass: 1 })
    const { entries } = await team.asManager.ok(prospectHistory, { params: { id: ids[3]! } })
    const own = entries.filter(({ title }) => title.includes('call block'))
    expect(own.map(({ title, body }) => [title, body])).toEqual([
      ['Skipped in the call block “Aging rooms, Monday”', 'Reason: On leave until May'],
      ['Added to the call block “Aging rooms, Monday”', null],
    ])

    // The next morning, those who were not reached.
    await freeze(MONDAY + DAY)
    expect(await team.asRep.ok(nextPass, { params: { id }, body: { pass: 2 } })).toEqual({ pass: 2, open: 2 })
    expect(await team.asRep.ok(nextPass, { params: { id }, body: { pass: 2 } })).toEqual({ pass: 2, open: 2 })
    await team.asRep.refused(nextPass, 409, { params: { id }, body: { pass: 4 } })
    expect(await inHand(team.asRep, id)).toEqual([ids[0], ids[2]])
    const logged = await log(team.asRep, id, ids[0]!, 'Interested')
    await team.asManager.ok(closeBlock, { params: { id }, body: { closed: true } })
    const { account, status, calls, made } = await read(id)
    expect(status).toBe('closed')
    expect(account).toMatchObject([
      { people: 3, calls: 4, reached: 2, conversations: 2, messages: 1, meetings: 1, pay: 5 },
    ])
    expect(made).toEqual({ call: 4, conversation: 2, meeting: 1 })
    expect(calls[0]).toMatchObject({ id: logged, outcome: 'Interested', note: 'Asked about the rooms' })
    const csv = String(await team.asManager.ok(blockCsv, { params: { id } }))
    expect(csv.split(/\r?\n/)[1]).toMatch(/^"?Aging rooms, Monday"?,"?Imani Osei"?,3,4,2,2,1,1,[\d.]+,5\.00$/)
    expect((await work(team.asRep, id)).items).toEqual([])
  })
  it('takes back a call that is undone, and has its person to call again', async () => {
    const { id, ids } = await block(1, { callerIds: [team.rep.id] })
    const logged = await log(team.asRep, id, ids[0]!, 'Interested')
    expect((await read(id)).counts).toMatchObject({ reached: 1, open: 0 })
    await team.asRep.ok(undo, { params: { id: logged }, body: { id: randomUUID() } })
    expect(await read(id)).toMatchObject({ counts: { to_call: 1, open: 1 }, status: 'not_begun' })
    expect(await inHand(team.asRep, id, { first: ids[0]! })).toEqual(ids)
  })
  it('lets the time run while it is worked, not while it is paused, and keeps whom one had', async () => {
    const { id } = await block(5)
    const mine = await inHand(team.asRep, id)
    await db().query(
      sql`update call_block_sittings set started_at = now() - interval '90 seconds' where block_id = $1`,
      [id],
    )
    expect((await work(team.asRep, id)).block!.seconds).toBeGreaterThanOrEqual(90)
    const paused = await work(team.asRep, id, { paused: true })
    expect([paused.items, paused.block!.paused]).toEqual([[], true])
    // A machine that is closed gives no sign of life: the time ends with the last one.
    const other = await block(2)
    await work(team.asRep, other.id)
    await db().query(
      sql`
        update call_block_sittings
        set started_at = now() - interval '3 hours', last_seen_at = now() - interval '2 hours'
        where block_id = $1
      `,
      [other.id],
    )
    expect((await work(team.asRep, other.id)).block!.seconds).toBe(3_600)
    // Taken up on another machine, it goes on with the same people.
    expect(await inHand(team.asRep, id)).toEqual(mine)
    const [account] = (await read(id)).account.filter(({ caller }) => caller.id === team.rep.id)
    expect(account).toMatchObject({ workingNow: true })
    expect(account!.seconds).toBeGreaterThanOrEqual(90)
    // After a while others get those whom nobody calls.
    await db().query(
      sql`
        update call_block_people
        set taken_at = now() - interval '11 minutes'
        where block_id = $1 and taken_by is not null
      `,
      [id],
    )
    expect(await inHand(team.asOther, id)).toEqual(mine)
  })
  it('is handed to another caller, gets people and loses them', async () => {
    const { id, ids } = await block(3, { callerIds: [team.rep.id] })
    expect(await inHand(team.asRep, id)).toHaveLength(3)
    const { version, ...seen } = await read(id)
    const content = { ...seen, callerIds: [team.other.id] }
    expect(await team.asManager.ok(editBlock, { params: { id }, body: { ...content, version } })).toEqual({
      version: version + 1,
    })
    await team.asManager.refused(editBlock, 409, { params: { id }, body: { ...content, version } })
    await team.asRep.refused(workBlock, 404, { params: { id }, body: {} })
    expect(await inHand(team.asOther, id)).toHaveLength(3)
    // Who gets it reads of it, and finds it on the Desk.
    const { notifications } = await team.asOther.ok(listNotifications, { query: {} })
    expect(notifications[0]).toMatchObject({
      sentence: 'Maren Holloway handed you the call block “Aging rooms, Monday”, 3 prospects',
      to: `/blocks/${id}`,
    })
    const open = async (caller: Caller) => (await caller.ok(queue, { query: {} })).blocks.map((one) => one.id)
    expect([(await open(team.asOther)).includes(id), (await open(team.asRep)).includes(id)]).toEqual([true, false])
    const more = await addPeople(2, team.rep.id)
    expect(await team.asManager.ok(addToBlock, { params: { id }, body: { who: { prospectIds: more.ids } } })).toEqual({
      added: 2,
    })
    expect(
      await team.asManager.ok(removeFromBlock, { params: { id }, body: { prospectIds: [ids[0]!, more.ids[0]!] } }),
    ).toEqual({ removed: 2 })
    expect((await read(id)).counts.open).toBe(3)
    await team.asOther.refused(logOutcome, 409, {
      params: { id: ids[0]! },
      body: { id: randomUUID(), outcomeId: await outcomeId('Busy'), blockId: id, details: { note: 'x' } },
    })
    // From a block before: those who were not reached.
    await log(team.asOther, id, ids[1]!, 'Interested')
    await log(team.asOther, id, ids[2]!, 'Left voicemail')
    await team.asManager.ok(closeBlock, { params: { id }, body: { closed: true } })
    const second = await team.asManager.ok(addBlock, {
      body: { id: randomUUID(), name: 'Second round', callerIds: [team.other.id], notReachedIn: id },
    })
    expect(second.people).toBe(2)
    expect((await read(second.id)).beads.map(({ prospectId }) => prospectId).sort()).toEqual(
      [ids[2], more.ids[1]].sort(),
    )
  })
  it('goes on over a weekend with a clock change: by the people’s clocks, and with the time that was worked', async () => {
    const { id, ids } = await block(2, { callerIds: [team.rep.id] })
    await db().query(sql`update prospects set time_zone = 'America/Phoenix', region = 'AZ' where id = $1`, [ids[1]])
    const morning = (day: number, month: number) => freeze(Date.UTC(2026, month, day, 12, 30))
    // 8:30 in New York, still by daylight saving time; 5:30 in Phoenix.
    await morning(30, 9)
    expect(await inHand(team.asRep, id)).toEqual([ids[0]])
    await log(team.asRep, id, ids[0]!, 'No answer')
    // At the same hour of the world after the change it is 7:30 in New York.
    await morning(2, 10)
    await team.asManager.ok(nextPass, { params: { id }, body: { pass: 2 } })
    expect(await inHand(team.asRep, id)).toEqual([])
    await freeze(Date.UTC(2026, 10, 2, 13, 30))
    expect(await inHand(team.asRep, id)).toEqual([ids[0]])
    await freeze(Date.UTC(2026, 10, 2, 15, 30))
    expect((await inHand(team.asRep, id)).sort()).toEqual([...ids].sort())
    const { account, made } = await read(id)
    expect(made.call).toBe(1)
    // Time is worked by the machine's clock: three days of the world are no time in the block.
    expect(account.find(({ caller }) => caller.id === team.rep.id)!.seconds).toBeLessThan(60)
  })
  it('logs an outcome that was archived while it was chosen, so that nothing is lost, and offers it no more', async () => {
    const { id, ids } = await block(1, { callerIds: [team.rep.id] })
    await inHand(team.asRep, id)
    const { outcomes } = await team.asRep.ok(brief, { params: { id: ids[0]! }, query: { block: id } })
    const { id: outcome, fingerprint } = outcomes.find(({ name }) => name === 'Gatekeeper')!
    const all = await team.asManager.ok(listOutcomes, {})
    const { id: _, faults: __, ...content } = all.outcomes.find((one) => one.id === outcome)!
    const edit = (archived: boolean) =>
      team.asManager.ok(editOutcome, { params: { id: outcome }, body: { ...content, archived } })
    await edit(true)
    await team.asRep.ok(logOutcome, {
      params: { id: ids[0]! },
      body: { id: randomUUID(), outcomeId: outcome, blockId: id, fingerprint, details: { note: 'Asked about rooms' } },
    })
    expect((await read(id)).calls).toMatchObject([{ outcome: 'Gatekeeper', note: 'Asked about rooms' }])
    const now = await team.asRep.ok(brief, { params: { id: ids[0]! }, query: { block: id } })
    expect(now.outcomes.map(({ name }) => name)).not.toContain('Gatekeeper')
    await edit(false)
  })
  it('skips by itself whom nobody may call any more, and says why', async () => {
    const { id, ids, companyId } = await block(3, { callerIds: [team.rep.id] })
    await db().query(sql`update prospects set stop_call = true where id = $1`, [ids[0]])
    expect(await inHand(team.asRep, id)).toEqual([ids[1], ids[2]])
    expect((await read(id)).skipped.map(({ why }) => why)).toEqual(['Do not call'])
    await db().query(sql`update companies set status = 'in_deal' where id = $1`, [companyId])
    expect(await inHand(team.asRep, id)).toEqual([])
    expect((await read(id)).skipped.map(({ why }) => why)).toContain('Their company is in a deal')
  })
  it('is a rep’s own to make, and no other rep’s to see', async () => {
    const { ids } = await addPeople(1, team.rep.id)
    const body = { id: randomUUID(), name: 'Mine', callerIds: [team.rep.id], who: { prospectIds: ids } }
    const { problems } = await team.asRep.refused(addBlock, 400, { body: { ...body, callerIds: [team.other.id] } })
    expect(problems.map(({ field }) => field)).toEqual(['callerIds'])
    await team.asRep.ok(addBlock, { body })
    await team.asRep.refused(addBlock, 409, { body })
    await team.asOther.refused(getBlock, 404, { params: { id: body.id } })
    expect((await team.asOther.ok(listBlocks, { query: {} })).blocks.map(({ id }) => id)).not.toContain(body.id)
    expect((await team.asRep.ok(listBlocks, { query: {} })).blocks.map(({ id }) => id)).toContain(body.id)
    expect(
      (await team.asManager.ok(listBlocks, { query: { closed: 'yes' } })).blocks.map(({ id }) => id),
    ).not.toContain(body.id)
  })
  it.each<[string, Given, string]>([
    ['nobody', { who: { prospectIds: [randomUUID()] } }, 'who'],
    ['no choice of people', { who: undefined as never }, 'who'],
    ['no caller', { callerIds: [] }, 'callerIds'],
    ['a caller nobody knows', { callerIds: [randomUUID()] }, 'callerIds'],
    ['a broken script', { script: 'Hello {{ first_name' }, 'script'],
    ['a target of nothing', { target: 0 }, 'target'],
    ['a date that is none', { dueOn: '2026-02-30' }, 'dueOn'],
  ])('with %s is refused at the field', async (_, wrong, field) => {
    const { ids } = await addPeople(1, team.rep.id)
    const { problems } = await team.asManager.refused(addBlock, 400, {
      body: { id: randomUUID(), name: 'Wrong', callerIds: [team.rep.id], who: { prospectIds: ids }, ...wrong },
    })
    expect(problems.map((problem) => problem.field)).toContain(field)
  })
})
