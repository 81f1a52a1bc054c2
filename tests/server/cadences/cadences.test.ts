import { randomUUID } from 'node:crypto'
import { describe, expect, it } from 'vitest'
import {
  addCadence,
  copyCadence,
  editCadence,
  getCadence,
  listCadences,
  planCadence,
  type StepDraft,
} from '../../../shared/api/cadences/cadences'
import { enroll } from '../../../shared/api/cadences/enrollments'
import { addSendingWindow, listSendingWindows } from '../../../shared/api/email/sending'
import { previewBulk } from '../../../shared/api/bulk'
import { brief, logOutcome } from '../../../shared/api/desk/desk'
import { addField, editField, mergeFields, removeField } from '../../../shared/api/settings/fields'
import { db } from '../../../server/db/pool'
import { takeDueSteps } from '../../../server/engine/dueSteps'
import { addPeople, addUser, freeze, MONDAY, outcomeId, rows } from '../../fixtures/people'
import { stepDraft } from '../../fixtures/steps'
import { withTeam } from '../../fixtures/team'
import { sql } from '../../../server/db/sql'

const HOUR = 3_600_000
const DAY = 24 * HOUR
const team = withTeam()

const step = (
  kind: StepDraft['kind'],
  amount = 0,
  unit: StepDraft['wait']['unit'] = 'hours',
  given: Partial<StepDraft> = {},
): StepDraft => stepDraft(kind, { wait: { amount, unit, at: null }, ...given })
async function make(steps: StepDraft[], status: 'draft' | 'active' = 'active') {
  const { id } = await team.asManager.ok(addCadence, { body: { name: `Cadence ${randomUUID().slice(0, 4)}`, steps } })
  const made = await team.asManager.ok(getCadence, { params: { id } })
  if (status === 'active') await team.asManager.ok(editCadence, { params: { id }, body: { ...made, status: 'active' } })
  return team.asManager.ok(getCadence, { params: { id } })
}

describe('a cadence', () => {
  it('is a draft until it is activated, and keeps its steps', async () => {
    const steps = [
      step('email'),
      step('call', 2, 'business_days', { body: 'Ask about the rooms', requiresPrevious: true }),
      step('task', 1, 'days'),
    ]
    const draft = await make(steps, 'draft')
    const [officeHours] = (await team.asManager.ok(listSendingWindows)).windows
    expect(draft).toMatchObject({
      status: 'draft',
      version: 1,
      cold: true,
      windowId: officeHours!.id,
      exits: { replied: 'person', booked: 'company' },
      steps,
    })
    const { ids } = await addPeople(1, team.rep.id)
    expect((await team.asRep.ok(enroll, { params: { id: draft.id }, body: { prospectIds: ids } })).enrolled).toBe(0)
    const { version } = await team.asManager.ok(editCadence, {
      params: { id: draft.id },
      body: { ...draft, status: 'active' },
    })
    expect(version).toBe(2)
    expect((await team.asRep.ok(enroll, { params: { id: draft.id }, body: { prospectIds: ids } })).enrolled).toBe(1)
  })
  it('leaves out an email about a call that was never made', async () => {
    await freeze(MONDAY)
    const { id } = await make([step('call'), step('email', 0, 'hours', { requiresPrevious: true })])
    const {
      ids: [called, numberless],
    } = await addPeople(2, team.rep.id)
    await team.asRep.ok(enroll, { params: { id }, body: { prospectIds: [called!, numberless!] } })
    await db().query(sql`delete from phones where prospect_id = $1`, [numberless])
    await takeDueSteps()
    await team.asRep.ok(logOutcome, {
      params: { id: called! },
      body: { id: randomUUID(), outcomeId: await outcomeId('Left voicemail') },
    })
    await takeDueSteps()
    expect(
      await rows(sql`select prospect_id as id from email_messages where prospect_id = any($1::uuid[])`, [
        [called, numberless],
      ]),
    ).toEqual([{ id: called }])
    expect(await rows(sql`select exit from enrollments where prospect_id = $1`, [numberless])).toEqual([
      { exit: 'finished' },
    ])
  })
  it('that is shared is for managers to change, for everyone to read', async () => {
    const made = await make([step('call')])
    expect(made.mayEdit).toBe(true)
    expect(await team.asRep.ok(getCadence, { params: { id: made.id } })).toMatchObject({
      name: made.name,
      mayEdit: false,
    })
    await team.asRep.refused(editCadence, 403, { params: { id: made.id }, body: made })
  })
  it('of a rep is theirs alone until they share it: others neither see nor start it', async () => {
    // Whatever they ask for, it is not shared from the start.
    const { id } = await team.asRep.ok(addCadence, { body: { name: 'Mine', steps: [step('call')], shared: true } })
    const mine = await team.asRep.ok(getCadence, { params: { id } })
    expect(mine).toMatchObject({ shared: false, mayEdit: true, status: 'draft' })
    const described = { ...mine, category: 'Trial', description: 'For the north', status: 'active' as const }
    await team.asRep.ok(editCadence, { params: { id }, body: described })
    const listed = async (caller: typeof team.asRep) =>
      (await caller.ok(listCadences)).cadences.find((one) => one.id === id)
    expect(await listed(team.asRep)).toMatchObject({ category: 'Trial', owner: 'Imani Osei' })
    expect(await listed(team.asOther)).toBeUndefined()
    expect(await listed(team.asManager)).toMatchObject({ owner: 'Imani Osei' })
    const { ids } = await addPeople(1, team.other.id)
    await team.asOther.refused(getCadence, 404, { params: { id } })
    await team.asOther.refused(copyCadence, 404, { params: { id } })
    await team.asOther.refused(enroll, 404, { params: { id }, body: { prospectIds: ids } })
    await team.asOther.refused(previewBulk, 404, {
      body: { action: { type: 'enroll', cadenceId: id }, prospectIds: ids },
    })
    const shared = { ...(await team.asRep.ok(getCadence, { params: { id } })), shared: true }
    await team.asRep.ok(editCadence, { params: { id }, body: shared })
    expect(await listed(team.asOther)).toMatchObject({ owner: null })
    const now = await team.asRep.ok(getCadence, { params: { id } })
    expect(now.mayEdit).toBe(false)
    await team.asRep.refused(editCadence, 403, { params: { id }, body: now })
    await team.asOther.ok(copyCadence, { params: { id } })
  })
  it('of nobody’s becomes the manager’s who shares it no more', async () => {
    const made = await make([step('call')])
    await db().query(sql`update cadences set owner_id = null where id = $1`, [made.id])
    await team.asManager.ok(editCadence, { params: { id: made.id }, body: { ...made, shared: false } })
    const { cadences } = await team.asManager.ok(listCadences)
    expect(cadences.find((one) => one.id === made.id)).toMatchObject({ owner: 'Maren Holloway' })
    await team.asRep.refused(getCadence, 404, { params: { id: made.id } })
  })
  it('cannot be activated empty, or with a step without text', async () => {
    const empty = await make([], 'draft')
    await team.asManager.refused(editCadence, 400, { params: { id: empty.id }, body: { ...empty, status: 'active' } })
    expect((await team.asManager.ok(getCadence, { params: { id: empty.id } })).status).toBe('draft')
    const { problems } = await team.asManager.refused(addCadence, 400, {
      body: { name: 'Mute', steps: [step('call'), step('email', 0, 'hours', { subject: '', body: '' })] },
    })
    expect(problems).toEqual([
      { field: 'steps.1.subject', message: 'The first email needs a subject' },
      { field: 'steps.1.body', message: 'An email needs a text' },
    ])
  })
  it.each([
    ['a wait of -1', { wait: { amount: -1, unit: 'hours' } }, 'steps.0.wait.amount'],
    ['half an hour', { wait: { amount: 0.5, unit: 'hours' } }, 'steps.0.wait.amount'],
    ['three years', { wait: { amount: 1095, unit: 'days' } }, 'steps.0.wait.amount'],
    ['a wait in fortnights', { wait: { amount: 1, unit: 'fortnights' } }, 'steps.0.wait.unit'],
    ['a kind nobody knows', { kind: 'pigeon' }, 'steps.0.kind'],
    ['no name', { name: '' }, 'steps.0.name'],
  ])('with %s is refused at the field', async (_, wrong, field) => {
    const { problems } = await team.asManager.refused(addCadence, 400, {
      body: { name: 'Wrong', steps: [{ ...step('call'), ...wrong }] },
    })
    expect(problems.map((problem) => problem.field)).toContain(field)
  })
  it('with a sending window that is not there is refused', async () => {
    const { problems } = await team.asManager.refused(addCadence, 400, {
      body: { name: 'Wrong', windowId: randomUUID(), steps: [] },
    })
    expect(problems.map((problem) => problem.field)).toEqual(['windowId'])
  })
  it('that another user has saved meanwhile is not overwritten', async () => {
    const made = await make([step('call')])
    await team.asManager.ok(editCadence, { params: { id: made.id }, body: { ...made, name: 'Theirs' } })
    const { current, message } = await team.asManager.refused(editCadence, 409, {
      params: { id: made.id },
      body: { ...made, name: 'Mine' },
    })
    expect(current).toEqual({ version: made.version + 1 })
    expect(message).toMatch(/^Changed by someone else/)
    expect((await team.asManager.ok(getCadence, { params: { id: made.id } })).name).toBe('Theirs')
  })
})

describe('steps put in another order while people are on the way', () => {
  it('leave everyone at the step they wait for', async () => {
    const [first, second, third] = [step('task', 1, 'days'), step('call', 1, 'days'), step('task', 2, 'days')]
    const made = await make([first!, second!, third!])
    const { ids } = await addPeople(1, team.rep.id)
    await team.asRep.ok(enroll, { params: { id: made.id }, body: { prospectIds: ids } })
    await team.asManager.ok(editCadence, {
      params: { id: made.id },
      body: { ...made, steps: [second!, first!, third!] },
    })
    expect(await rows(sql`select step_id, status from enrollments where cadence_id = $1`, [made.id])).toEqual([
      { step_id: first!.id, status: 'waiting' },
    ])
    expect((await team.asManager.ok(getCadence, { params: { id: made.id } })).steps.map((one) => one.id)).toEqual([
      second!.id,
      first!.id,
      third!.id,
    ])
  })
  it('taken out, send those who wait for it on to the one in its place, and the last to the last', async () => {
    const steps = [step('task', 1, 'days'), step('call', 1, 'days'), step('task', 1, 'days')]
    const made = await make(steps)
    const { ids } = await addPeople(1, team.rep.id)
    await team.asRep.ok(enroll, { params: { id: made.id }, body: { prospectIds: ids } })
    await team.asManager.ok(editCadence, { params: { id: made.id }, body: { ...made, steps: steps.slice(1) } })
    expect(await rows(sql`select step_id from enrollments where cadence_id = $1`, [made.id])).toEqual([
      { step_id: steps[1]!.id },
    ])
    const now = await team.asManager.ok(getCadence, { params: { id: made.id } })
    await team.asManager.ok(editCadence, { params: { id: made.id }, body: { ...now, steps: steps.slice(2) } })
    expect(await rows(sql`select step_id, status from enrollments where cadence_id = $1`, [made.id])).toEqual([
      { step_id: steps[2]!.id, status: 'waiting' },
    ])
  })
  it('put back, are the same steps again', async () => {
    const steps = [step('call'), step('task', 1, 'days')]
    const made = await make(steps)
    await team.asManager.ok(editCadence, { params: { id: made.id }, body: { ...made, steps: steps.slice(0, 1) } })
    const now = await team.asManager.ok(getCadence, { params: { id: made.id } })
    await team.asManager.ok(editCadence, { params: { id: made.id }, body: { ...now, steps } })
    expect((await team.asManager.ok(getCadence, { params: { id: made.id } })).steps).toEqual(steps)
  })
})

describe('real dates, if started now', () => {
  const plan = (steps: StepDraft[], prospectId: string | null = null, windowId: string | null = null) =>
    team.asRep.ok(planCadence, { body: { prospectId, windowId, steps } })
  it('are what the engine then does', async () => {
    await freeze(MONDAY)
    const steps = [step('call', 3, 'hours'), step('task', 2, 'business_days'), step('call', 1, 'days')]
    const made = await make(steps)
    const {
      ids: [id],
    } = await addPeople(1, team.rep.id)
    const planned = await plan(steps, id)
    expect(planned).toMatchObject({ timeZone: 'America/New_York', who: 'Tomas Bellweather 1', now: MONDAY })
    await team.asRep.ok(enroll, { params: { id: made.id }, body: { prospectIds: [id!] } })
    expect(await rows(sql`select ms(due_at) as due from enrollments where cadence_id = $1`, [made.id])).toEqual([
      { due: planned.steps[0]!.at },
    ])
    await freeze(planned.steps[0]!.at)
    await takeDueSteps()
    const slope = (await team.asRep.ok(brief, { params: { id: id! } })).slope!
    expect(slope.steps[0]).toMatchObject({ stepId: steps[0]!.id, status: 'now' })
    await freeze(MONDAY)
  })
  it('skip the weekend and the holiday of where the person is, and say so', async () => {
    await freeze(MONDAY)
    // 26 November 2026 is Thanksgiving (5 U.S.C. 6103), the 28th and 29th a weekend.
    const {
      ids: [id],
    } = await addPeople(1, team.rep.id)
    const steps = [step('email'), step('call', 3, 'business_days')]
    const planned = await plan(steps, id)
    expect(new Date(planned.steps[1]!.at).toISOString().slice(0, 10)).toBe('2026-11-27')
    await db().query(
      sql`
      update prospects
      set country = 'GB', region = null, time_zone = 'Europe/London'
      where id = $1
    `,
      [id],
    )
    expect(new Date((await plan(steps, id)).steps[1]!.at).toISOString().slice(0, 10)).toBe('2026-11-26')
  })
  it('keep a mail to its window, and say what moved it', async () => {
    await freeze(MONDAY)
    const steps = [step('email', 9, 'hours')]
    const {
      steps: [moved],
    } = await plan(steps)
    // 10:42 and nine hours is 19:42; the window opens again at 8:00 the next day.
    expect(moved!.at).toBe(Date.UTC(2026, 10, 24, 13))
    expect(moved!.moved).toBeTruthy()
    const late = { name: 'Late', days: [1, 2, 3, 4, 5], from: 480, to: 1_300 }
    const added = await team.asManager.ok(addSendingWindow, {
      body: { ...late, clock: 'prospect', holidays: 'prospect' },
    })
    expect((await plan(steps, null, added.id)).steps[0]).toMatchObject({
      at: MONDAY + 9 * HOUR,
      moved: null,
    })
  })
  it('come with the mail as the person gets it, what is missing, and where a tag is broken', async () => {
    const {
      ids: [id],
    } = await addPeople(1, team.rep.id)
    await db().query(sql`update prospects set first_name = 'Petra', title = null where id = $1`, [id])
    const { steps } = await plan(
      [
        step('email', 0, 'hours', {
          subject: 'For {{ first_name }}',
          body: '{{ title }} at {{ company }}, {{ city | default: "there" }}',
        }),
        step('email', 1, 'days', { body: 'Hello\n{{ first_name | upcas }\n' }),
      ],
      id,
    )
    expect(steps[0]).toMatchObject({ subject: 'For Petra', missing: ['title'], faults: [] })
    expect(steps[0]!.body).toMatch(/at Marlpit Creamery, there$/)
    expect(steps[1]!.faults).toEqual([expect.objectContaining({ field: 'body', line: 2 })])
    expect(steps[1]!.missing).toEqual([])
  })
  it('name the custom fields, of the person and the company, by names that follow the fields’', async () => {
    const {
      ids: [id],
      companyId,
    } = await addPeople(1, team.rep.id)
    const { id: renewal } = await team.asManager.ok(addField, {
      body: { of: 'prospect', name: 'Renewal (date)', kind: 'date' },
    })
    const { id: rooms } = await team.asManager.ok(addField, { body: { of: 'company', name: 'Rooms', kind: 'number' } })
    expect((await team.asRep.ok(mergeFields)).fields.slice(-2)).toEqual([
      { name: 'renewal_date', label: 'Renewal (date)' },
      { name: 'company_rooms', label: 'Company: Rooms' },
    ])
    await db().query(sql`update prospects set custom = $2 where id = $1`, [id, { [renewal]: '2027-03-01' }])
    await db().query(sql`update companies set custom = $2 where id = $1`, [companyId, { [rooms]: 1200 }])
    const steps = [
      step('email', 0, 'hours', { subject: 'Before {{ renewal_date }}', body: '{{ company_rooms }} rooms' }),
      step('email', 1, 'days', { body: 'Hello {{ rooms }}' }),
    ]
    const planned = await plan(steps, id)
    expect(planned.steps[0]).toMatchObject({
      subject: 'Before March 1, 2027',
      body: '1,200 rooms',
      missing: [],
      faults: [],
    })
    expect(planned.steps[1]!.faults).toMatchObject([{ message: 'There is no field "rooms"' }])
    const made = await make([steps[0]!])
    await team.asManager.ok(editField, { params: { id: renewal }, body: { version: 1, name: 'Contract ends' } })
    expect((await team.asManager.ok(getCadence, { params: { id: made.id } })).steps[0]!.subject).toBe(
      'Before {{ contract_ends }}',
    )
    await db().query(sql`update prospects set custom = $2 where id = $1`, [id, {}])
    expect(
      (await plan((await team.asManager.ok(getCadence, { params: { id: made.id } })).steps, id)).steps[0]!.missing,
    ).toEqual(['contract_ends'])
    await Promise.all([renewal, rooms].map((field) => team.asManager.ok(removeField, { params: { id: field } })))
  })
  it('of a colleague’s prospect are hidden from a rep', async () => {
    const other = await addUser('rep', 'Joaquin Pell')
    const {
      ids: [id],
    } = await addPeople(1, other.id)
    await team.asRep.refused(planCadence, 404, { body: { prospectId: id, steps: [] } })
  })
  it('never run backwards, whatever the waits', async () => {
    const { steps } = await plan([
      step('email', 1, 'days'),
      step('call', 0),
      step('task', 5, 'business_days'),
      step('email', 30, 'days'),
      step('call', 700, 'days'),
    ])
    const at = steps.map((one) => one.at)
    expect(at).toEqual([...at].sort((a, b) => a - b))
    expect(at.at(-1)! - at[0]!).toBeGreaterThan(730 * DAY)
  })
})
