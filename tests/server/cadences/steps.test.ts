import { randomUUID } from 'node:crypto'
import { beforeEach, describe, expect, it } from 'vitest'
import { addCadence, getCadence, planCadence, type StepDraft } from '../../../shared/api/cadences/cadences'
import { enroll } from '../../../shared/api/cadences/enrollments'
import { brief, finishTask, writeEmail } from '../../../shared/api/desk/desk'
import { queue } from '../../../shared/api/desk/queue'
import { stopProspect } from '../../../shared/api/prospects'
import { db } from '../../../server/db/pool'
import { firstRow, sql } from '../../../server/db/sql'
import { addPeople, freeze, MONDAY, rows } from '../../fixtures/people'
import { withMail } from '../../fixtures/mail'
import { activeCadence, stepDraft } from '../../fixtures/steps'
import { withTeam } from '../../fixtures/team'

const team = withTeam()
const { room, work } = withMail()
const HOUR = 3_600_000
beforeEach(async () => {
  await freeze(MONDAY)
  room.letters.length = 0
})

/** Puts people of the rep’s into an active cadence of these steps. */
async function inCadence(steps: StepDraft[], count = 1) {
  const id = await activeCadence(team.asManager, { steps, cold: false })
  const { ids } = await addPeople(count, team.rep.id)
  await db().query(sql`update phones set kind = 'mobile' where prospect_id = $1`, [ids[0]])
  await team.asRep.ok(enroll, { params: { id }, body: { prospectIds: ids } })
  await work()
  return { id, ids, prospectId: ids[0]! }
}
const taskOf = async (prospectId: string) =>
  (await firstRow(
    db().query<{ id: string; kind: string }>(
      sql`select id, kind from tasks where prospect_id = $1 and status = 'open'`,
      [prospectId],
    ),
  ))!
const touchesOf = (prospectId: string) =>
  rows<{ kind: string; counts: string }>(
    sql`select kind, counts_as as counts from touches where prospect_id = $1 order by kind`,
    [prospectId],
  )

describe('steps of every kind', () => {
  it('are kept as they were saved, with the time of day a wait ends at', async () => {
    const steps = [
      stepDraft('social', { body: 'Hello {{ first_name }}', link: 'https://people.example/{{ last_name }}' }),
      stepDraft('email', { review: true, wait: { amount: 1, unit: 'business_days', at: 540 } }),
      stepDraft('text', { body: 'Are you in today?' }),
      stepDraft('meeting', { body: 'Walk through the cellar' }),
    ]
    const { id } = await team.asManager.ok(addCadence, { body: { name: 'Every kind', steps } })
    expect((await team.asManager.ok(getCadence, { params: { id } })).steps).toEqual(steps)
    const { steps: planned } = await team.asManager.ok(planCadence, {
      body: { prospectId: null, steps },
    })
    const email = planned.find((one) => one.stepId === steps[1]!.id)!
    expect(new Date(email.at).toISOString()).toBe('2026-11-24T14:00:00.000Z')
  })
  it('stand on the Desk with what they say, and count as what was done', async () => {
    const { prospectId } = await inCadence([
      stepDraft('social', { body: 'Saw your fair, {{ first_name }}', link: 'https://people.example/page' }),
      stepDraft('text', { body: 'Are you in today, {{ first_name }}?' }),
      stepDraft('meeting', { body: 'Walk through the cellar' }),
    ])
    const done = []
    for (let step = 0; step < 3; step++) {
      const task = await taskOf(prospectId)
      const seen = await team.asRep.ok(brief, { params: { id: prospectId }, query: { task: task.id } })
      done.push([task.kind, seen.message?.body ?? seen.script, seen.message?.link])
      await team.asRep.ok(finishTask, { params: { id: task.id }, body: { id: randomUUID() } })
      await work()
    }
    expect(done).toEqual([
      ['social', 'Saw your fair, Tomas', 'https://people.example/page'],
      ['text', 'Are you in today, Tomas?', ''],
      ['meeting', 'Walk through the cellar', undefined],
    ])
    expect(await touchesOf(prospectId)).toEqual([
      { kind: 'meeting', counts: 'conversation' },
      { kind: 'social', counts: 'none' },
      { kind: 'text', counts: 'none' },
    ])
  })
  it('leave a text out where there is no mobile number, and keep it to calling hours', async () => {
    const { ids } = await inCadence([stepDraft('text', { body: 'Hello' }), stepDraft('task')], 1)
    const { ids: others } = await addPeople(1, team.rep.id)
    const cadence = await rows<{ id: string }>(sql`select cadence_id as id from enrollments where prospect_id = $1`, [
      ids[0],
    ])
    const answer = await team.asRep.ok(enroll, {
      params: { id: cadence[0]!.id },
      body: { prospectIds: others, dryRun: true },
    })
    expect(answer.refused).toMatchObject([{ why: 'Starts with a text: no mobile number that works' }])
    const late = stepDraft('text', { body: 'Good night', wait: { amount: 12, unit: 'hours', at: null } })
    const { prospectId } = await inCadence([stepDraft('social'), late])
    await team.asRep.ok(finishTask, { params: { id: (await taskOf(prospectId)).id }, body: { id: randomUUID() } })
    await freeze(MONDAY + 12 * HOUR)
    await work()
    const due = await rows<{ at: Date }>(
      sql`select due_at as at from tasks where prospect_id = $1 and status = 'open'`,
      [prospectId],
    )
    // 10:42 PM in New York: on Tuesday when calling hours open there, 8:00 AM.
    expect(due[0]!.at.toISOString()).toBe('2026-11-24T13:00:00.000Z')
    await freeze(MONDAY + 20.5 * HOUR)
    const { items } = await team.asRep.ok(queue, { query: { limit: 200 } })
    expect(items.find((item) => item.prospectId === prospectId)).toMatchObject({ kind: 'text', group: 'later' })
  })
})

describe('an email that its rep looks at', () => {
  const reviewed = () => [
    stepDraft('email', { review: true, subject: 'About {{ company }}', body: 'Hello {{ first_name }}.' }),
    stepDraft('call', { wait: { amount: 1, unit: 'hours', at: null } }),
  ]
  it('waits on the Desk, goes as it was changed, and sends the cadence on', async () => {
    const { prospectId } = await inCadence(reviewed())
    expect(room.letters).toEqual([])
    const task = await taskOf(prospectId)
    const { message } = await team.asRep.ok(brief, { params: { id: prospectId }, query: { task: task.id } })
    expect(message).toMatchObject({ body: 'Hello Tomas.', missing: [] })
    await team.asRep.ok(writeEmail, {
      params: { id: prospectId },
      body: {
        id: randomUUID(),
        subject: message!.subject,
        body: 'Hello {{ Tomas }}!',
        taskId: task.id,
        inReplyTo: null,
      },
    })
    await work()
    // What the rep wrote is sent as it is, braces and all.
    expect(room.letters).toMatchObject([
      { subject: message!.subject, text: expect.stringContaining('Hello {{ Tomas }}!') },
    ])
    expect(await touchesOf(prospectId)).toEqual([{ kind: 'email', counts: 'none' }])
    const [next] = await rows<{ status: string; kind: string }>(
      sql`
        select e.status, s.kind
        from enrollments e
          join cadence_steps s on s.id = e.step_id
        where e.prospect_id = $1
      `,
      [prospectId],
    )
    expect(next).toEqual({ status: 'waiting', kind: 'call' })
  })
  it('is off, and the cadence goes on, where they ask for no email', async () => {
    const { prospectId } = await inCadence(reviewed())
    await team.asRep.ok(stopProspect, {
      params: { id: prospectId },
      body: { id: randomUUID(), channel: 'email', on: true },
    })
    expect(await rows(sql`select status from tasks where prospect_id = $1`, [prospectId])).toEqual([
      { status: 'cancelled' },
    ])
    const [row] = await rows<{ status: string }>(sql`select status from enrollments where prospect_id = $1`, [
      prospectId,
    ])
    expect(row!.status).toBe('waiting')
  })
})

/** RFC 5322, 3.6.4: In-Reply-To is the email that is answered, References all of the thread, oldest first. */
describe('a follow-up without a subject', () => {
  const follow = (subject: string) =>
    stepDraft('email', { subject, body: 'Again.', wait: { amount: 1, unit: 'hours', at: null } })
  it('goes on in the thread of the emails before it', async () => {
    const { prospectId } = await inCadence([stepDraft('email', { subject: 'Aging rooms' }), follow(''), follow('')])
    for (let hour = 1; hour < 6; hour++) {
      await freeze(MONDAY + hour * 2 * HOUR)
      await work()
    }
    await freeze(MONDAY + 26 * HOUR)
    await work()
    const letters = room.letters.filter((letter) => letter.text)
    expect(letters.map(({ subject }) => subject)).toEqual(['Aging rooms', 'Re: Aging rooms', 'Re: Aging rooms'])
    const [first, second, third] = letters.map(({ raw }) => raw)
    expect(first!.inReplyTo).toBeUndefined()
    expect(second!.inReplyTo).toBe(first!.messageId)
    expect(third!.inReplyTo).toBe(second!.messageId)
    expect(third!.references).toEqual([first!.messageId, second!.messageId])
    expect(prospectId).toBeTruthy()
  })
  it('must follow an email that has one, on every way there', async () => {
    const refusal = await team.asManager.refused(addCadence, 400, {
      body: { name: 'No subject', steps: [stepDraft('task'), follow('')] },
    })
    expect(refusal.problems.map(({ field }) => field)).toEqual(['steps.1.subject'])
  })
})

it('refuses what makes no sense, each at its field', async () => {
  const fieldsOf = async (step: StepDraft) => {
    const { problems } = await team.asManager.refused(addCadence, 400, { body: { name: 'Wrong', steps: [step] } })
    return problems.map(({ field }) => field)
  }
  expect(await fieldsOf(stepDraft('task', { wait: { amount: 2, unit: 'hours', at: 540 } }))).toEqual(['steps.0.wait'])
  expect(await fieldsOf(stepDraft('task', { wait: { amount: 2, unit: 'days', at: 1440 } }))).toEqual([
    'steps.0.wait.at',
  ])
  expect(await fieldsOf(stepDraft('text', { body: '' }))).toEqual(['steps.0.body'])
  expect(await fieldsOf(stepDraft('text', { body: 'x'.repeat(5_000) }))).toEqual(['steps.0.body'])
  expect(await fieldsOf(stepDraft('social', { link: '{{ nothing' }))).toEqual(['steps.0.link'])
})
