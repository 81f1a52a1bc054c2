import { randomUUID } from 'node:crypto'
import { beforeEach, describe, expect, it } from 'vitest'
import { brief, logOutcome, planTask, sayWhen, writeEmail } from '../../../shared/api/desk/desk'
import { dayRidge, queue } from '../../../shared/api/desk/queue'
import { addList, findProspects } from '../../../shared/api/lists'
import {
  addProspect,
  editEmail,
  editPhone,
  getProspect,
  moveProspect,
  removeEmail,
  removePhone,
} from '../../../shared/api/prospects'
import { prospectHistory } from '../../../shared/api/events/history'
import { editAccount } from '../../../server/services/accounts/accounts'
import { db } from '../../../server/db/pool'
import { planMissingActions } from '../../../server/engine/nextActions'
import { takeDueSteps } from '../../../server/engine/dueSteps'
import { enroll } from '../../../server/services/cadences/enrollments'
import { addCadence, addPeople, freeze, MONDAY, outcomeId, rows } from '../../fixtures/people'
import { withTeam } from '../../fixtures/team'
import { firstRow, sql } from '../../../server/db/sql'

const team = withTeam()
const HOUR = 3_600_000
const DAY = 24 * HOUR
beforeEach(() => freeze(MONDAY))
const open = (id: string) =>
  rows<{ kind: string; title: string; due: number }>(
    sql`
      select kind, title, ms(due_at) as due
      from tasks
      where prospect_id = $1 and status = 'open'
    `,
    [id],
  )
const log = async (id: string, name: string, more: object = {}) =>
  team.asRep.ok(logOutcome, { params: { id }, body: { id: randomUUID(), outcomeId: await outcomeId(name), ...more } })

describe('a prospect who is added', () => {
  it('by hand, waits for a first contact on the Desk, behind what is due', async () => {
    const { id } = await team.asRep.ok(addProspect, {
      body: { name: 'Ottoline Quay', phone: '(607) 555-0142', country: 'US', region: 'NY' },
    })
    expect(await open(id)).toMatchObject([{ kind: 'first_contact', due: MONDAY }])
    const { items, counts } = await team.asRep.ok(queue)
    expect(items.find((item) => item.prospectId === id)).toMatchObject({ group: 'new', why: 'new, no contact yet' })
    expect(counts).toMatchObject({ new: 1, overdue: 0 })
    expect((await team.asRep.ok(prospectHistory, { params: { id } })).entries.map((entry) => entry.kind)).toEqual([
      'prospectAdded',
    ])
    // A day later they are still new, not overdue.
    await freeze(MONDAY + DAY)
    expect((await team.asRep.ok(queue)).counts).toMatchObject({ new: 1, overdue: 0 })
    expect((await team.asRep.ok(dayRidge)).callableNow).toBe(0)
  })
  it('in any other way, is found by the worker and gets a next action once', async () => {
    const { ids } = await addPeople(3, team.rep.id)
    await db().query(
      sql`
        insert into touches (id, prospect_id, kind, at, counts_as)
        values (gen_random_uuid(), $1, 'call', world_now() - interval '90 days', 'conversation')
      `,
      [ids[2]],
    )
    for (let after: string | null = null, rounds = 0; rounds < 5; rounds++) {
      const { next }: { next: string | null } = await planMissingActions(after)
      after = next
    }
    expect((await open(ids[0]!)).map((task) => task.kind)).toEqual(['first_contact'])
    expect((await open(ids[2]!)).map((task) => task.kind)).toEqual(['follow_up'])
    expect(
      await rows(
        sql`
          select count(*)::int as count
          from events
          where kind = 'nextActionMissing' and prospect_id = any($1::uuid[])
        `,
        [ids],
      ),
    ).toEqual([{ count: 3 }])
  })
})

describe('a call that was promised', () => {
  it('is on top of the Desk five minutes before its time, above answers and what is overdue', async () => {
    const {
      ids: [id, late],
    } = await addPeople(2, team.rep.id)
    await log(id!, 'Call back at a time', { details: { callBackAt: MONDAY + 5 * HOUR } })
    await team.asRep.ok(planTask, {
      params: { id: late! },
      body: { id: randomUUID(), task: 'task', title: 'Send the sheet', dueAt: MONDAY + HOUR },
    })
    expect((await team.asRep.ok(queue)).items.find((item) => item.prospectId === id)).toMatchObject({
      group: 'later',
      opensAt: MONDAY + 5 * HOUR,
    })
    await freeze(MONDAY + 5 * HOUR - 4 * 60_000)
    const { items, counts } = await team.asRep.ok(queue)
    expect(items[0]).toMatchObject({ prospectId: id, group: 'promised', why: 'promised a call back' })
    expect(counts.promised).toBe(1)
  })
})

describe('what is to come today', () => {
  it('is in the queue from the morning on: cadence steps with their time, calls with the local hour', async () => {
    const {
      ids: [id],
    } = await addPeople(1, team.other.id)
    const cadence = await addCadence([{ kind: 'call', amount: 3, unit: 'hours' }])
    await db().query(
      sql`
        insert into enrollments (id, prospect_id, cadence_id, step_id, status, due_at, by_id, started_at)
        values (gen_random_uuid(), $1, $2, $3, 'waiting', $4, $5, world_now())
      `,
      [id, cadence.id, cadence.stepIds[0], new Date(MONDAY + 3 * HOUR), team.other.id],
    )
    await db().query(
      sql`
        insert into scheduled_actions (ref_id, kind, at, prospect_id)
        select id, 'step', due_at, prospect_id
        from enrollments
        where prospect_id = $1
      `,
      [id],
    )
    const before = await team.asOther.ok(queue)
    expect(before.items.find((item) => item.prospectId === id)).toMatchObject({
      taskId: null,
      group: 'later',
      opensAt: MONDAY + 3 * HOUR,
      kind: 'call',
    })
    expect(before.counts.later).toBe(1)
    await freeze(MONDAY + 3 * HOUR)
    await takeDueSteps()
    expect((await team.asOther.ok(queue)).items.find((item) => item.prospectId === id)).toMatchObject({ group: 'due' })
  })
})

describe('an outcome', () => {
  it('without a call is no attempt where the team says so; a call made elsewhere, or from here, is', async () => {
    await db().query(sql`
      update team
      set counts_uncalled = false, playbook_version = playbook_version + 1
    `)
    const {
      ids: [id],
    } = await addPeople(1, team.rep.id)
    const choice = async (call?: 'elsewhere') =>
      (await team.asRep.ok(brief, { params: { id: id! }, query: { ...(call && { call }) } })).outcomes.find(
        (one) => one.name === 'No answer',
      )!
    expect((await choice()).summary).toContain('Not counted as an attempt: no call was made.')
    expect((await log(id!, 'No answer', { fingerprint: (await choice()).fingerprint })).summary).toContain(
      'Not counted',
    )
    expect((await choice('elsewhere')).summary).toContain('Attempt 1 of 3.')
    await log(id!, 'No answer', { call: 'elsewhere' })
    const stale = await choice()
    const phone = await firstRow(db().query<{ id: string }>(sql`select id from phones where prospect_id = $1`, [id]))
    await db().query(
      sql`
        insert into calls (id, user_id, prospect_id, phone_id, line_ref, started_at)
        values (gen_random_uuid(), $1, $2, $3, 'line', world_now())
      `,
      [team.rep.id, id, phone!.id],
    )
    expect((await team.asRep.ok(brief, { params: { id: id! } })).call).toMatchObject({ startedAt: MONDAY })
    // The sentence was read before the call was made: that it counts now is no surprise.
    expect((await log(id!, 'No answer', { fingerprint: stale.fingerprint })).summary).toContain('Attempt 2 of 3.')
    expect((await team.asRep.ok(brief, { params: { id: id! } })).call).toBeNull()
    await db().query(sql`
      update team
      set counts_uncalled = true, playbook_version = playbook_version + 1
    `)
  })
  it('plans the next try soon, and by the touch goal of a list where one holds', async () => {
    const {
      ids: [id],
    } = await addPeople(1, team.rep.id, 'Goal Cellar')
    await log(id!, 'No answer')
    expect(await open(id!)).toEqual([{ kind: 'follow_up', title: 'Try again', due: MONDAY + 2 * DAY }])
    await team.asRep.ok(addList, {
      body: {
        name: 'Every ten days',
        kind: 'live',
        filter: 'company is "Goal Cellar"',
        touchEvery: { amount: 10, unit: 'days' },
        touchKinds: ['call', 'email'],
      },
    })
    await log(id!, 'Wrong number', {})
    expect((await open(id!)).map((task) => [task.title, task.due])).toEqual([['Follow up', MONDAY + 10 * DAY]])
  })
  it('books with the address they have just given, and opens no second deal at the company', async () => {
    const {
      ids: [one, two],
    } = await addPeople(2, team.rep.id)
    const meeting = { title: 'A look', startAt: MONDAY + 2 * DAY, minutes: 30, timeZone: 'America/New_York' }
    await db().query(sql`delete from email_addresses where prospect_id = $1`, [one])
    expect(
      (
        await team.asRep.refused(logOutcome, 400, {
          params: { id: one! },
          body: {
            id: randomUUID(),
            outcomeId: await outcomeId('Meeting booked'),
            details: { meeting: { ...meeting, email: 'nobody' } },
          },
        })
      ).problems,
    ).toMatchObject([{ field: 'meeting.email' }])
    expect(
      (await log(one!, 'Meeting booked', { details: { meeting: { ...meeting, email: 'Given.Now@oxbow.example' } } }))
        .summary,
    ).toContain('Invitation goes out')
    expect(await rows(sql`select address from email_addresses where prospect_id = $1`, [one])).toEqual([
      { address: 'given.now@oxbow.example' },
    ])
    expect((await log(two!, 'Meeting booked', { details: { meeting } })).summary).not.toContain('Opens a deal')
    expect(
      await rows(sql`select count(*)::int as count from deals where prospect_id = any($1::uuid[])`, [[one, two]]),
    ).toEqual([{ count: 1 }])
  })
})

describe('an answer written by hand', () => {
  it('says what comes next, on a working day', async () => {
    const {
      ids: [id],
    } = await addPeople(1, team.rep.id)
    const { summary: says } = await team.asRep.ok(writeEmail, {
      params: { id: id! },
      body: { id: randomUUID(), subject: 'Your rooms', body: 'Hello' },
    })
    // Thirty days from Monday, November 23 is Wednesday, December 23.
    expect(says).toBe('Back on the Desk Dec 23, 2026.')
  })
})

describe('an email that waits to be sent', () => {
  it('is the next action in the filter and in the table', async () => {
    const {
      ids: [id],
    } = await addPeople(1, team.rep.id)
    const cadence = await addCadence([{ kind: 'email' }])
    const find = async (filter: string) =>
      (await team.asRep.ok(findProspects, { body: { filter } })).people.filter((person) => person.id === id)
    await enroll(team.rep, cadence.id, { prospectIds: [id!] }, false)
    await takeDueSteps()
    expect(await open(id!)).toEqual([])
    expect(await find('next action is not set')).toEqual([])
    expect(await find('next action is set')).toMatchObject([{ nextAt: expect.any(Number) }])
  })
})

describe('saying when', () => {
  it('reads a moment in the clock asked for, says it in both, and what does not fit', async () => {
    const {
      ids: [id],
    } = await addPeople(1, team.rep.id)
    await db().query(sql`update prospects set time_zone = 'America/Los_Angeles', region = 'CA' where id = $1`, [id])
    const ask = (more: object) =>
      team.asRep.ok(sayWhen, { body: { prospectId: id, kind: 'call', timeZone: 'America/Los_Angeles', ...more } })
    expect(await ask({ text: 'tue 2:30' })).toMatchObject({
      error: null,
      mine: 'Tue, Nov 24, 5:30 PM',
      theirs: '2:30 PM',
      warnings: [],
    })
    expect(await ask({ text: '11/26 9a' })).toMatchObject({ warnings: [expect.stringContaining('Thanksgiving')] })
    expect(await ask({ text: 'asdf' })).toMatchObject({ at: null, error: expect.stringContaining('Can’t read this') })
    expect(await ask({ at: MONDAY - 1 })).toMatchObject({ at: null, error: 'Choose a time in the future' })
    expect((await ask({})).chips.length).toBeGreaterThan(3)
    await team.asOther.refused(sayWhen, 404, {
      body: { prospectId: id, kind: 'call', timeZone: 'UTC', text: 'tomorrow' },
    })
  })
  it('reads and says dates in the style of the user', async () => {
    const ask = () =>
      team.asOther.ok(sayWhen, { body: { prospectId: null, kind: 'task', timeZone: 'UTC', text: '1/12 14:30' } })
    expect(await ask()).toMatchObject({ mine: expect.stringContaining('Jan 12') })
    await editAccount(team.other, { dateStyle: 'day_first', timeZone: 'UTC' })
    expect(await ask()).toMatchObject({ mine: 'Tue 1 Dec, 14:30' })
    await editAccount(team.other, { dateStyle: 'us' })
  })
})

describe('a number and an address', () => {
  it('are corrected, put first and removed; what is in the history stays, marked', async () => {
    const {
      ids: [id, other],
    } = await addPeople(2, team.rep.id)
    const person = () => team.asRep.ok(getProspect, { params: { id: id! } })
    const {
      phones: [phone],
      emails: [email],
    } = await person()
    await team.asRep.ok(editPhone, { params: { id: id!, phone: phone!.id }, body: { number: '607 555 0177' } })
    expect((await person()).phones).toMatchObject([{ number: '+16075550177', status: 'unverified' }])
    expect(
      (await team.asRep.refused(editPhone, 400, { params: { id: id!, phone: phone!.id }, body: { number: 'x' } }))
        .problems,
    ).toMatchObject([{ field: 'number' }])
    const taken = (await team.asRep.ok(getProspect, { params: { id: other! } })).emails[0]!.address
    await team.asRep.refused(editEmail, 409, { params: { id: id!, email: email!.id }, body: { address: taken } })
    await team.asRep.ok(editEmail, { params: { id: id!, email: email!.id }, body: { address: 'Right@oxbow.example' } })
    expect((await person()).emails).toMatchObject([{ address: 'right@oxbow.example', status: 'ok' }])
    await team.asRep.ok(writeEmail, {
      params: { id: id! },
      body: { id: randomUUID(), subject: 'Rooms', body: 'Hello' },
    })
    expect(await team.asRep.ok(removeEmail, { params: { id: id!, email: email!.id } })).toEqual({ removed: false })
    expect((await person()).emails).toMatchObject([{ status: 'bounced' }])
    expect(await rows(sql`select status from email_messages where prospect_id = $1`, [id])).toEqual([
      { status: 'cancelled' },
    ])
    expect(await team.asRep.ok(removePhone, { params: { id: id!, phone: phone!.id } })).toEqual({ removed: true })
    await team.asOther.refused(removePhone, 404, { params: { id: other!, phone: phone!.id } })
  })

  it('keep both of two edits that are made at the same time', async () => {
    const {
      ids: [id],
    } = await addPeople(1, team.rep.id)
    const person = () => team.asRep.ok(getProspect, { params: { id: id! } })
    const {
      phones: [phone],
      emails: [email],
    } = await person()
    const edit = (body: object) => team.asRep.ok(editPhone, { params: { id: id!, phone: phone!.id }, body })
    for (const status of ['correct', 'unverified', 'correct'] as const) {
      await Promise.all([edit({ status }), edit({ kind: 'mobile' }), edit({ tags: [status] })])
      expect((await person()).phones).toMatchObject([{ status, kind: 'mobile', tags: [status] }])
    }
    // An edit that says nothing of the status does not set it.
    await edit({ kind: 'home' })
    await team.asRep.ok(editEmail, { params: { id: id!, email: email!.id }, body: { first: true } })
    expect(
      await rows(
        sql`
          select kind, count(*)::int
          from events
          where prospect_id = $1 and kind in ('phoneStatusSet', 'addressStatusSet')
          group by kind
        `,
        [id],
      ),
    ).toEqual([{ kind: 'phoneStatusSet', count: 3 }])
  })
})

describe('a stage that closes', () => {
  it('wants a reason by hand, and attempts or a conversation', async () => {
    const {
      ids: [id],
    } = await addPeople(1, team.rep.id)
    const move = (more: object) => ({ params: { id: id! }, body: { id: randomUUID(), to: 'not_a_fit', ...more } })
    expect((await team.asRep.refused(moveProspect, 422, move({}))).problems.map((problem) => problem.message)).toEqual([
      'Not a fit requires 3 attempts or a conversation; 0 so far',
      'Not a fit requires a reason',
    ])
    await log(id!, 'Call back at a time', { details: { callBackAt: MONDAY + DAY } })
    await team.asRep.ok(moveProspect, move({ reason: 'too small' }))
    expect(await open(id!)).toEqual([])
  })
})
