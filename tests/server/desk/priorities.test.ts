import { randomUUID } from 'node:crypto'
import { beforeAll, describe, expect, it } from 'vitest'
import { planTask } from '../../../shared/api/desk/desk'
import { queue } from '../../../shared/api/desk/queue'
import { addList, addToList, removeList } from '../../../shared/api/lists'
import { editQueuePriorities, getQueuePriorities } from '../../../shared/api/settings/queue'
import { db } from '../../../server/db/pool'
import { sql } from '../../../server/db/sql'
import { addPeople, freeze, MONDAY } from '../../fixtures/people'
import { withTeam } from '../../fixtures/team'

const team = withTeam()
const HOUR = 3_600_000
const people: Record<string, string> = {}
const NAMES = ['longest', 'opened', 'scored', 'first', 'second', 'later']

beforeAll(async () => {
  freeze(MONDAY + 2 * HOUR)
  const { ids } = await addPeople(NAMES.length, team.rep.id)
  for (const [at, name] of NAMES.entries()) {
    people[name] = ids[at]!
    await team.asRep.ok(planTask, {
      params: { id: ids[at]! },
      body: {
        id: randomUUID(),
        task: 'call',
        title: 'Planned',
        dueAt: name === 'later' ? MONDAY + 4 * HOUR : MONDAY - (NAMES.length - at) * 60_000,
      },
    })
  }
  await db().query(sql`update prospects set score = 60 where id = any($1::uuid[])`, [
    [people.scored, people.later, people.second],
  ])
  // One email opened twice, and another once.
  for (const opens of [2, 1]) {
    await db().query(
      sql`
        with address as (
          insert into email_addresses (id, prospect_id, address, position)
          values (gen_random_uuid(), $1, $2, 5)
          returning id
        )
        insert into email_messages (id, prospect_id, kind, email_address_id, sender_id, status, send_at, opened_at, opens)
        select gen_random_uuid(), $1, 'personal', a.id, $3, 'sent', world_now(), world_now(), $4
        from address a
      `,
      [people.opened, `opens${opens}@hillside.example`, team.rep.id, opens],
    )
  }
})

const inOrder = async (query: Record<string, string> = {}) => {
  const { items, counts, priorities } = await team.asRep.ok(queue, { query })
  const nameOf = (id: string) => NAMES.find((name) => people[name] === id)
  return { counts, priorities, items, order: items.map(({ prospectId }) => nameOf(prospectId)) }
}
const put = (priorities: object[]) =>
  team.asManager.ok(editQueuePriorities, { body: { priorities: priorities as never } })
const OPENED = { type: 'filter', filter: { field: 'emailOpens', test: { op: 'atLeast', number: 3 } } }
const SCORED = { type: 'filter', filter: { field: 'score', test: { op: 'atLeast', number: 50 } } }

describe('what a team works first', () => {
  it('is put before the rest of the queue, in its order, said and counted', async () => {
    expect((await inOrder()).order).toEqual(['longest', 'opened', 'scored', 'first', 'second', 'later'])
    const { priorities } = await put([OPENED, SCORED])
    expect(priorities.map(({ inWords }) => inWords)).toEqual(['Email opens is at least 3', 'Score is at least 50'])
    const { order, items, counts, ...read } = await inOrder()
    // Those that open later stay there.
    expect(order).toEqual(['opened', 'scored', 'second', 'longest', 'first', 'later'])
    expect(read.priorities).toEqual([
      { label: 'Email opens is at least 3', count: 1 },
      { label: 'Score is at least 50', count: 2 },
    ])
    expect(items.map(({ priority }) => priority !== null)).toEqual([true, true, true, false, false, false])
    expect(counts).toMatchObject({ due: 2, later: 1 })
    // A rep who chose another order works that.
    expect((await inOrder({ sort: 'due' })).order).toEqual(['longest', 'opened', 'scored', 'first', 'second', 'later'])
    await put([SCORED, OPENED])
    expect((await inOrder()).order.slice(0, 3)).toEqual(['scored', 'second', 'opened'])
  })
  it('may be a list, worked in its own order', async () => {
    const { id } = await team.asManager.ok(addList, {
      body: { name: 'Fair', kind: 'fixed', sort: { field: 'name', down: true } },
    })
    await team.asManager.ok(addToList, { params: { id }, body: { prospectIds: [people.first!, people.longest!] } })
    await db().query(sql`update prospects set first_name = 'Zora' where id = $1`, [people.first])
    await db().query(sql`update prospects set first_name = 'Abel' where id = $1`, [people.longest])
    const { priorities } = await put([{ type: 'list', listId: id }, OPENED])
    expect(priorities[0]).toMatchObject({ inWords: 'On the list “Fair”, in its order', problem: null })
    expect((await inOrder()).order.slice(0, 3)).toEqual(['first', 'longest', 'opened'])
    // The list is deleted: the priority says so and is left out, the others hold.
    await team.asManager.ok(removeList, { params: { id } })
    const { priorities: left } = await team.asManager.ok(getQueuePriorities, {})
    expect(left[0]!.problem).toBe('This list no longer exists')
    expect((await inOrder()).order[0]).toBe('opened')
  })
  it('is changed by managers alone, and what cannot be asked is said at its place', async () => {
    await team.asRep.refused(editQueuePriorities, 403, { body: { priorities: [] } })
    const refused = async (priorities: object[]) =>
      (await team.asManager.refused(editQueuePriorities, 400, { body: { priorities: priorities as never } })).problems
    expect(await refused([SCORED, { type: 'filter', filter: { all: [] } }])).toMatchObject([
      { field: 'priorities.1.filter' },
    ])
    expect(await refused([SCORED, OPENED, SCORED])).toMatchObject([{ field: 'priorities.2.filter' }])
    expect(await refused([{ type: 'list', listId: randomUUID() }])).toMatchObject([{ field: 'priorities.0.listId' }])
    expect(
      await refused([{ type: 'filter', filter: { field: 'nothing', test: { op: 'atLeast', number: 1 } } }]),
    ).toMatchObject([{ field: 'priorities.0.filter' }])
    expect(await refused(Array.from({ length: 9 }, () => SCORED))).toMatchObject([{ field: 'priorities' }])
    await put([])
    expect((await inOrder()).priorities).toEqual([])
  })
})
