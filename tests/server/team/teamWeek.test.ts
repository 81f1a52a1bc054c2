import { randomUUID } from 'node:crypto'
import { beforeAll, describe, expect, it } from 'vitest'
import { WEEK_MEASURES, weekDays, type WeekMeasure } from '../../../core/stats/week'
import { cancelMeeting, logOutcome, settleMeeting } from '../../../shared/api/desk/desk'
import { undo } from '../../../shared/api/events/history'
import { listSources } from '../../../shared/api/settings/settings'
import { setGoals, sourcesCsv, teamWeek, weekCsv, weekPeople } from '../../../shared/api/team'
import { closeDeal, openDeal } from '../../../shared/api/deals'
import { db } from '../../../server/db/pool'
import { addPeople, freeze, MONDAY, outcomeId, rows } from '../../fixtures/people'
import { withTeam } from '../../fixtures/team'
import '../database'
import { sql } from '../../../server/db/sql'

const team = withTeam()
const DAY = 86_400_000
const HOUR = 3_600_000
let mine: string[]
let others: string[]

async function log(id: string, outcome: string, details: object = {}, as = team.asRep) {
  const request = randomUUID()
  await as.ok(logOutcome, {
    params: { id },
    body: { id: request, outcomeId: await outcomeId(outcome), details, call: 'elsewhere' },
  })
  return request
}
const meeting = (startAt: number) => ({
  meeting: { title: 'A look at the rooms', startAt, minutes: 30, timeZone: 'America/New_York' },
})

beforeAll(async () => {
  await db().query(sql`update team set time_zone = 'America/New_York'`)
  mine = (await addPeople(6, team.rep.id, 'Counted Creamery')).ids
  others = (await addPeople(2, team.other.id, 'Counted Cider')).ids
  // The week before, then this one; a call just before and just after midnight between them.
  await freeze(MONDAY - 3 * DAY)
  await log(mine[0]!, 'No answer')
  const [monday] = weekDays(MONDAY, 'America/New_York')
  await freeze(monday! - 1000)
  await log(mine[1]!, 'Left voicemail')
  await freeze(monday!)
  await log(mine[1]!, 'No answer')
  await freeze(MONDAY)
  await log(mine[2]!, 'Not interested', { reason: 'No need' })
  await log(mine[3]!, 'Meeting booked', meeting(MONDAY + DAY))
  await log(others[0]!, 'No answer', {}, team.asOther)
  // One that is undone, one that is cancelled: neither counts.
  const undone = await log(mine[4]!, 'No answer')
  await team.asRep.ok(undo, { params: { id: undone }, body: { id: randomUUID() } })
  await db().query(sql`update companies set status = $1`, ['open'])
  await log(others[1]!, 'Meeting booked', meeting(MONDAY + 2 * DAY), team.asOther)
  const [{ id: cancelled }] = (await rows<{ id: string }>(sql`select id from meetings where prospect_id = $1`, [
    others[1],
  ])) as [{ id: string }]
  await team.asOther.ok(cancelMeeting, { params: { id: cancelled }, body: { id: randomUUID() } })
  await freeze(MONDAY + DAY + HOUR)
  const [{ id: held }] = (await rows<{ id: string }>(sql`select id from meetings where prospect_id = $1`, [
    mine[3],
  ])) as [{ id: string }]
  await team.asRep.ok(settleMeeting, { params: { id: held }, body: { id: randomUUID(), result: 'held' } })
  const deal = randomUUID()
  await team.asOther.ok(openDeal, {
    params: { id: others[0]! },
    body: { id: deal, name: 'Loggers', value: 1200, stageId: null, likelihood: 40, expectedClose: null, another: true },
  })
  const [{ id: dealId }] = (await rows<{ id: string }>(sql`select id from deals where name = 'Loggers'`)) as [
    { id: string },
  ]
  await team.asOther.ok(closeDeal, { params: { id: dealId }, body: { id: randomUUID(), result: 'won', value: 1500 } })
})

const week = async (as = team.asManager, back = 0) => as.ok(teamWeek, { query: { back } })
const of = async (userId: string, back = 0) =>
  (await week(team.asManager, back)).users.find((user) => user.id === userId)!

describe('the week', () => {
  it('counts by day what each did, beside the week before', async () => {
    const { week: own, before } = await of(team.rep.id)
    expect(own).toMatchObject({
      calls: [3, 0, 0, 0, 0, 0, 0],
      conversations: [2, 0, 0, 0, 0, 0, 0],
      booked: [1, 0, 0, 0, 0, 0, 0],
      held: [0, 1, 0, 0, 0, 0, 0],
    })
    expect(before).toMatchObject({ calls: 2, conversations: 0, booked: 0 })
    expect((await of(team.rep.id, 1)).week.calls).toEqual([0, 0, 0, 0, 1, 0, 1])
    expect(await of(team.other.id)).toMatchObject({
      week: { calls: [2, 0, 0, 0, 0, 0, 0], booked: [0, 0, 0, 0, 0, 0, 0], won: [0, 1, 0, 0, 0, 0, 0] },
      wonValue: 1500,
    })
  })
  it('comes to what the rows come to, counted one by one in another way', async () => {
    const timeZone = 'America/New_York'
    const found = await week()
    const day = (at: string) => `(extract(isodow from ${at} at time zone '${timeZone}')::int - 1)`
    const inWeek = (at: string) =>
      `date_trunc('week', ${at} at time zone '${timeZone}') = date_trunc('week', world_now() at time zone '${timeZone}')`
    const QUERIES: Record<WeekMeasure, string> = {
      calls: sql`
        select user_id as who, ${day('at')} as day
        from touches
        where kind = 'call' and ${inWeek('at')}
      `,
      conversations: sql`
        select user_id as who, ${day('at')} as day
        from touches
        where kind = 'call' and counts_as = 'conversation' and ${inWeek('at')}
      `,
      emails: sql`
        select user_id as who, ${day('at')} as day
        from touches
        where kind = 'email' and ${inWeek('at')}
      `,
      replies: sql`
        select m.sender_id as who, ${day('r.received_at')} as day
        from replies r
          join email_messages m on m.id = r.message_id
        where r.kind = 'reply' and ${inWeek('r.received_at')}
      `,
      booked: sql`
        select h.actor_id as who, ${day('h.at')} as day
        from effects e
          join events h on h.id = e.event_id
        where e.kind = 'bookMeeting'
          and exists (select from meetings a where a.id = e.entity_id and a.status <> 'cancelled')
          and ${inWeek('h.at')}
      `,
      held: sql`
        select user_id as who, ${day('start_at')} as day
        from meetings
        where status = 'held' and ${inWeek('start_at')}
      `,
      opened: sql`
        select owner_id as who, ${day('opened_at')} as day
        from deals
        where ${inWeek('opened_at')}
      `,
      won: sql`
        select owner_id as who, ${day('closed_at')} as day
        from deals
        where status = 'won' and ${inWeek('closed_at')}
      `,
    }
    for (const measure of WEEK_MEASURES) {
      const counted = new Map(found.users.map((user) => [user.id, [0, 0, 0, 0, 0, 0, 0]]))
      for (const { who, day } of await rows<{ who: string; day: number }>(QUERIES[measure])) counted.get(who)![day]!++
      for (const user of found.users) {
        expect({ measure, user: user.name, counts: user.week[measure] }).toEqual({
          measure,
          user: user.name,
          counts: counted.get(user.id),
        })
      }
    }
  })
  it('says what a holiday leaves of its working days', async () => {
    // Thanksgiving 2026 is November 26 (5 USC 6103).
    expect((await week()).workingDays).toEqual([true, true, true, false, true, false, false])
  })
  it('opens every number: the people behind it, and no more than one may see', async () => {
    const { days, today } = await week()
    const ask = (as: typeof team.asRep, more: object) =>
      as.ok(weekPeople, { query: { measure: 'calls', from: days[0]!, to: days[7]!, ...more } })
    expect((await ask(team.asManager, { user: team.rep.id })).people.map((one) => one.prospectId).sort()).toEqual(
      [mine[1], mine[2], mine[3]].sort(),
    )
    expect((await ask(team.asManager, {})).people).toHaveLength(5)
    expect((await ask(team.asRep, {})).people.map((one) => one.by)).toEqual(['Imani Osei', 'Imani Osei', 'Imani Osei'])
    await team.asRep.refused(weekPeople, 404, { query: { measure: 'calls', from: 0, to: today, user: team.other.id } })
    expect((await ask(team.asManager, { measure: 'won' })).people).toMatchObject([
      { prospectId: others[0], value: 1500 },
    ])
    await team.asManager.refused(weekPeople, 400, { query: { measure: 'calls', from: 0, to: 9e15 } })
    const overdue = await of(team.rep.id)
    expect(
      (await ask(team.asManager, { user: team.rep.id, measure: 'overdue', from: 0, to: today })).people,
    ).toHaveLength(overdue.overdue)
  })
  it('is one’s own for a rep', async () => {
    expect((await week(team.asRep)).users.map((user) => user.name)).toEqual(['Imani Osei'])
  })
  it('is shown beside the goals that a manager sets', async () => {
    await team.asRep.refused(setGoals, 403, {
      body: { users: [{ id: team.rep.id, goals: { calls: 1, conversations: 1, booked: 1 } }] },
    })
    await team.asManager.refused(setGoals, 404, {
      body: { users: [{ id: randomUUID(), goals: { calls: 1, conversations: 1, booked: 1 } }] },
    })
    await team.asManager.ok(setGoals, {
      body: { users: [{ id: team.rep.id, goals: { calls: 40, conversations: 8, booked: 1 } }] },
    })
    expect((await of(team.rep.id)).goals).toEqual({ calls: 40, conversations: 8, booked: 1 })
  })
  it('goes out as CSV, a row for each rep and day', async () => {
    const text = (await team.asManager.ok(weekCsv, { query: { back: 0 } })) as unknown as string
    const lines = String(text).replace('\uFEFF', '').trim().split(/\r?\n/)
    expect(lines[0]).toBe(
      'rep,day,Calls,Conversations,Emails,Replies,Meetings booked,Meetings held,Deals opened,Deals won',
    )
    expect(lines.find((line) => line.startsWith('Imani Osei,2026-11-23'))).toMatch(
      /^Imani Osei,2026-11-23,3,2,0,0,1,0,1,0/,
    )
  })
})

describe('sources', () => {
  it('say what each brought, and only a manager exports them', async () => {
    await db().query(sql`insert into sources (name, cost) values ('Cheese fair', 900)`)
    await db().query(sql`update prospects set source = 'Cheese fair' where id = any($1)`, [
      [mine[0], mine[2], mine[3], others[0]],
    ])
    const { sources } = await team.asManager.ok(listSources)
    expect(sources).toEqual([
      expect.objectContaining({
        name: 'Cheese fair',
        cost: 900,
        people: 4,
        reached: 2,
        meetings: 1,
        deals: 1,
        wonValue: 1500,
      }),
    ])
    await team.asRep.refused(sourcesCsv, 403)
    expect(String(await team.asManager.ok(sourcesCsv))).toContain('Cheese fair,900,4,2,1,')
  })
})
