import { randomUUID } from 'node:crypto'
import { describe, expect, it } from 'vitest'
import { bulkToDos, getBulk, previewBulk, startBulk, undoBulk } from '../../../shared/api/bulk'
import { brief as getBrief, finishTask, logOutcome, planTask, writeEmail } from '../../../shared/api/desk/desk'
import { queue } from '../../../shared/api/desk/queue'
import { db } from '../../../server/db/pool'
import { sql } from '../../../server/db/sql'
import { runBulk } from '../../../server/services/bulk/runBulk'
import { addPeople, freeze, MONDAY, rows } from '../../fixtures/people'
import { withTeam } from '../../fixtures/team'

const team = withTeam()
const NOON = MONDAY + 6 * 3_600_000
const plan = (over: object) => ({
  type: 'plan' as const,
  task: 'call' as const,
  title: 'Ask about the audit',
  dueAt: NOON,
  ownerId: null,
  ...over,
})
async function run(action: ReturnType<typeof plan>, prospectIds: string[]) {
  const id = randomUUID()
  await team.asManager.ok(startBulk, { body: { id, action, prospectIds } })
  await runBulk(id)
  return team.asManager.ok(getBulk, { params: { id } })
}
const taskOf = async (prospectId: string) =>
  (
    await rows<{ id: string }>(
      sql`
        select id
        from tasks
        where prospect_id = $1 and status = 'open' and content_id is not null
      `,
      [prospectId],
    )
  )[0]!.id

describe('to-dos from a list', () => {
  it('say what to say to each, and show per owner what was made and what became of it', async () => {
    freeze(MONDAY)
    const mine = (await addPeople(3, team.rep.id)).ids
    const others = (await addPeople(2, team.other.id)).ids
    await db().query(sql`update prospects set stop_call = true where id = $1`, [others[1]])
    const action = plan({ body: 'Hello {{ first_name }}, this is {{ sender_name }}.' })
    const ids = [...mine, ...others]
    expect(await team.asManager.ok(previewBulk, { body: { action, prospectIds: ids } })).toMatchObject({
      touches: 4,
      shares: [
        { id: team.rep.id, people: 3 },
        { id: team.other.id, people: 1 },
      ],
      leftOut: [{ reason: 'asked for no calls', count: 1 }],
    })
    const { id } = await run(action, ids)
    const first = await taskOf(mine[0]!)
    const brief = await team.asRep.ok(getBrief, { params: { id: mine[0]! }, query: { task: first } })
    expect(brief.script).toBe(`Hello ${brief.prospect.name.split(' ')[0]}, this is ${team.rep.name}.`)

    freeze(NOON + 60_000)
    const outcome = brief.outcomes.find((one) => one.name === 'No answer')!
    await team.asRep.ok(logOutcome, {
      params: { id: mine[0]! },
      body: { id: randomUUID(), outcomeId: outcome.id, taskId: first, fingerprint: null, phoneId: null },
    })
    await team.asRep.ok(finishTask, { params: { id: await taskOf(mine[1]!) }, body: { id: randomUUID() } })
    const counted = await team.asManager.ok(getBulk, { params: { id } })
    expect(counted.toDos).toEqual([
      { ownerId: team.rep.id, owner: team.rep.name, made: 3, done: 2, open: 1, overdue: 1, cancelled: 0 },
      { ownerId: team.other.id, owner: team.other.name, made: 1, done: 0, open: 1, overdue: 1, cancelled: 0 },
    ])
    expect(counted.leftOut).toMatchObject([{ reason: 'asked for no calls', people: [{ id: others[1] }] }])
    const { toDos, count } = await team.asManager.ok(bulkToDos, { params: { id }, query: { ownerId: team.rep.id } })
    expect(count).toBe(3)
    expect(toDos.map(({ prospectId, status, outcome }) => [prospectId, status, outcome])).toEqual(
      expect.arrayContaining([
        [mine[0], 'done', 'No answer'],
        [mine[1], 'done', null],
        [mine[2], 'open', null],
      ]),
    )
    expect(toDos[0]!.prospectId).toBe(mine[2])
    // What a manager planned for others is the manager's to read, and undone as a whole it is away.
    await team.asRep.refused(bulkToDos, 404, { params: { id }, query: {} })
    const undoId = randomUUID()
    await team.asManager.ok(undoBulk, { params: { id }, body: { id: undoId } })
    await runBulk(undoId)
    expect((await team.asManager.ok(getBulk, { params: { id } })).toDos).toMatchObject([{ made: 2, open: 0 }])
  })

  it('hold emails and texts for their owner, who finds them filled in and sends them', async () => {
    freeze(MONDAY)
    const [lena, mute] = (await addPeople(2, team.rep.id)).ids as [string, string]
    await db().query(sql`update email_addresses set status = 'bounced' where prospect_id = $1`, [mute])
    const email = plan({
      task: 'email',
      title: 'Case study',
      subject: 'For {{ company }}',
      body: 'Hello {{ first_name }}, about {{ title }}.',
    })
    const result = await run(email, [lena, mute])
    expect(result).toMatchObject({ done: 1, leftOut: [{ reason: 'no email address that works', count: 1 }] })
    freeze(NOON)
    const { items } = await team.asRep.ok(queue, { query: {} })
    expect(items.filter(({ prospectId }) => prospectId === lena)).toMatchObject([{ kind: 'email', why: 'Case study' }])
    const task = await taskOf(lena)
    const { message, prospect } = await team.asRep.ok(getBrief, { params: { id: lena }, query: { task } })
    expect(message).toMatchObject({ subject: `For ${prospect.company!.name}`, missing: ['title'] })
    await team.asRep.ok(writeEmail, {
      params: { id: lena },
      body: { id: randomUUID(), taskId: task, subject: message!.subject, body: 'Hello', inReplyTo: null },
    })
    expect((await team.asManager.ok(getBulk, { params: { id: result.id } })).toDos).toMatchObject([
      { made: 1, done: 1, open: 0 },
    ])
    // Texts go to mobile numbers only; they and their script are looked at as a text.
    await db().query(sql`update phones set kind = 'mobile' where prospect_id = $1`, [lena])
    const text = await run(plan({ task: 'text', title: 'A short text', body: 'Hi {{ first_name }}' }), [lena, mute])
    expect(text).toMatchObject({ done: 1, leftOut: [{ reason: 'no mobile number that works' }] })
    const due = await team.asRep.ok(getBrief, { params: { id: lena }, query: { task: await taskOf(lena) } })
    expect(due).toMatchObject({ task: { kind: 'text' }, message: { body: `Hi ${prospect.name.split(' ')[0]}` } })
  })

  it('are refused where a merge field is wrong, for many and for one', async () => {
    const { ids } = await addPeople(1, team.rep.id)
    const action = plan({ body: 'Hello {{ nickname }}' })
    const answer = await team.asManager.refused(startBulk, 400, {
      body: { id: randomUUID(), action, prospectIds: ids },
    })
    expect(answer.problems).toMatchObject([{ field: 'action.body' }])
    const { type: _, ...one } = action
    await team.asRep.refused(planTask, 400, { params: { id: ids[0]! }, body: { id: randomUUID(), ...one } })
    const id = randomUUID()
    await team.asRep.ok(planTask, { params: { id: ids[0]! }, body: { id, ...one, body: 'Ask {{ first_name }}' } })
    const { script } = await team.asRep.ok(getBrief, {
      params: { id: ids[0]! },
      query: { task: await taskOf(ids[0]!) },
    })
    expect(script).toMatch(/^Ask \w+$/)
  })
})
