import { randomUUID } from 'node:crypto'
import { beforeEach, describe, expect, it } from 'vitest'
import { type StepDraft } from '../../../shared/api/cadences/cadences'
import { enroll, skipStep } from '../../../shared/api/cadences/enrollments'
import { cadenceResultPeople, cadenceResults } from '../../../shared/api/cadences/results'
import { logOutcome } from '../../../shared/api/desk/desk'
import { undo } from '../../../shared/api/events/history'
import { db } from '../../../server/db/pool'
import { sql } from '../../../server/db/sql'
import { noteOpened, optOut } from '../../../server/services/email/messages'
import { signedToken } from '../../../server/channels/mail/addresses'
import { withMail } from '../../fixtures/mail'
import { addPeople, freeze, MONDAY, outcomeId, rows } from '../../fixtures/people'
import { activeCadence, stepDraft } from '../../fixtures/steps'
import { withTeam } from '../../fixtures/team'

const team = withTeam()
const { work } = withMail()
const HOUR = 3_600_000
beforeEach(() => freeze(MONDAY))

async function inCadence(steps: StepDraft[], count: number) {
  const id = await activeCadence(team.asManager, { steps })
  const { ids } = await addPeople(count, team.rep.id)
  await team.asRep.ok(enroll, { params: { id }, body: { prospectIds: ids } })
  await work()
  return { id, ids }
}
const results = (id: string) => team.asManager.ok(cadenceResults, { params: { id } })
const peopleOf = async (id: string, step: string, figure: string, caller = team.asManager) =>
  (await caller.ok(cadenceResultPeople, { params: { id }, query: { step, figure } as never })).people

describe('what came of a cadence', () => {
  const steps = () => [stepDraft('email'), stepDraft('call', { wait: { amount: 1, unit: 'hours', at: null } })]
  it('is counted step by step, and every number opens to its people', async () => {
    const [email, call] = steps() as [StepDraft, StepDraft]
    const { id, ids } = await inCadence([email, call], 4)
    await freeze(MONDAY + HOUR)
    await work()
    const mails = await rows<{ id: string; who: string }>(
      sql`select id, prospect_id as who from email_messages where prospect_id = any($1::uuid[])`,
      [ids],
    )
    expect(mails).toHaveLength(4)
    await noteOpened(signedToken('open', mails.find(({ who }) => who === ids[0])!.id))
    await optOut(ids[3]!)
    await freeze(MONDAY + 3 * HOUR)
    await work()
    const log = async (who: string, name: string) =>
      team.asRep.ok(logOutcome, {
        params: { id: who },
        body: {
          id: randomUUID(),
          outcomeId: await outcomeId(name),
          call: 'elsewhere',
          details: {
            ...(name === 'Meeting booked' && {
              meeting: { title: 'A look', startAt: MONDAY + 48 * HOUR, minutes: 30, timeZone: 'America/New_York' },
            }),
            ...(name === 'Not interested' && { reason: 'No need' }),
          },
        },
      })
    await log(ids[0]!, 'Not interested')
    await log(ids[1]!, 'No answer')
    const seen = await results(id)
    expect(seen).toMatchObject({ entered: 4, meetings: 0, exits: { not_interested: 1, finished: 1 }, active: 2 })
    expect(seen.steps).toMatchObject([
      {
        id: email.id,
        here: 0,
        figures: { sent: 4, delivered: 4, opened: 1, replied: 0, bounced: 0, optedOut: 1, meetings: 0 },
      },
      { id: call.id, here: 2, figures: { called: 2, reached: 1, meetings: 0 }, left: { not_interested: 1 } },
    ])
    // Every number is as many people as it says.
    for (const step of seen.steps) {
      for (const [figure, count] of [['here', step.here], ...Object.entries(step.figures)] as [string, number][]) {
        expect([figure, (await peopleOf(id, step.id, figure)).length]).toEqual([figure, count])
      }
    }
    const here = await peopleOf(id, call.id, 'here')
    expect(here.map(({ waitsFor }) => waitsFor)).toEqual(['rep', 'rep'])
    expect((await peopleOf(id, email.id, 'opened')).map((one) => one.id)).toEqual([ids[0]])
  })
  it('shows a rep the numbers, but only their own people', async () => {
    const { id } = await inCadence(steps(), 2)
    const [email] = (await results(id)).steps
    expect((await peopleOf(id, email!.id, 'sent', team.asOther)).length).toBe(0)
    expect((await peopleOf(id, email!.id, 'sent', team.asRep)).length).toBe(2)
  })
  it('says what those who are there wait for', async () => {
    const { id, ids } = await inCadence([stepDraft('task', { wait: { amount: 2, unit: 'days', at: null } })], 2)
    const [task] = (await results(id)).steps
    const waiting = await peopleOf(id, task!.id, 'here')
    expect(waiting).toMatchObject([
      { waitsFor: 'time', until: MONDAY + 48 * HOUR },
      { waitsFor: 'time', until: MONDAY + 48 * HOUR },
    ])
    await db().query(sql`update enrollments set intake_day = '2026-11-30' where prospect_id = $1`, [ids[0]])
    const again = await peopleOf(id, task!.id, 'here')
    expect(again.map(({ waitsFor }) => waitsFor).sort()).toEqual(['room', 'time'])
  })
})

describe('skipping a step', () => {
  it('goes on with the next one, takes its work back, and is undone', async () => {
    const { id, ids } = await inCadence(
      [stepDraft('task', { name: 'First' }), stepDraft('task', { name: 'Second' })],
      1,
    )
    const [one] = await peopleOf(id, (await results(id)).steps[0]!.id, 'here')
    const event = randomUUID()
    await team.asRep.ok(skipStep, { params: { id: one!.enrollmentId }, body: { id: event } })
    await work()
    const open = () =>
      rows<{ title: string }>(sql`select title from tasks where prospect_id = $1 and status = 'open'`, [ids[0]])
    expect(await open()).toEqual([{ title: 'Second' }])
    expect((await results(id)).steps.map(({ here, figures }) => [here, figures.done])).toEqual([
      [0, 0],
      [1, 0],
    ])
    await team.asOther.refused(skipStep, 404, { params: { id: one!.enrollmentId }, body: { id: randomUUID() } })
    await team.asRep.ok(skipStep, { params: { id: one!.enrollmentId }, body: { id: randomUUID() } })
    await team.asRep.refused(skipStep, 422, { params: { id: one!.enrollmentId }, body: { id: randomUUID() } })
    await team.asRep.ok(undo, { params: { id: event }, body: { id: randomUUID() } })
  })
})
