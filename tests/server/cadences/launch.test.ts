import { randomUUID } from 'node:crypto'
import { beforeEach, describe, expect, it } from 'vitest'
import { addCadence, getCadence, type StepDraft } from '../../../shared/api/cadences/cadences'
import { forecastLaunch, launchCadence } from '../../../shared/api/cadences/launch'
import { getBulk, undoBulk } from '../../../shared/api/bulk'
import { db } from '../../../server/db/pool'
import { sql } from '../../../server/db/sql'
import { takeDueSteps } from '../../../server/engine/dueSteps'
import { runBulk } from '../../../server/services/bulk/runBulk'
import { addPeople, freeze, MONDAY, rows } from '../../fixtures/people'
import { activeCadence, stepDraft } from '../../fixtures/steps'
import { withTeam } from '../../fixtures/team'

const team = withTeam()
const HOUR = 3_600_000
const DAY = 24 * HOUR
beforeEach(() => freeze(MONDAY))

async function make(entry: object, steps: StepDraft[]): Promise<string> {
  const id = await activeCadence(team.asManager, { steps, entry })
  return id
}
const call = (rest: Partial<StepDraft> = {}) => stepDraft('call', rest)
const later = (amount: number): StepDraft['wait'] => ({ amount, unit: 'business_days', at: null })
const work = async () => {
  while ((await takeDueSteps()) > 0);
}
/** Of each: how they stand, the step they are at, and the day on which it falls due. */
const whereAre = (cadenceId: string) =>
  rows<{ id: string; status: string; at: string | null }>(
    sql`
      select prospect_id as id, status, to_char(coalesce(due_at, started_at), 'YYYY-MM-DD HH24:MI') as at
      from enrollments
      where cadence_id = $1
      order by started_at, due_at
    `,
    [cadenceId],
  )

describe('before a cadence starts with many', () => {
  it('says who starts and who does not, why, and the work it brings beside what runs; then it is so', async () => {
    const id = await make({ colleagues: 'not_in_this', perDay: 2 }, [call(), call({ wait: later(1) })])
    // Each at a company of their own: fine; without a phone; not to be called; two colleagues of one company.
    const fine = (await Promise.all(Array.from({ length: 4 }, () => addPeople(1, team.rep.id)))).map(
      ({ ids }) => ids[0]!,
    )
    const [noPhone, stopped] = (await Promise.all([addPeople(1, team.rep.id), addPeople(1, team.rep.id)])).map(
      ({ ids }) => ids[0]!,
    )
    const { ids: pair } = await addPeople(2, team.other.id)
    await db().query(sql`delete from phones where prospect_id = $1`, [noPhone])
    await db().query(sql`update prospects set stop_call = true where id = $1`, [stopped])
    const who = { prospectIds: [...fine, noPhone!, stopped!, ...pair] }
    const seen = await team.asManager.ok(forecastLaunch, { params: { id }, body: { who } })
    expect(seen).toMatchObject({ found: 8, starts: 5, perDay: 2 })
    expect(seen.refused.map(({ why, count }) => [why, count]).sort()).toEqual([
      ['A colleague starts before them', 1],
      ['Starts with a call: asked for no calls', 1],
      ['Starts with a call: no phone number that works', 1],
    ])
    expect(seen.startDays).toEqual([
      { day: '2026-11-23', count: 2 },
      { day: '2026-11-24', count: 2 },
      { day: '2026-11-25', count: 1 },
    ])
    const added = seen.reps.map((rep) => [rep.name, rep.people, rep.added.calls.reduce((sum, one) => sum + one, 0)])
    expect(added).toEqual([
      ['Imani Osei', 4, 8],
      ['Joaquin Pell', 1, 2],
    ])
    expect(seen.days).toHaveLength(15)
    expect(seen.days.slice(0, 4)).toEqual(['2026-11-23', '2026-11-24', '2026-11-25', '2026-11-27'])
    expect(seen.advice).toBeNull()
    const started = await team.asManager.ok(launchCadence, { params: { id }, body: { id: randomUUID(), who } })
    expect(started.touches).toBe(8)
    await runBulk(started.id)
    expect(await team.asManager.ok(getBulk, { params: { id: started.id } })).toMatchObject({ status: 'done', done: 5 })
    await work()
    for (const [index, { day, count }] of seen.startDays.entries()) {
      await freeze(MONDAY + index * DAY)
      await work()
      const begun = (await whereAre(id)).filter(({ status }) => status === 'active')
      // Who has begun by this day: all of the days before, and these.
      const expected = seen.startDays.slice(0, index + 1).reduce((sum, one) => sum + one.count, 0)
      expect([day, begun.length]).toEqual([day, expected])
      expect(count).toBeGreaterThan(0)
    }
  })
  it('says where the calls are more than fit, and how many a day would fit', async () => {
    const id = await make({}, [call(), call({ wait: later(1) })])
    await db().query(sql`update users set daily_calls = 10 where id = $1`, [team.rep.id])
    const { ids } = await addPeople(40, team.rep.id)
    const asked = { params: { id }, body: { who: { prospectIds: ids } } }
    const seen = await team.asManager.ok(forecastLaunch, asked)
    const daily = seen.advice!.perDay!
    expect(seen.advice!.message).toMatch(
      new RegExp(`^Monday, November 23: \\d+ calls for Imani Osei, 10 fit: start ${daily} a day$`),
    )
    const again = (perDay: number) =>
      team.asManager.ok(forecastLaunch, { ...asked, body: { ...asked.body, perDay } }).then(({ advice }) => advice)
    expect(await again(daily)).toBeNull()
    expect(await again(daily + 1)).not.toBeNull()
    // Started so, it is a rule of the cadence; who may not change the cadence cannot set it.
    const start = { params: { id }, body: { id: randomUUID(), who: { prospectIds: ids }, perDay: daily } }
    await team.asRep.refused(launchCadence, 403, start)
    const { version } = await team.asManager.ok(getCadence, { params: { id } })
    await team.asManager.ok(launchCadence, start)
    expect(await team.asManager.ok(getCadence, { params: { id } })).toMatchObject({
      version: version + 1,
      entry: { perDay: daily },
    })
    // Sent again with another number, it starts nothing, and the number stays.
    await team.asManager.refused(launchCadence, 409, { ...start, body: { ...start.body, perDay: 1 } })
    expect((await team.asManager.ok(getCadence, { params: { id } })).entry.perDay).toBe(daily)
    await runBulk(start.body.id)
    await work()
    const days = await rows(
      sql`select count(*)::int as count from enrollments where cadence_id = $1 group by intake_day`,
      [id],
    )
    expect(days[0]).toEqual({ count: daily })
    // Undone, nobody is left: neither who has started nor who was given a later day.
    const back = randomUUID()
    await team.asManager.ok(undoBulk, { params: { id: start.body.id }, body: { id: back } })
    await runBulk(back)
    expect(await team.asManager.ok(getBulk, { params: { id: back } })).toMatchObject({ done: 40 })
    expect(await rows(sql`select from enrollments where cadence_id = $1 and status <> 'ended'`, [id])).toEqual([])
  })
})

describe('a start at a time', () => {
  it('begins then, is shown until then as waiting, and is undone like any bulk action', async () => {
    const id = await make({}, [call({ wait: { amount: 1, unit: 'hours', at: null } })])
    const { ids } = await addPeople(2, team.rep.id)
    const startAt = MONDAY + DAY
    const body = { id: randomUUID(), who: { prospectIds: ids }, startAt }
    await team.asManager.ok(launchCadence, { params: { id }, body })
    await runBulk(body.id)
    await work()
    expect(await whereAre(id)).toEqual(
      expect.arrayContaining(ids.map((one) => ({ id: one, status: 'waiting', at: '2026-11-24 16:42' }))),
    )
    await freeze(startAt + HOUR)
    await work()
    expect((await whereAre(id)).map(({ status }) => status)).toEqual(['active', 'active'])
  })
  it('is refused in the past, for a draft, for nobody, and for a cadence that is not there', async () => {
    const id = await make({}, [call()])
    const { ids } = await addPeople(1, team.rep.id)
    const body = { id: randomUUID(), who: { prospectIds: ids } }
    const past = await team.asManager.refused(launchCadence, 400, {
      params: { id },
      body: { ...body, startAt: MONDAY - HOUR },
    })
    expect(past.problems.map(({ field }) => field)).toEqual(['startAt'])
    await team.asManager.refused(launchCadence, 400, { params: { id }, body: { ...body, who: {} } })
    await team.asManager.refused(launchCadence, 404, { params: { id: randomUUID() }, body })
    const { id: draft } = await team.asManager.ok(addCadence, { body: { name: 'Not yet', steps: [call()] } })
    await team.asManager.refused(launchCadence, 422, { params: { id: draft }, body })
  })
})
