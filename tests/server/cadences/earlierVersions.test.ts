import { randomUUID } from 'node:crypto'
import { beforeEach, describe, expect, it } from 'vitest'
import { editCadence, getCadence } from '../../../shared/api/cadences/cadences'
import { enroll, moveEnrollment } from '../../../shared/api/cadences/enrollments'
import { cadenceResults } from '../../../shared/api/cadences/results'
import { brief, finishTask, logOutcome } from '../../../shared/api/desk/desk'
import type { StepDraft } from '../../../shared/api/cadences/cadences'
import { addOutcome, listOutcomes } from '../../../shared/api/settings/outcomes'
import { sql } from '../../../server/db/sql'
import { withMail } from '../../fixtures/mail'
import { addPeople, freeze, MONDAY, rows } from '../../fixtures/people'
import { activeCadence, stepDraft } from '../../fixtures/steps'
import { withTeam } from '../../fixtures/team'

const team = withTeam()
const { room, work } = withMail()
const HOUR = 3_600_000
beforeEach(async () => {
  await freeze(MONDAY)
  room.letters.length = 0
})

const read = (id: string) => team.asManager.ok(getCadence, { params: { id } })
async function save(id: string, underWay: 'move' | 'finish', change: (steps: StepDraft[]) => StepDraft[]) {
  const cadence = await read(id)
  await team.asManager.ok(editCadence, { params: { id }, body: { ...cadence, steps: change(cadence.steps), underWay } })
}
const start = async (id: string, prospectIds: string[]) => {
  await team.asRep.ok(enroll, { params: { id }, body: { prospectIds } })
  await work()
}
/** An active cadence of a call, an email and a task, and someone at the call. */
async function running() {
  const steps = [
    stepDraft('call', { name: 'First call' }),
    stepDraft('email', { name: 'The email', subject: 'As it was', body: 'The first words.' }),
    stepDraft('task', { name: 'The task' }),
  ]
  const id = await activeCadence(team.asManager, { steps, cold: false })
  const [ann, ben] = (await addPeople(2, team.rep.id)).ids as [string, string]
  await start(id, [ann])
  return { id, ann, ben }
}
const taskOf = async (prospectId: string) =>
  (
    await rows<{ id: string; title: string }>(
      sql`select id, title from tasks where prospect_id = $1 and status = 'open' and step_id is not null`,
      [prospectId],
    )
  )[0]!
const outcome = async (name: string, actions: object[]) =>
  (
    await team.asManager.ok(addOutcome, {
      body: { name, countsAs: 'none', requiredInputs: [], reasons: [], actions: actions as never },
    })
  ).id
const log = (prospectId: string, outcomeId: string) =>
  team.asRep.ok(logOutcome, { params: { id: prospectId }, body: { id: randomUUID(), outcomeId, call: 'elsewhere' } })
const changed = (steps: StepDraft[]) =>
  steps
    .filter((step) => step.name !== 'The task')
    .map((step) => (step.kind === 'email' ? { ...step, subject: 'As it is', body: 'Other words.' } : step))

describe('a running cadence that is changed', () => {
  it('is finished as it was by who is in it, and is new for who starts from now on', async () => {
    const { id, ann, ben } = await running()
    const goesOn = await outcome('Goes on', [{ type: 'advance' }])
    await save(id, 'finish', changed)
    expect(await read(id)).toMatchObject({
      steps: [{}, {}],
      earlier: [{ people: 1, until: expect.any(Number) as number }],
    })
    const { slope } = await team.asRep.ok(brief, { params: { id: ann } })
    expect(slope!.steps.map(({ name }) => name)).toEqual(['First call', 'The email', 'The task'])
    await start(id, [ben])
    for (const prospectId of [ann, ben]) await log(prospectId, goesOn)
    await work()
    const said = room.letters.map(({ raw }) => [raw.subject, raw.text!.includes('The first words')])
    expect(said).toEqual([
      ['As it was', true],
      ['As it is', false],
    ])
    // Behind the email there is a task for one, and nothing more for the other.
    const task = await taskOf(ann)
    expect(task.title).toBe('The task')
    await team.asRep.ok(finishTask, { params: { id: task.id }, body: { id: randomUUID() } })
    expect(await rows(sql`select exit from enrollments where prospect_id = any($1::uuid[])`, [[ann, ben]])).toEqual([
      { exit: 'finished' },
      { exit: 'finished' },
    ])
    expect((await read(id)).earlier).toEqual([])
    const { steps } = await team.asManager.ok(cadenceResults, { params: { id } })
    expect(steps.map(({ name, earlier, figures }) => [name, earlier, figures.sent ?? null])).toEqual([
      ['First call', false, null],
      ['The email', false, 1],
      ['First call', true, null],
      ['The email', true, 1],
      ['The task', true, null],
    ])
  })
  it('says the new words in email that waits, but for who finishes the earlier version', async () => {
    const night = MONDAY + 8 * HOUR
    for (const [people, subject] of [
      ['move', 'As it is'],
      ['finish', 'As it was'],
    ] as const) {
      await freeze(MONDAY)
      room.letters.length = 0
      const { id, ann } = await running()
      await freeze(night)
      await log(ann, await outcome(`Goes on ${people}`, [{ type: 'advance' }]))
      await work()
      expect(room.letters).toEqual([])
      await save(id, people, changed)
      await freeze(MONDAY + 24 * HOUR)
      await work()
      expect(room.letters.map(({ raw }) => raw.subject)).toEqual([subject])
    }
  })
  it('is named by actions as before, in either version', async () => {
    const { id, ann, ben } = await running()
    const target = (await read(id)).steps.at(-1)!.id
    const skip = await outcome('Goes to the task', [{ type: 'goToStep', stepId: target }])
    await save(id, 'finish', (steps) => steps.map((step) => ({ ...step, name: `New ${step.name}` })))
    const shown = (await team.asManager.ok(listOutcomes)).outcomes.find((one) => one.id === skip)!
    expect(shown.faults).toEqual([])
    expect(shown.actions).toMatchObject([{ type: 'goToStep', stepId: (await read(id)).steps.at(-1)!.id }])
    await start(id, [ben])
    for (const prospectId of [ann, ben]) await log(prospectId, skip)
    await work()
    expect((await taskOf(ann)).title).toBe('The task')
    expect((await taskOf(ben)).title).toBe('New The task')
  })
  it('takes who finishes an earlier version to its steps as they are now, where one moves them', async () => {
    const { id, ann } = await running()
    await save(id, 'finish', changed)
    const [enrollment] = await rows<{ id: string }>(sql`select id from enrollments where prospect_id = $1`, [ann])
    const body = { id: randomUUID(), stepId: (await read(id)).steps[1]!.id }
    await team.asRep.ok(moveEnrollment, { params: { id: enrollment!.id }, body })
    await work()
    expect(room.letters.map(({ raw }) => raw.subject)).toEqual(['As it is'])
    expect((await read(id)).earlier).toEqual([])
  })
})
