import { randomUUID } from 'node:crypto'
import { beforeEach, describe, expect, it } from 'vitest'
import { enroll, moveEnrollment } from '../../../shared/api/cadences/enrollments'
import { prospectHistory, undo } from '../../../shared/api/events/history'
import { sql } from '../../../server/db/sql'
import { withMail } from '../../fixtures/mail'
import { addPeople, freeze, MONDAY, rows } from '../../fixtures/people'
import { activeCadence, stepDraft } from '../../fixtures/steps'
import { withTeam } from '../../fixtures/team'

const team = withTeam()
const { room, work } = withMail()
const DAY = 86_400_000
beforeEach(async () => {
  await freeze(MONDAY)
  room.letters.length = 0
})

/** Someone at the call of a cadence of an email, a call and a task. */
async function atTheCall() {
  const steps = [
    stepDraft('email'),
    stepDraft('call', { name: 'The call' }),
    stepDraft('task', { name: 'The task', wait: { amount: 5, unit: 'days', at: null } }),
  ]
  const id = await activeCadence(team.asManager, { steps, cold: false })
  const { ids } = await addPeople(1, team.rep.id)
  await team.asRep.ok(enroll, { params: { id }, body: { prospectIds: ids } })
  await work()
  const [enrollment] = await rows<{ id: string }>(sql`select id from enrollments where prospect_id = $1`, [ids[0]])
  return { prospectId: ids[0]!, enrollmentId: enrollment!.id, steps }
}
const placeOf = async (prospectId: string) => ({
  at: (
    await rows<{ at: string; due: number | null }>(
      sql`
        select s.name || ' ' || e.status as at, ms(e.due_at)::float8 as due
        from enrollments e
          join cadence_steps s on s.id = e.step_id
        where e.prospect_id = $1
      `,
      [prospectId],
    )
  )[0]!,
  tasks: (
    await rows<{ kind: string }>(sql`select kind from tasks where prospect_id = $1 and status = 'open'`, [prospectId])
  ).map(({ kind }) => kind),
})
const move = (enrollmentId: string, to: { stepId?: string; dueAt?: number }) => ({
  params: { id: enrollmentId },
  body: { id: randomUUID(), ...to },
})

describe('someone who is in a cadence', () => {
  it('waits at their step until a time, and is there again then', async () => {
    const { prospectId, enrollmentId } = await atTheCall()
    expect(await placeOf(prospectId)).toEqual({ at: { at: 'The call active', due: null }, tasks: ['call'] })
    await team.asRep.ok(moveEnrollment, move(enrollmentId, { dueAt: MONDAY + 2 * DAY }))
    expect(await placeOf(prospectId)).toEqual({ at: { at: 'The call waiting', due: MONDAY + 2 * DAY }, tasks: [] })
    await freeze(MONDAY + 2 * DAY)
    await work()
    expect(await placeOf(prospectId)).toMatchObject({ at: { at: 'The call active' }, tasks: ['call'] })
  })
  it('is moved to another step, on or back; an email that has gone out is not sent again', async () => {
    const { prospectId, enrollmentId, steps } = await atTheCall()
    await team.asRep.ok(moveEnrollment, move(enrollmentId, { stepId: steps[2]!.id }))
    await work()
    expect(await placeOf(prospectId)).toMatchObject({ at: { at: 'The task active' }, tasks: ['task'] })
    await team.asRep.ok(moveEnrollment, move(enrollmentId, { stepId: steps[0]!.id }))
    await work()
    expect(await placeOf(prospectId)).toMatchObject({ at: { at: 'The call active' }, tasks: ['call'] })
    expect(room.letters).toHaveLength(1)
  })
  it('is moved back by undo', async () => {
    const { prospectId, enrollmentId, steps } = await atTheCall()
    await team.asRep.ok(moveEnrollment, move(enrollmentId, { stepId: steps[2]!.id, dueAt: MONDAY + DAY }))
    const { entries } = await team.asRep.ok(prospectHistory, { params: { id: prospectId } })
    const moved = entries.find(({ kind }) => kind === 'enrollmentMoved')!
    expect(moved).toMatchObject({ title: 'Moved within the cadence', canUndo: true })
    await team.asRep.ok(undo, { params: { id: moved.id }, body: { id: randomUUID() } })
    expect(await placeOf(prospectId)).toEqual({ at: { at: 'The call active', due: null }, tasks: ['call'] })
  })
  it('is not moved to a step of another cadence, into the past, or by one who does not see them', async () => {
    const { enrollmentId, steps } = await atTheCall()
    const other = await atTheCall()
    const refused = async (to: Parameters<typeof move>[1], status: number, as = team.asRep) =>
      (await as.refused(moveEnrollment, status, move(enrollmentId, to))).problems.map(({ field }) => field)
    expect(await refused({ stepId: other.steps[2]!.id }, 422)).toEqual(['stepId'])
    expect(await refused({ dueAt: MONDAY - DAY }, 422)).toEqual(['dueAt'])
    expect(await refused({}, 400)).toEqual([''])
    await refused({ stepId: steps[2]!.id }, 404, team.asOther)
  })
})
