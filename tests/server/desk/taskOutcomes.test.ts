import { randomUUID } from 'node:crypto'
import { describe, expect, it } from 'vitest'
import { undo as takeBack } from '../../../shared/api/events/history'
import { brief, logOutcome, planTask } from '../../../shared/api/desk/desk'
import { addOutcome, listOutcomes } from '../../../shared/api/settings/outcomes'
import { recordEvents } from '../../../server/engine/recordEvents'
import { history } from '../../../server/services/activity/history'
import { sql } from '../../../server/db/sql'
import { addPeople, freeze, MONDAY, outcomeId, rows } from '../../fixtures/people'
import { withTeam } from '../../fixtures/team'

const team = withTeam()

/** Someone who has just replied. */
async function whoReplied(): Promise<string> {
  const [prospectId] = (await addPeople(1, team.rep.id)).ids as [string]
  const about = { id: randomUUID(), prospectId, actorId: null, causedByEventId: null }
  await recordEvents([{ ...about, kind: 'emailReplied', messageId: null }])
  return prospectId
}
const seen = async (id: string, query: object = {}) => {
  const [task] = await rows<{ id: string }>(
    sql`select id from tasks where prospect_id = $1 and status = 'open' order by priority, due_at limit 1`,
    [id],
  )
  return team.asRep.ok(brief, { params: { id }, query: { task: task!.id, ...query } })
}
const named = (shown: Awaited<ReturnType<typeof seen>>, name: string) =>
  shown.outcomes.find((one) => one.name === name)!

describe('a reply', () => {
  it('is shown with the outcomes for replies, under the keys they have for calls', async () => {
    freeze(MONDAY)
    const id = await whoReplied()
    const shown = await seen(id)
    expect(shown.work).toBe('reply')
    const names = shown.outcomes.map(({ name }) => name)
    expect(names).toContain('Interested')
    expect(names).not.toContain('No answer')
    const called = await seen(id, { call: 'elsewhere' })
    expect(called.work).toBe('call')
    expect(called.outcomes.map(({ name }) => name)).toContain('No answer')
    expect(named(shown, 'Not interested').key).toBe(named(called, 'Not interested').key)
  })
  it('gets an outcome that does what was shown, is no call, and can be undone', async () => {
    const id = await whoReplied()
    const shown = await seen(id)
    const { id: outcome, fingerprint, summary } = named(shown, 'Interested')
    const body = { id: randomUUID(), outcomeId: outcome, on: 'task' as const, taskId: shown.task!.id, fingerprint }
    const done = await team.asRep.ok(logOutcome, {
      params: { id },
      body: { ...body, details: { note: 'Wants prices' } },
    })
    expect(done.summary).toBe(summary)
    const [entry] = await history(team.rep, id, 1)
    expect(entry).toMatchObject({ title: 'Reply handled: Interested', note: 'Wants prices', canUndo: true })
    expect(await rows(sql`select kind, counts_as from touches where prospect_id = $1 order by at, id`, [id])).toEqual([
      { kind: 'reply', counts_as: 'conversation' },
      { kind: 'task', counts_as: 'none' },
    ])
    await team.asRep.refused(logOutcome, 409, { params: { id }, body })
    await team.asRep.refused(logOutcome, 409, { params: { id }, body: { ...body, id: randomUUID() } })
    await team.asRep.ok(takeBack, { params: { id: body.id }, body: { id: randomUUID() } })
    expect((await seen(id)).work).toBe('reply')
  })
  it('takes no outcome that is for calls alone, none without its task, and none that has changed', async () => {
    const id = await whoReplied()
    const { task } = await seen(id)
    const body = () => ({ id: randomUUID(), on: 'task' as const, taskId: task!.id })
    const call = await team.asRep.refused(logOutcome, 422, {
      params: { id },
      body: { ...body(), outcomeId: await outcomeId('No answer') },
    })
    expect(call.problems.map(({ field }) => field)).toEqual(['outcome'])
    const interested = { ...body(), outcomeId: await outcomeId('Interested') }
    const none = await team.asRep.refused(logOutcome, 400, { params: { id }, body: { ...interested, taskId: null } })
    expect(none.problems.map(({ field }) => field)).toEqual(['taskId'])
    await team.asRep.refused(logOutcome, 409, { params: { id }, body: { ...interested, fingerprint: 'another' } })
    await team.asOther.refused(logOutcome, 404, { params: { id }, body: interested })
  })
})

describe('a to-do', () => {
  it('has the outcomes that a manager made for to-dos', async () => {
    const [id] = (await addPeople(1, team.rep.id)).ids as [string]
    await team.asManager.refused(addOutcome, 400, {
      body: { name: 'None', countsAs: 'none', usedFor: [], requiredInputs: [], reasons: [], actions: [] },
    })
    const { id: research } = await team.asManager.ok(addOutcome, {
      body: {
        name: 'Moved to another company',
        countsAs: 'none',
        usedFor: ['task'],
        requiredInputs: ['note'],
        reasons: [],
        actions: [{ type: 'rate', rating: 'cold' }],
      },
    })
    const listed = (await team.asRep.ok(listOutcomes)).outcomes.find((one) => one.id === research)
    expect(listed).toMatchObject({ usedFor: ['task'] })
    await team.asRep.ok(planTask, {
      params: { id },
      body: { id: randomUUID(), task: 'task', title: 'Look them up', dueAt: MONDAY + 60_000 },
    })
    await freeze(MONDAY + 120_000)
    const [task] = await rows<{ id: string }>(sql`select id from tasks where prospect_id = $1 and kind = 'task'`, [id])
    const shown = await team.asRep.ok(brief, { params: { id }, query: { task: task!.id } })
    expect(shown.work).toBe('task')
    expect(named(shown, 'Moved to another company')).toMatchObject({ id: research, requiredInputs: ['note'] })
    const body = { outcomeId: research, on: 'task' as const, taskId: task!.id }
    const lacks = await team.asRep.refused(logOutcome, 422, { params: { id }, body: { ...body, id: randomUUID() } })
    expect(lacks.problems.map(({ field }) => field)).toEqual(['note'])
    await team.asRep.ok(logOutcome, {
      params: { id },
      body: { ...body, id: randomUUID(), details: { note: 'Now at Gault' } },
    })
    expect(await rows(sql`select rating from prospects where id = $1`, [id])).toEqual([{ rating: 'cold' }])
    expect((await history(team.rep, id, 1))[0]).toMatchObject({ title: 'Task done: Moved to another company' })
  })
})
