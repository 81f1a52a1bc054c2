import { randomUUID } from 'node:crypto'
import { beforeAll, describe, expect, it } from 'vitest'
import { planTask } from '../../../shared/api/desk/desk'
import { addList } from '../../../shared/api/lists'
import { queue, queueChoices } from '../../../shared/api/desk/queue'
import { db } from '../../../server/db/pool'
import { sql } from '../../../server/db/sql'
import { addPeople, freeze, MONDAY } from '../../fixtures/people'
import { withTeam } from '../../fixtures/team'

const team = withTeam()
const HOUR = 3_600_000
const people: Record<'east' | 'west' | 'mail' | 'back', string> = { east: '', west: '', mail: '', back: '' }

beforeAll(async () => {
  freeze(MONDAY + 2 * HOUR)
  const { ids } = await addPeople(4, team.rep.id)
  const [east, west, mail, back] = ids as [string, string, string, string]
  Object.assign(people, { east, west, mail, back })
  await db().query(sql`update prospects set time_zone = 'America/Los_Angeles' where id = $1`, [west])
  await db().query(sql`update prospects set score = 30 where id = $1`, [mail])
  await db().query(sql`update prospects set score = 20 where id = $1`, [west])
  const plan = (id: string, task: 'call' | 'email', dueAt: number) =>
    team.asRep.ok(planTask, { params: { id }, body: { id: randomUUID(), task, title: 'Planned', dueAt } })
  await plan(east, 'call', MONDAY - 3 * HOUR)
  await plan(west, 'call', MONDAY - 2 * HOUR)
  await plan(mail, 'email', MONDAY - HOUR)
  await db().query(
    sql`
      insert into tasks (id, prospect_id, owner_id, kind, priority, title, due_at, status, time_zone)
      values ($1, $2, $3, 'call_back', 1, 'Call back', world_now(), 'open', 'America/New_York')
    `,
    [randomUUID(), back, team.rep.id],
  )
})

const read = async (query: Record<string, string | number> = {}) => {
  const { items, counts } = await team.asRep.ok(queue, { query })
  const names = Object.entries(people)
  return { counts, order: items.map(({ prospectId }) => names.find(([, id]) => id === prospectId)?.[0]), items }
}

describe('the queue as a rep chooses it', () => {
  it('is in the recommended order, or in another, with promises always first', async () => {
    expect((await read()).order).toEqual(['back', 'east', 'west', 'mail'])
    expect((await read({ sort: 'score' })).order).toEqual(['back', 'mail', 'west', 'east'])
    expect((await read({ sort: 'due' })).order).toEqual(['back', 'east', 'west', 'mail'])
    // By the clocks where they are: New York closes first, what needs no call can wait.
    expect((await read({ sort: 'closing' })).order).toEqual(['back', 'east', 'west', 'mail'])
    // Each says why it has its place.
    const whyOf = async (sort: string) => (await read({ sort })).items[1]!.why
    expect(await whyOf('score')).toMatch(/^score 30, /)
    expect(await whyOf('due')).toMatch(/^due today, 7:42 AM, /)
    expect(await whyOf('closing')).toMatch(/^callable until 6:00 PM your time, /)
  })
  it('is narrowed by channel, zone, cadence and a stretch of the day, and counts what it shows', async () => {
    const emails = await read({ channel: 'email' })
    expect(emails.order).toEqual(['mail'])
    expect(Object.values(emails.counts).reduce((sum, count) => sum + count, 0)).toBe(1)
    expect((await read({ timeZone: 'America/Los_Angeles' })).order).toEqual(['west'])
    expect((await read({ cadenceId: randomUUID() })).order).toEqual([])
    // A list, in any order; one that is not there (any more) has nobody on it.
    const { id: listId } = await team.asRep.ok(addList, {
      body: { name: 'Mine', kind: 'fixed', prospectIds: [people.east, people.mail] },
    })
    expect((await read({ listId })).order).toEqual(['east', 'mail'])
    expect((await read({ listId, sort: 'score' })).order).toEqual(['mail', 'east'])
    expect((await read({ listId, channel: 'call' })).order).toEqual(['east'])
    expect((await read({ listId: randomUUID() })).order).toEqual([])
    const choices = await team.asRep.ok(queueChoices, {})
    expect(choices.lists).toContainEqual({ id: listId, name: 'Mine' })
    expect((await team.asOther.ok(queueChoices, {})).lists).toEqual([])
    // At 8:00 AM in New York nobody in Los Angeles may be called; at 4:00 PM everyone may.
    const at = (hour: number) => ({ from: Date.UTC(2026, 10, 23, hour + 5), to: Date.UTC(2026, 10, 23, hour + 5, 30) })
    expect((await read(at(16))).order).toHaveLength(4)
    expect((await read({ ...at(10), channel: 'call' })).order).not.toContain('west')
  })
  it('says what there is to narrow it to', async () => {
    const choices = await team.asRep.ok(queueChoices)
    expect(choices).toMatchObject({
      channels: [
        { channel: 'call', count: 3 },
        { channel: 'email', count: 1 },
      ],
      cadences: [],
      timeZones: [{ count: 3 }, { timeZone: 'America/Los_Angeles', count: 1 }],
    })
    await team.asRep.refused(queue, 400, { query: { sort: 'loudest' } })
    await team.asRep.refused(queue, 400, { query: { from: 'soon' } })
  })
})
