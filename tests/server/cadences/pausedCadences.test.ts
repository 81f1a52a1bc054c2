import { randomUUID } from 'node:crypto'
import { describe, expect, it } from 'vitest'
import { copyCadence, editCadence, getCadence, setCadenceState } from '../../../shared/api/cadences/cadences'
import { enroll } from '../../../shared/api/cadences/enrollments'
import { db } from '../../../server/db/pool'
import { takeDueSteps } from '../../../server/engine/dueSteps'
import { runBulk } from '../../../server/services/bulk/runBulk'
import { addCadence, addPeople, freeze, MONDAY, rows } from '../../fixtures/people'
import { withMail } from '../../fixtures/mail'
import { withTeam } from '../../fixtures/team'
import { sql } from '../../../server/db/sql'

const team = withTeam()
const HOUR = 3_600_000
const { room, work } = withMail()
const set = (id: string, to: 'active' | 'paused' | 'archived', people: 'finish' | 'leave' = 'finish') =>
  team.asManager.ok(setCadenceState, { params: { id }, body: { to, people } })

describe('a cadence that is paused', () => {
  it('takes no step and sends no email; resumed, it goes on with all that waited', async () => {
    await freeze(MONDAY)
    const { ids } = await addPeople(3, team.rep.id)
    const cadence = await addCadence([{ kind: 'email' }, { kind: 'call', amount: 2, unit: 'hours' }])
    await team.asRep.ok(enroll, { params: { id: cadence.id }, body: { prospectIds: ids.slice(0, 2) } })
    // One email is queued already, the other step is due.
    await db().query(
      sql`
      update scheduled_actions
      set at = at + interval '1 hour'
      where kind = 'step' and prospect_id = $1
    `,
      [ids[1]],
    )
    await takeDueSteps()
    await set(cadence.id, 'paused')
    await freeze(MONDAY + 3 * HOUR)
    await work()
    expect(room.letters).toHaveLength(0)
    expect(await rows(sql`select status from email_messages where prospect_id = any($1::uuid[])`, [ids])).toEqual([
      { status: 'queued' },
    ])
    expect(await rows(sql`select status from enrollments where prospect_id = $1`, [ids[1]])).toEqual([
      { status: 'waiting' },
    ])
    const { refused } = await team.asRep.ok(enroll, {
      params: { id: cadence.id },
      body: { prospectIds: [ids[2]!], dryRun: true },
    })
    expect(refused).toMatchObject([{ why: 'The cadence is paused' }])
    await set(cadence.id, 'active')
    await work()
    expect(room.letters).toHaveLength(2)
    expect(
      await rows(
        sql`
        select count(*)::int as count
        from email_messages
        where prospect_id = any($1::uuid[]) and status = 'sent'
      `,
        [ids],
      ),
    ).toEqual([{ count: 2 }])
  })
  it('is only a manager’s to pause, and only while it is active', async () => {
    const cadence = await addCadence([{ kind: 'call' }])
    await team.asRep.refused(setCadenceState, 403, { params: { id: cadence.id }, body: { to: 'paused' } })
    await set(cadence.id, 'archived')
    await team.asManager.refused(setCadenceState, 422, { params: { id: cadence.id }, body: { to: 'paused' } })
  })
})

describe('a cadence that is archived', () => {
  it('lets people finish, or takes them out, as asked', async () => {
    await freeze(MONDAY)
    const { ids } = await addPeople(2, team.rep.id)
    const [stays, leaves] = [await addCadence([{ kind: 'call' }]), await addCadence([{ kind: 'call' }])]
    for (const { id } of [stays, leaves]) await team.asRep.ok(enroll, { params: { id }, body: { prospectIds: ids } })
    expect(await set(stays.id, 'archived')).toMatchObject({ left: 0 })
    expect(await set(leaves.id, 'archived', 'leave')).toMatchObject({ left: 2 })
    for (const { id } of await rows<{ id: string }>(sql`select id from bulk_actions where status <> 'done'`)) {
      await runBulk(id)
    }
    const states = (cadenceId: string) =>
      rows(sql`select distinct status from enrollments where cadence_id = $1`, [cadenceId])
    expect([await states(stays.id), await states(leaves.id)]).toEqual([[{ status: 'waiting' }], [{ status: 'ended' }]])
  })
})

describe('a cadence', () => {
  it('says how many are at each step, and is copied with its steps as a draft', async () => {
    const { ids } = await addPeople(2, team.rep.id)
    const cadence = await addCadence([{ kind: 'call' }, { kind: 'email', amount: 1, unit: 'days' }])
    await team.asRep.ok(enroll, { params: { id: cadence.id }, body: { prospectIds: ids } })
    expect((await team.asManager.ok(getCadence, { params: { id: cadence.id } })).people).toEqual({
      [cadence.stepIds[0]!]: 2,
    })
    const copy = await team.asManager.ok(getCadence, {
      params: await team.asManager.ok(copyCadence, { params: { id: cadence.id } }),
    })
    expect(copy).toMatchObject({
      name: 'Copy of Aging rooms, first contact',
      status: 'draft',
      people: {},
      steps: [{ kind: 'call' }, { kind: 'email' }],
    })
    expect(copy.steps.map((step) => step.id)).not.toContain(cadence.stepIds[0])
    const { people: _, id: __, ...draft } = copy
    await team.asManager.ok(editCadence, { params: { id: copy.id }, body: { ...draft, name: 'Mine now' } })
  })
  it('says before enrolling who sends and calls, and how many lack a value that its email needs', async () => {
    const { ids: owned } = await addPeople(2, team.rep.id)
    const { ids: free } = await addPeople(3, null)
    await db().query(sql`update prospects set title = 'Owner' where id = $1`, [owned[0]])
    const cadence = await addCadence([
      { kind: 'email', body: 'Hello {{ first_name }}, as {{ title }} you know {{ company | default: "your firm" }}' },
    ])
    const look = await team.asManager.ok(enroll, {
      params: { id: cadence.id },
      body: { prospectIds: [...owned, ...free], dryRun: true },
    })
    expect(look.senders.map((one) => [one.name, one.people, one.unowned])).toEqual([
      ['Maren Holloway', 3, 3],
      ['Imani Osei', 2, 0],
    ])
    expect(look.missing).toEqual([{ field: 'title', people: 4 }])
    expect(look.enrolled).toBe(5)
    await team.asManager.refused(setCadenceState, 404, { params: { id: randomUUID() }, body: { to: 'paused' } })
  })
})
