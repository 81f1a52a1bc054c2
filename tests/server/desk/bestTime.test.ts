import { randomUUID } from 'node:crypto'
import { beforeAll, describe, expect, it } from 'vitest'
import { bestTime, teamBestTime } from '../../../shared/api/desk/bestTime'
import { planTask, sayWhen } from '../../../shared/api/desk/desk'
import { queue } from '../../../shared/api/desk/queue'
import { addBlock } from '../../../shared/api/blocks/blocks'
import { workBlock } from '../../../shared/api/blocks/work'
import { learnCallHours } from '../../../server/services/bestTime/learn'
import { db } from '../../../server/db/pool'
import { sql } from '../../../server/db/sql'
import { addPeople, freeze, MONDAY } from '../../fixtures/people'
import { withTeam } from '../../fixtures/team'

const team = withTeam()
const HOUR = 3_600_000
const DAY = 24 * HOUR
/** Monday, 9:42 AM in New York. */
const NOW = MONDAY - HOUR
/** Whose companies make cheese, and whose keep museums. */
let dairies: string[] = []
let museums: string[] = []

/** A logged call so many days ago at an hour by New York's clock. */
async function called(prospectId: string, daysAgo: number, hour: number, reached: boolean): Promise<void> {
  await db().query(
    sql`
      insert into touches (id, prospect_id, kind, at, user_id, outcome_id, counts_as)
      select
        gen_random_uuid(), $1, 'call',
        (date_trunc('day', world_now() at time zone 'America/New_York') - $2 * interval '1 day' + $3 * interval '1 hour')
          at time zone 'America/New_York',
        $5, o.id, $4
      from outcomes o
      where o.name = 'No answer'
    `,
    [prospectId, daysAgo, hour, reached ? 'conversation' : 'attempt', team.rep.id],
  )
}

beforeAll(async () => {
  freeze(NOW)
  const { ids } = await addPeople(8, team.rep.id)
  dairies = ids.slice(0, 4)
  museums = ids.slice(4)
  await db().query(sql`update prospects set time_zone = 'America/New_York' where id = any($1::uuid[])`, [ids])
  for (const [industry, people] of [
    [' Dairy ', dairies],
    ['Museum', museums],
  ] as const) {
    const company = randomUUID()
    await db().query(
      sql`insert into companies (id, name, name_key, industry, created_at) values ($1, $2, $2, $2, world_now())`,
      [company, industry],
    )
    await db().query(sql`update prospects set company_id = $1 where id = any($2::uuid[])`, [company, people])
  }
  // For twelve weeks, on Mondays to Fridays: dairies answer at nine, museums at four.
  for (let daysAgo = 7; daysAgo < 91; daysAgo++) {
    if ([1, 2].includes(daysAgo % 7)) continue
    for (const hour of [9, 12, 16]) {
      await called(dairies[daysAgo % 3]!, daysAgo, hour, hour === 9 && daysAgo % 10 > 0)
      await called(museums[daysAgo % 3]!, daysAgo, hour, hour === 16 && daysAgo % 10 > 0)
    }
  }
  // Too long ago, and by no outcome: neither counts.
  await called(dairies[0]!, 400, 12, true)
  await db().query(
    sql`
      insert into touches (id, prospect_id, kind, at, user_id, counts_as)
      values (gen_random_uuid(), $1, 'call', world_now() - interval '8 days', $2, 'conversation')
    `,
    [dairies[0], team.rep.id],
  )
})

const read = async (id: string) => (await team.asRep.ok(bestTime, { params: { id } })).learned

describe('the best time to call', () => {
  it('is not known before anything was learned', async () => {
    expect(await read(dairies[3]!)).toBeNull()
    expect(await team.asRep.ok(teamBestTime, { query: {} })).toEqual({ map: null, kinds: [] })
  })
  it('is learned from the team’s calls by kind of company and hour, and counts them as they are', async () => {
    await Promise.all([learnCallHours(), learnCallHours()])
    const dairy = (await read(dairies[3]!))!
    expect(dairy.kind).toEqual({ name: ' Dairy ', calls: 180, reached: 53 })
    expect(dairy.team).toEqual({ calls: 360, reached: 106 })
    expect(dairy.own).toEqual({ calls: 0, reached: 0 })
    expect(dairy.best.length).toBeGreaterThan(0)
    expect(dairy.best.every(({ hour }) => hour === 9)).toBe(true)
    // Now it is nine on a Monday; the next such hour is one to come.
    expect(dairy.now).toMatchObject({ weekday: 1, hour: 9 })
    expect(dairy.best.every(({ next }) => next! > NOW && next! < NOW + 15 * DAY)).toBe(true)
    expect(dairy.hours.every(({ low, chance, high }) => low < chance && chance < high)).toBe(true)
    const museum = (await read(museums[3]!))!
    expect(museum.best.every(({ hour }) => hour === 16)).toBe(true)
    expect(museum.now.chance).toBeLessThan(dairy.now.chance)
    const map = await team.asRep.ok(teamBestTime, { query: { industry: 'museum' } })
    expect(map.kinds.map(({ name }) => name).sort()).toEqual(['dairy', 'museum'])
    expect(map.map).toMatchObject({ calls: 180, reached: 53 })
    expect(map.map!.best.every(({ hour }) => hour === 16)).toBe(true)
  })
  it('is read by those who may see the person alone', async () => {
    await team.asOther.refused(bestTime, 404, { params: { id: dairies[3]! } })
    await team.asRep.refused(bestTime, 404, { params: { id: randomUUID() } })
  })
  it('orders the queue and a call block, and says so', async () => {
    for (const id of [museums[3]!, dairies[3]!]) {
      await team.asRep.ok(planTask, {
        params: { id },
        body: { id: randomUUID(), task: 'call', title: 'Planned', dueAt: NOW - (id === museums[3] ? 2 * HOUR : HOUR) },
      })
    }
    const inOrder = async (sort: string) => (await team.asRep.ok(queue, { query: { sort } })).items
    expect((await inOrder('due')).map(({ prospectId }) => prospectId)).toEqual([museums[3], dairies[3]])
    const likely = await inOrder('likely')
    expect(likely.map(({ prospectId }) => prospectId)).toEqual([dairies[3], museums[3]])
    expect(likely[0]!.why).toMatch(/^\d+% likely to answer, /)
    const { id } = await team.asManager.ok(addBlock, {
      body: {
        id: randomUUID(),
        name: 'By the hour',
        callerIds: [team.rep.id],
        script: 'Hello',
        sort: 'likely',
        who: { prospectIds: [museums[3]!, dairies[3]!] },
      },
    })
    const block = await team.asRep.ok(workBlock, { params: { id }, body: {} })
    expect(block.items.map(({ prospectId }) => prospectId)).toEqual([dairies[3], museums[3]])
    expect(block.items[0]!.why).toMatch(/^\d+% likely to answer, not called yet$/)
  })
  it('is offered where a call is planned', async () => {
    const body = { prospectId: dairies[3]!, kind: 'call' as const, timeZone: 'America/New_York', text: null, at: null }
    const { chips } = await team.asRep.ok(sayWhen, { body })
    const best = chips.find(({ label }) => label.startsWith('Best time: '))!
    expect(best.label).toMatch(/^Best time: \w+ 9:00 AM$/)
    expect(best.at).toBeGreaterThan(NOW)
    const meeting = await team.asRep.ok(sayWhen, { body: { ...body, kind: 'meeting' } })
    expect(meeting.chips.some(({ label }) => label.startsWith('Best time'))).toBe(false)
  })
})
