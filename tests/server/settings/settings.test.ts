import { randomUUID } from 'node:crypto'
import { describe, expect, it } from 'vitest'
import { brief, logOutcome } from '../../../shared/api/desk/desk'
import { editProspect, getProspect } from '../../../shared/api/prospects'
import { addOutcome, editOutcome, listOutcomes } from '../../../shared/api/settings/outcomes'
import { addUser as addUserCall, editTeam, editUser, getTeam, listUsers } from '../../../shared/api/settings/settings'
import { caller } from '../../fixtures/caller'
import { addPeople, addUser, rows } from '../../fixtures/people'
import { withTeam } from '../../fixtures/team'
import { sql } from '../../../server/db/sql'

const team = withTeam()

const warm = {
  name: 'Asked for prices',
  countsAs: 'conversation' as const,
  leavesMessage: true,
  requiredInputs: ['note' as const],
  requiredFields: [],
  reasons: [],
  actions: [
    {
      type: 'makeTask' as const,
      title: 'Send the price sheet',
      task: 'follow_up' as const,
      wait: { amount: 0, unit: 'days' as const },
      whose: 'owner' as const,
    },
    { type: 'moveStage' as const, to: 'in_conversation' },
  ],
}

describe('an outcome that a manager makes', () => {
  it('is offered last, does what it says, and can be changed and put away', async () => {
    const { outcomes: before } = await team.asManager.ok(listOutcomes)
    const stage = (
      await rows<{ id: string }>(sql`select id from stages where kind = 'open' order by position offset 2 limit 1`)
    )[0]!.id
    const body = { ...warm, actions: [warm.actions[0]!, { type: 'moveStage' as const, to: stage }] }
    const { id } = await team.asManager.ok(addOutcome, { body })
    expect((await team.asRep.ok(listOutcomes)).outcomes.at(-1)).toEqual({
      id,
      position: before.length,
      faults: [],
      usedFor: ['call'],
      ...body,
    })
    const {
      ids: [person],
    } = await addPeople(1, team.rep.id)
    const choice = (await team.asRep.ok(brief, { params: { id: person! } })).outcomes.find((one) => one.id === id)!
    expect(choice).toMatchObject({ name: 'Asked for prices', key: 'Shift+7', requiredInputs: ['note'], blocked: null })
    await team.asRep.refused(logOutcome, 422, { params: { id: person! }, body: { id: randomUUID(), outcomeId: id } })
    const { summary: says } = await team.asRep.ok(logOutcome, {
      params: { id: person! },
      body: { id: randomUUID(), outcomeId: id, details: { note: 'the small one' }, fingerprint: choice.fingerprint },
    })
    expect(says).toBe(choice.summary)
    expect(await rows(sql`select stage_id from prospects where id = $1`, [person])).toEqual([{ stage_id: stage }])
    expect(await rows(sql`select title, kind, status from tasks where prospect_id = $1`, [person])).toEqual([
      { title: 'Send the price sheet', kind: 'follow_up', status: 'open' },
    ])

    await team.asManager.ok(editOutcome, {
      params: { id },
      body: { ...body, name: 'Wants prices', actions: [], position: before.length },
    })
    const now = (await team.asRep.ok(brief, { params: { id: person! } })).outcomes.find((one) => one.id === id)!
    expect(now.name).toBe('Wants prices')
    expect(now.summary).not.toBe(choice.summary)

    await team.asManager.ok(editOutcome, { params: { id }, body: { ...body, position: before.length, archived: true } })
    expect((await team.asRep.ok(listOutcomes)).outcomes).toEqual(before)
    expect(await rows(sql`select counts_as from touches where outcome_id = $1`, [id])).toEqual([
      { counts_as: 'conversation' },
    ])
  })
  it('what was promised before a change is not done after it', async () => {
    const { id } = await team.asManager.ok(addOutcome, {
      body: { ...warm, requiredInputs: [], name: 'Passing thought', actions: [warm.actions[0]!] },
    })
    const {
      ids: [person],
    } = await addPeople(1, team.rep.id)
    const promised = (await team.asRep.ok(brief, { params: { id: person! } })).outcomes.find((one) => one.id === id)!
    const { outcomes } = await team.asManager.ok(listOutcomes)
    await team.asManager.ok(editOutcome, {
      params: { id },
      body: {
        ...warm,
        requiredInputs: [],
        name: 'Passing thought',
        actions: [{ type: 'stop', channel: 'all' }],
        position: outcomes.length - 1,
      },
    })
    await team.asRep.refused(logOutcome, 409, {
      params: { id: person! },
      body: { id: randomUUID(), outcomeId: id, fingerprint: promised.fingerprint },
    })
    expect(await rows(sql`select stop_call, stop_email from prospects where id = $1`, [person])).toEqual([
      { stop_call: false, stop_email: false },
    ])
  })
  it('reaches the whole company from the moment it says so', async () => {
    const { id } = await team.asManager.ok(addOutcome, {
      body: { ...warm, requiredInputs: [], name: 'Closing down', actions: [warm.actions[0]!] },
    })
    const { ids } = await addPeople(3, team.rep.id)
    await team.asRep.ok(logOutcome, { params: { id: ids[0]! }, body: { id: randomUUID(), outcomeId: id } })
    const { outcomes } = await team.asManager.ok(listOutcomes)
    await team.asManager.ok(editOutcome, {
      params: { id },
      body: {
        ...warm,
        requiredInputs: [],
        name: 'Closing down',
        actions: [{ type: 'moveStage', to: 'not_a_fit', scope: 'company' }],
        position: outcomes.length - 1,
      },
    })
    await team.asRep.ok(logOutcome, { params: { id: ids[1]! }, body: { id: randomUUID(), outcomeId: id } })
    expect(await rows(sql`select distinct stage_id from prospects where id = any($1)`, [ids])).toEqual([
      { stage_id: 'not_a_fit' },
    ])
  })
  it.each([
    [
      'a stage that is not there',
      { actions: [{ type: 'moveStage', to: 'nowhere' }] },
      'actions.0',
      'Choose a stage: the one chosen is archived or deleted',
    ],
    [
      'a call back without asking when',
      { actions: [{ type: 'callBack' }] },
      'actions.0',
      'A call back needs the outcome to ask for its time',
    ],
    [
      'a meeting without asking for it',
      { actions: [{ type: 'bookMeeting' }] },
      'actions.0',
      'Booking a meeting needs the outcome to ask for it',
    ],
    [
      'a referral without asking who',
      { actions: [{ type: 'advance' }, { type: 'addReferral' }] },
      'actions.1',
      'Adding a referral needs the outcome to ask who it is',
    ],
    ['no name', { name: ' ' }, 'name', null],
    ['a kind nobody knows', { actions: [{ type: 'explode' }] }, 'actions.0.type', null],
    ['attempt 0', { actions: [{ type: 'advance', fromAttempt: 0 }] }, 'actions.0.fromAttempt', null],
    ['a task without a title', { actions: [{ type: 'makeTask', title: '', days: 1 }] }, 'actions.0.title', null],
    ...[
      ['-1', -1, 'hours'],
      ['0', 0, 'hours'],
      ['ten years', 520, 'weeks'],
      ['half a day', 0.5, 'days'],
    ].map(([what, amount, unit]) => [
      `a delay of ${what}`,
      { actions: [{ type: 'cancelEmail' }, { type: 'exit', scope: 'all', as: 'stopped', after: { amount, unit } }] },
      'actions.1.after.amount',
      null,
    ]),
    [
      'a delay of what cannot wait',
      { actions: [{ type: 'advance', after: { amount: 1, unit: 'hours' } }] },
      'actions.0',
      'This action cannot wait',
    ],
    [
      'a tag that is not there',
      { actions: [{ type: 'changeTag', tagId: randomUUID(), on: true }] },
      'actions.0',
      'Choose a tag: the one chosen is archived or deleted',
    ],
    ['21 actions', { actions: Array.from({ length: 21 }, () => ({ type: 'advance' })) }, 'actions', null],
  ] as [string, object, string, string | null][])(
    'with %s is refused at the field',
    async (_, wrong, field, message) => {
      const before = await rows(sql`select count(*)::int as count from outcomes`)
      const { problems } = await team.asManager.refused(addOutcome, 400, {
        body: { ...warm, requiredInputs: [], ...wrong },
      })
      expect(problems.map((problem) => problem.field)).toContain(field)
      if (message) expect(problems.map((problem) => problem.message)).toContain(message)
      expect(await rows(sql`select count(*)::int as count from outcomes`)).toEqual(before)
    },
  )
  it('asks for what must be known of the prospect, just where it is not, and is logged once it is', async () => {
    const { id } = await team.asManager.ok(addOutcome, {
      body: { ...warm, name: 'Sent the sheet', requiredInputs: [], requiredFields: ['title', 'email'], actions: [] },
    })
    const [person] = (await addPeople(1, team.rep.id)).ids
    const choice = async () =>
      (await team.asRep.ok(brief, { params: { id: person! } })).outcomes.find((one) => one.id === id)!
    expect(await choice()).toMatchObject({ blocked: null, missing: [{ key: 'title', label: 'job title' }] })
    const log = () => ({ params: { id: person! }, body: { id: randomUUID(), outcomeId: id } })
    expect((await team.asRep.refused(logOutcome, 422, log())).problems).toMatchObject([{ field: 'fields.title' }])
    const { version } = await team.asRep.ok(getProspect, { params: { id: person! } })
    await team.asRep.ok(editProspect, { params: { id: person! }, body: { version, title: 'Buyer' } })
    expect((await choice()).missing).toEqual([])
    await team.asRep.ok(logOutcome, log())
  })
  it('is not for reps to make or change', async () => {
    expect((await team.asRep.refused(addOutcome, 403, { body: warm })).code).toBe('not_allowed')
    const [one] = (await team.asRep.ok(listOutcomes)).outcomes
    await team.asRep.refused(editOutcome, 403, { params: { id: one!.id }, body: { ...one, archived: true } })
    await team.asManager.refused(editOutcome, 404, {
      params: { id: randomUUID() },
      body: { ...warm, actions: [], position: 0 },
    })
  })
})

describe('the team', () => {
  it('is changed by a manager and holds at once', async () => {
    const now = await team.asRep.ok(getTeam)
    await team.asRep.refused(editTeam, 403, { body: now })
    expect(
      await team.asManager.ok(editTeam, { body: { ...now, name: 'Thornwick North', attemptsAllowed: 5 } }),
    ).toMatchObject({ name: 'Thornwick North', attemptsAllowed: 5 })
    const {
      ids: [person],
    } = await addPeople(1, team.rep.id)
    expect((await team.asRep.ok(brief, { params: { id: person! } })).prospect.attemptsAllowed).toBe(5)
    await team.asManager.ok(editTeam, { body: now })
  })
  it.each([
    ['calling ends before it begins', { callFrom: 600, callTo: 540 }, 'callTo'],
    ['no day at all', { callDays: [] }, 'callDays'],
    ['a zone nobody knows', { timeZone: 'Mars/Olympus' }, 'timeZone'],
    ['a country of three letters', { country: 'USA' }, 'country'],
    ['no attempts', { attemptsAllowed: 0 }, 'attemptsAllowed'],
    ['half a day', { fallbackDays: 0.5 }, 'fallbackDays'],
  ])('where %s, says so at the field', async (_, wrong, field) => {
    const now = await team.asManager.ok(getTeam)
    const { problems } = await team.asManager.refused(editTeam, 400, { body: { ...now, ...wrong } })
    expect(problems.map((problem) => problem.field)).toContain(field)
    expect(await team.asManager.ok(getTeam)).toEqual(now)
  })
})

describe('people of the team', () => {
  const newUser = {
    name: 'Joss Fairweather',
    role: 'rep' as const,
    timeZone: 'Europe/London',
    password: 'a long enough one',
  }
  it('are added once each, by managers, and admins by admins', async () => {
    const { id } = await team.asManager.ok(addUserCall, { body: { ...newUser, email: 'Joss@Thornwick.example' } })
    expect((await team.asRep.ok(listUsers)).users.find((user) => user.id === id)).toMatchObject({
      name: 'Joss Fairweather',
      email: 'joss@thornwick.example',
      role: 'rep',
      active: true,
    })
    expect(
      (await team.asManager.refused(addUserCall, 409, { body: { ...newUser, email: 'joss@thornwick.example' } }))
        .problems,
    ).toMatchObject([{ field: 'email' }])
    await team.asManager.refused(addUserCall, 403, {
      body: { ...newUser, role: 'admin', email: 'boss@thornwick.example' },
    })
    await team.asAdmin.ok(addUserCall, { body: { ...newUser, role: 'admin', email: 'boss@thornwick.example' } })
    await team.asRep.refused(addUserCall, 403, { body: { ...newUser, email: 'x@thornwick.example' } })
  })
  it.each([
    ['a short password', { password: 'short' }, 'password'],
    ['no address', { email: 'nobody' }, 'email'],
    ['a zone nobody knows', { timeZone: 'Here' }, 'timeZone'],
    ['no name', { name: '' }, 'name'],
  ])('with %s are refused at the field', async (_, wrong, field) => {
    const { problems } = await team.asManager.refused(addUserCall, 400, {
      body: { ...newUser, email: 'y@thornwick.example', ...wrong },
    })
    expect(problems.map((problem) => problem.field)).toContain(field)
  })
  it('who are deactivated cannot use an API key either; the last manager stays active', async () => {
    const deactivated = await addUser('rep', 'Nerys Groot')
    const asDeactivated = await caller(team.url, deactivated)
    await asDeactivated.ok(listUsers)
    await team.asManager.ok(editUser, { params: { id: deactivated.id }, body: { active: false } })
    expect((await asDeactivated.refused(listUsers, 401)).code).toBe('not_signed_in')
    await team.asManager.ok(editUser, { params: { id: deactivated.id }, body: { active: true } })
    // A key does not come back with its user.
    await asDeactivated.refused(listUsers, 401)
    await (await caller(team.url, deactivated)).ok(listUsers)
    await team.asManager.refused(editUser, 403, { params: { id: team.admin.id }, body: { active: false } })
    await team.asManager.refused(editUser, 404, { params: { id: randomUUID() }, body: { active: false } })
    const { users } = await team.asAdmin.ok(listUsers)
    for (const user of users.filter((one) => one.role !== 'rep' && one.id !== team.admin.id)) {
      await team.asAdmin.ok(editUser, { params: { id: user.id }, body: { active: false } })
    }
    await team.asAdmin.refused(editUser, 422, { params: { id: team.admin.id }, body: { active: false } })
    for (const user of users.filter((one) => one.active)) {
      await team.asAdmin.ok(editUser, { params: { id: user.id }, body: { active: true } })
    }
  })
})
