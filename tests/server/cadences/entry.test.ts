import { randomUUID } from 'node:crypto'
import { beforeEach, describe, expect, it } from 'vitest'
import type { z } from 'zod'
import { addCadence, editCadence, getCadence } from '../../../shared/api/cadences/cadences'
import { enroll } from '../../../shared/api/cadences/enrollments'
import { previewBulk } from '../../../shared/api/bulk'
import { moveProspect } from '../../../shared/api/prospects'
import { db } from '../../../server/db/pool'
import { sql } from '../../../server/db/sql'
import { takeDueSteps } from '../../../server/engine/dueSteps'
import { addPeople, freeze, MONDAY, rows } from '../../fixtures/people'
import { activeCadence, stepDraft } from '../../fixtures/steps'
import { withTeam } from '../../fixtures/team'

const team = withTeam()
const DAY = 86_400_000
beforeEach(() => freeze(MONDAY))
type Draft = z.input<typeof addCadence.body>

/** An active cadence of a task with these rules. */
async function make(rules: Pick<Draft, 'entry' | 'exits'>): Promise<string> {
  const id = await activeCadence(team.asManager, { steps: [stepDraft('task'), stepDraft('task')], ...rules })
  return id
}
const start = (id: string, prospectIds: string[], dryRun = false) =>
  team.asManager.ok(enroll, { params: { id }, body: { prospectIds, dryRun } })
const work = async () => {
  while ((await takeDueSteps()) > 0);
}
const daysOf = async (id: string) =>
  (
    await rows<{ day: string; count: number }>(
      sql`
        select to_char(intake_day, 'YYYY-MM-DD') as day, count(*)::int as count
        from enrollments
        where cadence_id = $1
        group by 1
        order by 1
      `,
      [id],
    )
  ).map(({ day, count }) => [day, count])

describe('rules on who may enter', () => {
  it('are kept with the cadence, and refused at their fields where they make no sense', async () => {
    const entry = { again: 90, colleagues: 'not_in_any', from: '2026-11-01', until: null, perDay: 60 } as const
    const id = await make({ entry })
    expect((await team.asManager.ok(getCadence, { params: { id } })).entry).toEqual({ ...entry, where: null })
    const fieldsOf = async (rules: object) => {
      const body = { name: 'Wrong', steps: [], ...rules }
      return (await team.asManager.refused(addCadence, 400, { body })).problems.map(({ field }) => field)
    }
    expect(await fieldsOf({ entry: { perDay: 0 } })).toEqual(['entry.perDay'])
    expect(await fieldsOf({ entry: { from: '2026-12-02', until: '2026-12-01' } })).toEqual(['entry.until'])
    const where = { field: 'owner', test: { op: 'anyOf', values: ['me'] } }
    expect(await fieldsOf({ entry: { where } })).toEqual(['entry.where'])
    expect(await fieldsOf({ exits: { stages: { ids: ['nowhere'], scope: 'person' } } })).toEqual(['exits.stages.ids'])
  })
  it('keep out who was in it, whose colleague is in it, and who does not fit; said before and when it is done', async () => {
    const where = { field: 'title', test: { op: 'is', text: 'Cellar master' } } as never
    const id = await make({ entry: { again: 'never', colleagues: 'not_in_this', where } })
    const { ids } = await addPeople(2, team.rep.id)
    const { ids: others } = await addPeople(2, team.rep.id)
    const [first, colleague] = ids as [string, string]
    await db().query(sql`update prospects set title = 'Cellar master' where id <> $1`, [others[1]])
    const before = await start(id, [...ids, ...others], true)
    expect(before.refused.map(({ why }) => why)).toEqual([expect.stringContaining('Does not fit: job title is')])
    const done = await start(id, [...ids, ...others])
    expect(done.enrolled).toBe(2)
    const why = new Map(done.refused.map((row) => [row.prospectId, row.why]))
    const out = [first, colleague].filter((one) => why.has(one))
    // One of the two colleagues, the one who comes second, and the one who fits.
    expect(out.map((one) => why.get(one))).toEqual(['A colleague is in this cadence'])
    const inIt = [first, colleague].find((one) => !why.has(one))!
    await db().query(
      sql`
        update enrollments
        set status = 'ended', exit = 'finished', ended_at = world_now(), due_at = null
        where prospect_id = $1
      `,
      [inIt],
    )
    expect((await start(id, [inIt], true)).refused).toMatchObject([{ why: 'Was in this cadence before' }])
    // A bulk action looks at them with the same rules.
    const { leftOut } = await team.asManager.ok(previewBulk, {
      body: { action: { type: 'enroll', cadenceId: id }, prospectIds: [inIt, others[1]!] },
    })
    expect(leftOut.map(({ reason }) => reason).sort()).toEqual([
      'A colleague is in this cadence',
      'Was in this cadence before',
    ])
  })
})

describe('a daily number of starts', () => {
  it('lets so many start today and the rest on the next business days, in order; two workers share the count', async () => {
    const id = await make({ entry: { perDay: 4 } })
    const { ids } = await addPeople(11, team.rep.id)
    await start(id, ids)
    await Promise.all([work(), work(), work()])
    // Monday, November 23 to Wednesday.
    expect(await daysOf(id)).toEqual([
      ['2026-11-23', 4],
      ['2026-11-24', 4],
      ['2026-11-25', 3],
    ])
    const begun = () =>
      rows<{ count: number }>(sql`select count(*)::int as count from tasks where prospect_id = any($1::uuid[])`, [ids])
    expect(await begun()).toEqual([{ count: 4 }])
    await freeze(MONDAY + DAY)
    await work()
    expect(await begun()).toEqual([{ count: 8 }])
    // Thanksgiving is no business day of theirs: who comes now starts on Friday.
    const { ids: more } = await addPeople(3, team.rep.id)
    await start(id, more)
    await work()
    expect(await daysOf(id)).toEqual([
      ['2026-11-23', 4],
      ['2026-11-24', 4],
      ['2026-11-25', 4],
      ['2026-11-27', 2],
    ])
  })
  it('is counted anew where the number is changed', async () => {
    const id = await make({ entry: { perDay: 1 } })
    const { ids } = await addPeople(4, team.rep.id)
    await start(id, ids)
    await work()
    expect((await daysOf(id)).map(([, count]) => count)).toEqual([1, 1, 1, 1])
    const made = await team.asManager.ok(getCadence, { params: { id } })
    await team.asManager.ok(editCadence, {
      params: { id },
      body: { ...made, entry: { ...made.entry, perDay: 3 } },
    })
    await work()
    expect((await daysOf(id)).map(([, count]) => count)).toEqual([3, 1])
  })
})

it('an exit on a stage takes everyone at the company along, where the cadence says so', async () => {
  const id = await make({ exits: { stages: { ids: ['in_conversation'], scope: 'company' } } })
  const { ids } = await addPeople(2, team.rep.id)
  await start(id, ids)
  await team.asRep.ok(moveProspect, {
    params: { id: ids[0]! },
    body: { id: randomUUID(), to: 'in_conversation', reason: null, note: null, override: null } as never,
  })
  expect(await rows(sql`select status, exit from enrollments where cadence_id = $1`, [id])).toEqual([
    { status: 'ended', exit: 'stage_reached' },
    { status: 'ended', exit: 'stage_reached' },
  ])
})
