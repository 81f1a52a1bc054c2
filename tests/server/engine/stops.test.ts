import { randomUUID } from 'node:crypto'
import { describe, expect, it } from 'vitest'
import { getBulk, startBulk } from '../../../shared/api/bulk'
import { editCadence } from '../../../shared/api/cadences/cadences'
import { enroll } from '../../../shared/api/cadences/enrollments'
import { queue } from '../../../shared/api/desk/queue'
import { addCompanyNote, getCompany, setCompanyStatus } from '../../../shared/api/companies'
import { editPhone, editProspect, getProspect } from '../../../shared/api/prospects'
import { undo } from '../../../shared/api/events/history'
import { editTeam, getTeam } from '../../../shared/api/settings/settings'
import { db } from '../../../server/db/pool'
import { takeDueSteps } from '../../../server/engine/dueSteps'
import { runBulk } from '../../../server/services/bulk/runBulk'
import { getCadence } from '../../../server/services/cadences/cadences'
import { addCadence, addPeople, MONDAY, rows } from '../../fixtures/people'
import { withTeam } from '../../fixtures/team'
import { sql } from '../../../server/db/sql'

const team = withTeam()
const open = (ids: readonly string[]) =>
  rows<{ kind: string }>(sql`select kind from tasks where prospect_id = any($1::uuid[]) and status = 'open'`, [ids])

describe('a person who is archived', () => {
  it('by hand, leaves every cadence and the Desk; active again, has a next action', async () => {
    const {
      ids: [id],
    } = await addPeople(1, team.rep.id)
    await team.asRep.ok(enroll, {
      params: { id: (await addCadence([{ kind: 'call' }])).id },
      body: { prospectIds: [id!] },
    })
    await takeDueSteps()
    expect((await team.asRep.ok(queue)).items.map((item) => item.prospectId)).toContain(id)
    const { version } = await team.asRep.ok(getProspect, { params: { id: id! } })
    await team.asRep.refused(editProspect, 403, {
      params: { id: id! },
      body: { version, status: 'archived', reason: 'closed down' },
    })
    await team.asManager.refused(editProspect, 422, { params: { id: id! }, body: { version, status: 'archived' } })
    await team.asManager.ok(editProspect, {
      params: { id: id! },
      body: { version, status: 'archived', reason: 'closed down', title: 'Owner' },
    })
    expect(await rows(sql`select status, exit from enrollments where prospect_id = $1`, [id])).toEqual([
      { status: 'ended', exit: 'removed' },
    ])
    expect((await team.asRep.ok(queue)).items.map((item) => item.prospectId)).not.toContain(id)
    const archived = await team.asRep.ok(getProspect, { params: { id: id! } })
    expect(archived).toMatchObject({ status: 'archived', title: 'Owner' })
    await team.asRep.ok(editProspect, { params: { id: id! }, body: { version: archived.version, status: 'active' } })
    expect(await open([id!])).toEqual([{ kind: 'first_contact' }])
  })
  it('by a version that is out of date is refused whole', async () => {
    const {
      ids: [id],
    } = await addPeople(1, team.rep.id)
    await team.asManager.refused(editProspect, 409, {
      params: { id: id! },
      body: { version: 99, status: 'archived', reason: 'closed down' },
    })
    expect(await rows(sql`select status from prospects where id = $1`, [id])).toEqual([{ status: 'active' }])
  })
  it('by a bulk action, too', async () => {
    const { ids } = await addPeople(3, team.rep.id)
    await team.asRep.ok(enroll, {
      params: { id: (await addCadence([{ kind: 'call' }])).id },
      body: { prospectIds: ids },
    })
    await takeDueSteps()
    const id = randomUUID()
    await team.asRep.ok(startBulk, { body: { id, action: { type: 'work', status: 'paused' }, prospectIds: ids } })
    await runBulk(id)
    expect(await team.asRep.ok(getBulk, { params: { id } })).toMatchObject({ status: 'done', done: 3 })
    expect(await open(ids)).toEqual([])
    expect(
      await rows(
        sql`
        select distinct status, exit
        from enrollments
        where prospect_id = any($1::uuid[])
      `,
        [ids],
      ),
    ).toEqual([{ status: 'ended', exit: 'stopped' }])
  })
})

describe('a number marked wrong by hand', () => {
  it('takes open calls back when it was the last, and can be undone', async () => {
    const {
      ids: [id],
    } = await addPeople(1, team.rep.id)
    await team.asRep.ok(enroll, {
      params: { id: (await addCadence([{ kind: 'call' }, { kind: 'email', amount: 1, unit: 'days' }])).id },
      body: { prospectIds: [id!] },
    })
    await takeDueSteps()
    const {
      phones: [phone],
    } = await team.asRep.ok(getProspect, { params: { id: id! } })
    await team.asRep.ok(editPhone, {
      params: { id: id!, phone: phone!.id },
      body: { status: 'wrong', kind: 'mobile', tags: ['old'] },
    })
    expect(await open([id!])).toEqual([])
    expect((await team.asRep.ok(getProspect, { params: { id: id! } })).phones).toMatchObject([
      { status: 'wrong', kind: 'mobile', tags: ['old'] },
    ])
    const [event] = await rows<{ id: string }>(
      sql`select id from events where prospect_id = $1 and kind = 'phoneStatusSet'`,
      [id],
    )
    await team.asRep.ok(undo, { params: { id: event!.id }, body: { id: randomUUID() } })
    expect(await open([id!])).toEqual([{ kind: 'call' }])
    await team.asRep.refused(editPhone, 404, { params: { id: id!, phone: randomUUID() }, body: { status: 'wrong' } })
  })
})

describe('a company’s status', () => {
  it('is set on the company in the path, also one without prospects', async () => {
    const { companyId } = await addPeople(1, team.rep.id)
    const { companyId: empty, ids } = await addPeople(1, team.rep.id, 'Oxbow Cider Works')
    await db().query(sql`update prospects set company_id = null where id = any($1::uuid[])`, [ids])
    expect(
      await team.asRep.ok(setCompanyStatus, { params: { id: empty }, body: { id: randomUUID(), to: 'not_a_fit' } }),
    ).toEqual({ summary: 'Done.' })
    expect(await team.asRep.ok(getCompany, { params: { id: empty } })).toMatchObject({ status: 'not_a_fit' })
    expect(await team.asRep.ok(getCompany, { params: { id: companyId } })).toMatchObject({ status: 'open' })
    expect(await rows(sql`select kind, before, after from effects where entity_id = $1`, [empty])).toEqual([
      { kind: 'setCompanyStatus', before: { status: 'open' }, after: { status: 'not_a_fit' } },
    ])
  })
  it('is refused for users who see no prospect there', async () => {
    const { companyId } = await addPeople(1, team.other.id)
    await team.asRep.refused(setCompanyStatus, 404, {
      params: { id: companyId },
      body: { id: randomUUID(), to: 'customer' },
    })
    await team.asRep.refused(addCompanyNote, 404, { params: { id: companyId }, body: { id: randomUUID(), body: 'x' } })
  })
})

describe('hours for calls that never come', () => {
  it('are refused where they are set: in the team’s country, and where people are', async () => {
    const hours = await team.asAdmin.ok(getTeam)
    // 16 CFR 310.4(c): nobody is called after 21:00.
    expect(
      (await team.asAdmin.refused(editTeam, 400, { body: { ...hours, callFrom: 21 * 60, callTo: 23 * 60 } })).problems,
    ).toMatchObject([{ field: 'callFrom' }])
    const weekendEvenings = { ...hours, callDays: [6, 7], callFrom: 18 * 60, callTo: 20 * 60 }
    await team.asAdmin.ok(editTeam, { body: weekendEvenings })
    const {
      ids: [id],
    } = await addPeople(1, team.rep.id)
    await db().query(sql`update prospects set country = 'AU' where id = $1`, [id])
    expect((await team.asAdmin.refused(editTeam, 400, { body: weekendEvenings })).message).toBe(
      'In these hours nobody in Australia may be called, and one person is there',
    )
    await team.asAdmin.ok(editTeam, { body: hours })
  })
})

describe('steps that are deleted', () => {
  it('together send people on to the step that followed each', async () => {
    const { ids } = await addPeople(2, team.rep.id)
    const { id, stepIds } = await addCadence([
      { kind: 'task' },
      { kind: 'task', amount: 1, unit: 'days' },
      { kind: 'task', amount: 1, unit: 'days' },
      { kind: 'call', amount: 1, unit: 'days' },
    ])
    await team.asRep.ok(enroll, { params: { id }, body: { prospectIds: ids } })
    await db().query(sql`update enrollments set step_id = $2 where prospect_id = $1`, [ids[0], stepIds[2]])
    const cadence = await getCadence(id)
    await team.asManager.ok(editCadence, {
      params: { id },
      body: { ...cadence, steps: [cadence.steps[1]!, cadence.steps[3]!] } as never,
    })
    // Anyone who waited for the third goes on with the fourth, anyone who waited for the first with the second.
    expect(await rows(sql`select prospect_id, step_id from enrollments where cadence_id = $1`, [id])).toEqual(
      expect.arrayContaining([
        { prospect_id: ids[0], step_id: stepIds[3] },
        { prospect_id: ids[1], step_id: stepIds[1] },
      ]),
    )
    await takeDueSteps()
    expect(await open([ids[0]!])).toHaveLength(1)
  })
})

describe('the Desk', () => {
  it('is not emptied by people in front who cannot be called now', async () => {
    // Many on a holiday of their own, in a zone whose newer name the runtime’s list does not have, stand before one who
    // can be called.
    const { ids: away } = await addPeople(60, team.other.id)
    await db().query(
      sql`
        update prospects
        set country = 'IN', region = null, time_zone = 'Asia/Kolkata'
        where id = any($1::uuid[])
      `,
      [away],
    )
    const { ids: guessed } = await addPeople(60, team.other.id)
    await db().query(
      sql`
      update prospects
      set region = null, time_zone_from = 'guess'
      where id = any($1::uuid[])
    `,
      [guessed],
    )
    const {
      ids: [here],
    } = await addPeople(1, team.other.id)
    await db().query(
      sql`
        insert into tasks (id, prospect_id, owner_id, kind, priority, title, due_at, status, time_zone)
        select
          gen_random_uuid(), p.id, $2, 'call', 2, 'Ring',
          world_now() - make_interval(mins => case when p.id = $3 then 1 else 60 end), 'open', p.time_zone
        from prospects p
        where p.id = any($1::uuid[])
      `,
      [[...away, ...guessed, here], team.other.id, here],
    )
    const { items, counts } = await team.asOther.ok(queue)
    expect(items.filter((item) => item.group !== 'later').map((item) => item.prospectId)).toEqual([here])
    // The others stand below, by name, with the moment from which they can be called; all are counted.
    expect(
      items.filter((item) => item.group === 'later').every((item) => item.opensAt !== null && item.opensAt > MONDAY),
    ).toBe(true)
    expect(counts).toMatchObject({ due: 1, later: 120 })
  })
})
