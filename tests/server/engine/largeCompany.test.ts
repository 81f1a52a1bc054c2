import { randomUUID } from 'node:crypto'
import { describe, expect, it } from 'vitest'
import {
  attemptsOf,
  conversationsWith,
  wasReached,
  wasTouched,
  type EngineState,
} from '../../../core/engine/state/engineState'
import { enroll } from '../../../shared/api/cadences/enrollments'
import { db } from '../../../server/db/pool'
import { sql } from '../../../server/db/sql'
import { load, lock } from '../../../server/engine/load'
import { brief } from '../../../server/services/desk/brief'
import { COLLEAGUES_SHOWN } from '../../../server/services/desk/outcomeChoices'
import { logOutcome } from '../../../server/services/desk/outcomes'
import { addPeople, outcomeId, rows } from '../../fixtures/people'
import { activeCadence, stepDraft } from '../../fixtures/steps'
import { withTeam } from '../../fixtures/team'
import '../database'

const team = withTeam()

describe('a company with more people than a preview reads', () => {
  it('is shown for some and said of the others; what is logged holds for all', async () => {
    const { ids, companyId } = await addPeople(COLLEAGUES_SHOWN + 15, team.rep.id, 'Wide Meadows')
    const [id, ...others] = ids as [string, ...string[]]
    const choiceOf = async (name: string) =>
      (await brief(team.rep, id, null)).outcomes.find((outcome) => outcome.name === name)!
    const seen = await choiceOf('Company not a fit')
    expect(seen.summary).toContain(`Stops all ${ids.length} people at Wide Meadows`)
    expect(seen.summary).toContain('Does the same for 14 more colleagues at Wide Meadows, not shown here.')
    expect((await choiceOf('No answer')).summary).not.toContain('more colleagues')
    // Something happens to a colleague meanwhile: that is no surprise for who reads of hundreds.
    await db().query(sql`update prospects set status = 'paused' where id = $1`, [others[0]])
    await logOutcome(team.rep, id, {
      id: randomUUID(),
      outcomeId: await outcomeId('Company not a fit'),
      taskId: null,
      phoneId: null,
      details: { reason: 'Too small' },
      fingerprint: seen.fingerprint,
    })
    expect(
      await rows(sql`select distinct stage_id from prospects where company_id = $1 order by 1`, [companyId]),
    ).toHaveLength(1)
  })
})

describe('two who work at one company', () => {
  it('do not wait for each other, but for who changes the company', async () => {
    const { ids } = await addPeople(3, team.rep.id)
    const [ann, ben, cy] = ids as [string, string, string]
    const clients = await Promise.all([db().connect(), db().connect(), db().connect()])
    const [first, second, third] = clients as [(typeof clients)[0], (typeof clients)[0], (typeof clients)[0]]
    try {
      for (const client of clients) await client.query(sql`begin`)
      expect(await lock(first, [ann], { colleagues: false })).toEqual([ann])
      expect(await lock(second, [ben], { colleagues: false })).toEqual([ben])
      // Who may change everyone there gets nobody while anyone is worked, and everyone afterwards.
      expect(await lock(third, [cy], { colleagues: true }, { skipLocked: true })).toEqual([])
      await first.query(sql`rollback`)
      await second.query(sql`rollback`)
      expect((await lock(third, [cy], { colleagues: true }, { skipLocked: true })).sort()).toEqual([...ids].sort())
      await first.query(sql`begin`)
      expect(await lock(first, [ann], { colleagues: false }, { skipLocked: true })).toEqual([])
    } finally {
      for (const client of clients) {
        await client.query(sql`rollback`)
        client.release()
      }
    }
  })
})

it('knows by counters what the touches of colleagues came to, and reads those of cadences they are in', async () => {
  const { ids } = await addPeople(5, team.rep.id)
  const [asked, called, spoken, written, never] = ids as [string, string, string, string, string]
  const cadence = await activeCadence(team.asManager, { steps: [stepDraft('task'), stepDraft('task')] })
  const touch = (prospectId: string, countsAs: string, daysAgo: number, kind = 'call') =>
    db().query(
      sql`
        insert into touches (id, prospect_id, kind, at, counts_as)
        values ($1, $2, $3, world_now() - $5 * interval '1 day', $4)
      `,
      [randomUUID(), prospectId, kind, countsAs, daysAgo],
    )
  await touch(called, 'attempt', 9)
  await touch(called, 'attempt', 8)
  await touch(spoken, 'conversation', 7)
  await touch(written, 'none', 6, 'email')
  await team.asManager.ok(enroll, { params: { id: cadence }, body: { prospectIds: [called], dryRun: false } })
  await db().query(sql`update enrollments set started_at = world_now() - interval '1 day'`)
  await touch(called, 'attempt', 0)
  const { state: near } = await load(db(), [asked], [], { colleagues: true })
  const { state: all } = await load(db(), ids)
  const known = (state: EngineState) =>
    ids.map((id) => [attemptsOf(state, id), conversationsWith(state, id), wasReached(state, id), wasTouched(state, id)])
  expect(known(near)).toEqual(known(all))
  expect(known(all)).toEqual([
    [0, 0, false, false],
    [3, 0, false, true],
    [0, 1, true, true],
    [0, 0, false, true],
    [0, 0, false, false],
  ])
  expect(Object.values(near.touch).map(({ prospectId, countsAs }) => [prospectId, countsAs])).toEqual([
    [called, 'attempt'],
  ])
  expect(Object.keys(near.touchesBefore).sort()).toEqual([called, spoken, written].sort())
  expect(never in near.prospect).toBe(true)
})
