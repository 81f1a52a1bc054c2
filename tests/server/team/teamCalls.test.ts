import { randomUUID } from 'node:crypto'
import { describe, expect, it } from 'vitest'
import { finishTask, planTask } from '../../../shared/api/desk/desk'
import { queue } from '../../../shared/api/desk/queue'
import { listNotifications } from '../../../shared/api/notifications'
import { prospectHistory, undo } from '../../../shared/api/events/history'
import { assignCalls, teamCalls } from '../../../shared/api/team'
import { addPeople, freeze, MONDAY } from '../../fixtures/people'
import { withTeam } from '../../fixtures/team'

const team = withTeam()
const DAY = 86_400_000

describe('the calls of the team', () => {
  it('are read by a manager, by owner and by what is overdue, and assigned; each is an event that can be undone', async () => {
    freeze(MONDAY)
    const mine = (await addPeople(3, team.rep.id)).ids
    const [theirs] = (await addPeople(1, team.other.id)).ids
    for (const [index, id] of [...mine, theirs!].entries()) {
      const body = {
        id: randomUUID(),
        task: 'call' as const,
        title: `Call ${index}`,
        dueAt: MONDAY + (index - 2) * DAY,
      }
      await team.asManager.ok(planTask, { params: { id }, body })
    }
    await team.asManager.ok(planTask, {
      params: { id: mine[0]! },
      body: { id: randomUUID(), task: 'task', title: 'No call', dueAt: MONDAY },
    })
    const all = await team.asManager.ok(teamCalls, { query: {} })
    expect(all.calls.map(({ title, overdue }) => [title, overdue])).toEqual([
      ['Call 0', true],
      ['Call 1', true],
      ['Call 2', false],
      ['Call 3', false],
    ])
    expect(all.owners).toEqual([
      { id: team.rep.id, name: team.rep.name, open: 3, overdue: 2 },
      { id: team.other.id, name: team.other.name, open: 1, overdue: 0 },
    ])
    const late = await team.asManager.ok(teamCalls, { query: { overdue: 'yes', ownerId: team.rep.id, limit: 1 } })
    expect([late.calls.length, late.total]).toEqual([1, 2])

    const [first, second] = all.calls as [(typeof all.calls)[number], (typeof all.calls)[number]]
    await team.asRep.ok(finishTask, { params: { id: second.id }, body: { id: randomUUID() } })
    const taskIds = [first.id, second.id]
    expect(await team.asManager.ok(assignCalls, { body: { taskIds, to: team.other.id } })).toEqual({
      assigned: 1,
      left: 1,
    })
    const { notifications } = await team.asOther.ok(listNotifications, {})
    expect(notifications[0]).toMatchObject({
      kind: 'calls_assigned',
      sentence: 'Maren Holloway assigned 1 call to you',
    })
    const on = async (as = team.asOther) => (await as.ok(queue, { query: {} })).items.map(({ taskId }) => taskId)
    expect(await on()).toContain(first.id)
    expect(await on(team.asRep)).not.toContain(first.id)
    const { entries } = await team.asManager.ok(prospectHistory, { params: { id: mine[0]! }, query: {} })
    const given = entries.find(({ title }) => title === 'To-do assigned')!
    await team.asManager.ok(undo, { params: { id: given.id }, body: { id: randomUUID() } })
    expect(await on(team.asRep)).toContain(first.id)
  })

  it('are for managers alone, and go to people on the team', async () => {
    await team.asRep.refused(teamCalls, 403, { query: {} })
    await team.asRep.refused(assignCalls, 403, { body: { taskIds: [randomUUID()], to: team.rep.id } })
    await team.asManager.refused(assignCalls, 400, { body: { taskIds: [randomUUID()], to: randomUUID() } })
    expect(await team.asManager.ok(assignCalls, { body: { taskIds: [randomUUID()], to: team.rep.id } })).toEqual({
      assigned: 0,
      left: 1,
    })
  })
})
