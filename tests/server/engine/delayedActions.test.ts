import { randomUUID } from 'node:crypto'
import { beforeEach, describe, expect, it } from 'vitest'
import type { Action } from '../../../core/actions/registry'
import { brief, logOutcome } from '../../../shared/api/desk/desk'
import { addList, listBatches } from '../../../shared/api/lists'
import { mergeProspects } from '../../../shared/api/duplicates'
import { cancelScheduledAction, prospectHistory, undo } from '../../../shared/api/events/history'
import { editProspect, erasePerson, getProspect } from '../../../shared/api/prospects'
import { addField, addTag } from '../../../shared/api/settings/fields'
import { addOutcome, listOutcomes } from '../../../shared/api/settings/outcomes'
import { db } from '../../../server/db/pool'
import { recordEvents } from '../../../server/engine/recordEvents'
import { takeDueActions, takeDueSteps } from '../../../server/engine/dueSteps'
import { addPeople, freeze, MONDAY, outcomeId, rows } from '../../fixtures/people'
import { withTeam } from '../../fixtures/team'
import { sql } from '../../../server/db/sql'

const team = withTeam()
const HOUR = 3_600_000
beforeEach(() => freeze(MONDAY))

/** Logs an outcome for a prospect as the rep. */
const log = async (prospectId: string, outcome: string) => {
  const id = randomUUID()
  const { summary } = await team.asRep.ok(logOutcome, {
    params: { id: prospectId },
    body: { id, outcomeId: outcome },
  })
  return { id, summary }
}
/** A prospect nobody has called, and what is scheduled for them. */
const someone = async () => (await addPeople(1, team.rep.id)).ids[0]!
const scheduled = async (id: string) => (await team.asRep.ok(getProspect, { params: { id } })).scheduled
const emails = (id: string) =>
  rows(sql`select status, ms(send_at)::float8 as at from email_messages where prospect_id = $1`, [id])

describe('the email after a voicemail', () => {
  it('is promised by the outcome, scheduled with its cause, and goes two hours later', async () => {
    const id = await someone()
    const voicemail = await outcomeId('Left voicemail')
    const { outcomes } = await team.asRep.ok(brief, { params: { id } })
    const promised = outcomes.find((one) => one.id === voicemail)!
    expect(promised.summary).toContain('Starts “After a voicemail” today, 12:42 PM.')
    expect((await log(id, voicemail)).summary).toBe(promised.summary)
    expect(await scheduled(id)).toMatchObject([
      { summary: 'Starts “After a voicemail”', at: MONDAY + 2 * HOUR, outcome: 'Left voicemail', causedAt: MONDAY },
    ])
    expect(await takeDueActions()).toBe(0)
    await freeze(MONDAY + 2 * HOUR)
    // Two workers at once: it is done once.
    expect((await Promise.all([takeDueActions(), takeDueActions()])).sort()).toEqual([0, 1])
    await takeDueSteps()
    expect(await emails(id)).toEqual([{ status: 'queued', at: MONDAY + 2 * HOUR }])
    expect(await scheduled(id)).toEqual([])
    expect(await takeDueActions()).toBe(0)
  })
  it('is off when the call is undone, before it went and after', async () => {
    const id = await someone()
    const voicemail = await outcomeId('Left voicemail')
    const first = await log(id, voicemail)
    await team.asRep.ok(undo, { params: { id: first.id }, body: { id: randomUUID() } })
    expect(await scheduled(id)).toEqual([])
    const second = await log(id, voicemail)
    await freeze(MONDAY + 2 * HOUR)
    await takeDueActions()
    await takeDueSteps()
    const { unchanged } = await team.asRep.ok(undo, { params: { id: second.id }, body: { id: randomUUID() } })
    expect(unchanged).toEqual([])
    expect([await emails(id), await rows(sql`select from enrollments where prospect_id = $1`, [id])]).toEqual([[], []])
    expect(await rows(sql`select from scheduled_actions where prospect_id = $1`, [id])).toEqual([])
  })
  it('stays sent where it has gone: undo takes the rest back and says so', async () => {
    const id = await someone()
    const call = await log(id, await outcomeId('Left voicemail'))
    await freeze(MONDAY + 2 * HOUR)
    await takeDueActions()
    await takeDueSteps()
    const [mail] = await rows<{ messageId: string; cause: string }>(
      sql`
        select m.id as "messageId", a.caused_by_event_id as cause
        from email_messages m
          join scheduled_actions a on a.ref_id = m.id
        where m.prospect_id = $1
      `,
      [id],
    )
    const { messageId, cause } = mail!
    const about = { id: randomUUID(), prospectId: id, actorId: null, causedByEventId: cause }
    await recordEvents([{ ...about, kind: 'emailSent', messageId }])
    const { unchanged } = await team.asRep.ok(undo, { params: { id: call.id }, body: { id: randomUUID() } })
    expect(unchanged).toEqual(['The email that has gone out stays sent'])
    expect(await rows(sql`select status, exit from enrollments where prospect_id = $1`, [id])).toEqual([
      { status: 'ended', exit: 'removed' },
    ])
  })
  it('is canceled from the prospect’s page, once, by who may see them', async () => {
    const id = await someone()
    await log(id, await outcomeId('Left voicemail'))
    const [one] = await scheduled(id)
    const cancel = () => ({ params: { id: one!.id }, body: { id: randomUUID() } })
    await team.asOther.refused(cancelScheduledAction, 404, cancel())
    await team.asRep.ok(cancelScheduledAction, cancel())
    expect(await scheduled(id)).toEqual([])
    expect((await team.asRep.refused(cancelScheduledAction, 422, cancel())).problems).toMatchObject([
      { field: 'action' },
    ])
    await team.asRep.refused(cancelScheduledAction, 404, { params: { id: randomUUID() }, body: { id: randomUUID() } })
    // It is in the activity, and can be undone.
    const { entries } = await team.asRep.ok(prospectHistory, { params: { id } })
    const entry = entries.find((row) => row.title === 'Scheduled action canceled')!
    await team.asRep.ok(undo, { params: { id: entry.id }, body: { id: randomUUID() } })
    expect(await scheduled(id)).toMatchObject([{ at: MONDAY + 2 * HOUR }])
  })
  it('follows a merge', async () => {
    const [primary, duplicate] = [await someone(), await someone()]
    await log(duplicate, await outcomeId('Left voicemail'))
    await team.asManager.ok(mergeProspects, {
      params: { id: primary },
      body: { id: randomUUID(), duplicateId: duplicate },
    })
    expect(await scheduled(primary)).toHaveLength(1)
    await freeze(MONDAY + 2 * HOUR)
    await takeDueActions()
    await takeDueSteps()
    expect(await emails(primary)).toHaveLength(1)
  })
  it('is not done for who was archived or erased meanwhile', async () => {
    const people = [await someone(), await someone()]
    const [archived, erased] = people as [string, string]
    for (const id of people) await log(id, await outcomeId('Left voicemail'))
    const person = (id: string) => team.asManager.ok(getProspect, { params: { id } })
    await team.asManager.ok(editProspect, {
      params: { id: archived },
      body: { version: (await person(archived)).version, status: 'archived', reason: 'closed down' },
    })
    await team.asAdmin.ok(erasePerson, {
      params: { id: erased },
      body: { id: randomUUID(), name: (await person(erased)).name },
    })
    await freeze(MONDAY + 2 * HOUR)
    await takeDueActions()
    await takeDueSteps()
    expect((await Promise.all(people.map(emails))).flat()).toEqual([])
    expect(await rows(sql`select from scheduled_actions where prospect_id = any($1)`, [people])).toEqual([])
  })
  it('is skipped where its cadence is archived, and Settings and the outcome say so', async () => {
    const id = await someone()
    const voicemail = await outcomeId('Left voicemail')
    await log(id, voicemail)
    const set = (status: string) =>
      db().query(sql`update cadences set status = $1 where name = 'After a voicemail'`, [status])
    await set('archived')
    await db().query(sql`update team set playbook_version = playbook_version + 1`)
    await freeze(MONDAY + 2 * HOUR)
    expect(await takeDueActions()).toBe(1)
    expect(await rows(sql`select status from delayed_actions where prospect_id = $1`, [id])).toEqual([
      { status: 'skipped' },
    ])
    const { outcomes } = await team.asRep.ok(brief, { params: { id } })
    expect(outcomes.find((one) => one.id === voicemail)!.summary).toContain(
      '“After a voicemail” is not started: it is archived.',
    )
    const settings = (await team.asManager.ok(listOutcomes)).outcomes.find((one) => one.id === voicemail)!
    expect(settings.faults).toEqual(['Choose a cadence: the one chosen is archived or deleted'])
    await set('active')
    await db().query(sql`update team set playbook_version = playbook_version + 1`)
  })
})

describe('an outcome that changes records', () => {
  it('tags, puts on a list, sets a field and assigns; undo leaves what was there before', async () => {
    const { id: tagId } = await team.asManager.ok(addTag, { body: { name: 'Called twice' } })
    const { id: fieldId } = await team.asManager.ok(addField, {
      body: { of: 'prospect', name: 'Rooms', kind: 'number', choices: [] },
    })
    const [one, two] = [await someone(), await someone()]
    const { id: listId } = await team.asManager.ok(addList, {
      body: { name: 'Second pass', kind: 'fixed', prospectIds: [two] },
    })
    const actions: Action[] = [
      { type: 'changeTag', tagId, on: true },
      { type: 'changeList', listId, on: true },
      { type: 'setField', fieldId, mode: 'set', value: 4 },
      { type: 'assign', to: team.other.id },
    ]
    const { id: outcome } = await team.asManager.ok(addOutcome, {
      body: { name: 'Second pass', countsAs: 'attempt', requiredInputs: [], reasons: [], actions },
    })
    const known = (id: string) =>
      rows(
        sql`
          select
            p.custom, p.owner_id as owner,
            array(select tag_id from prospect_tags where prospect_id = p.id) as tags,
            array(select list_id from list_members where prospect_id = p.id) as lists
          from prospects p
          where p.id = $1
        `,
        [id],
      )
    const before = [await known(one), await known(two)]
    const done = [await log(one, outcome), await log(two, outcome)]
    expect(done[0]!.summary).toContain(
      'Adds the tag “Called twice”. Adds to the list “Second pass”. Sets “Rooms”. Owner: Joaquin Pell.',
    )
    const changed = [{ custom: { [fieldId]: 4 }, owner: team.other.id, tags: [tagId], lists: [listId] }]
    expect([await known(one), await known(two)]).toEqual([changed, changed])
    expect((await team.asManager.ok(listBatches, { params: { id: listId } })).byOutcomes).toBe(1)
    for (const { id } of done) await team.asManager.ok(undo, { params: { id }, body: { id: randomUUID() } })
    expect([await known(one), await known(two)]).toEqual(before)
  })
})

describe('an outcome that sets fields beside the custom ones', () => {
  it('sets and clears them, says so in the activity, and undo brings back what was there', async () => {
    const set = (fieldId: string, value?: string) =>
      ({ type: 'setField', fieldId, mode: value ? 'set' : 'clear', ...(value && { value }) }) as Action
    const where = { field: 'city', test: { op: 'unset' as const } }
    const { id: outcome } = await team.asManager.ok(addOutcome, {
      body: {
        name: 'Referred',
        countsAs: 'attempt',
        requiredInputs: [],
        reasons: [],
        actions: [
          set('title', 'Owner'),
          set('source', 'Referral'),
          set('city'),
          { ...set('postalCode', '43004'), where },
        ],
      },
    })
    const person = await someone()
    await rows(sql`update prospects set title = 'Buyer', source = 'Trade fair', city = 'Dayton' where id = $1`, [
      person,
    ])
    const known = () =>
      rows(sql`select title, source, city, postal_code as code from prospects where id = $1`, [person])
    const { id, summary } = await log(person, outcome)
    expect(summary).toContain('Sets “Job title”. Sets “Source”. Clears “City”. Sets “Postal code”.')
    expect(await known()).toEqual([{ title: 'Owner', source: 'Referral', city: null, code: '43004' }])
    const { entries } = await team.asManager.ok(prospectHistory, { params: { id: person } })
    const said = entries.flatMap(({ changes }) => changes.map(({ summary }) => summary))
    expect(said).toEqual(expect.arrayContaining(['Source: Referral', 'City: cleared', 'Postal code: 43004']))
    await team.asManager.ok(undo, { params: { id }, body: { id: randomUUID() } })
    expect(await known()).toEqual([{ title: 'Buyer', source: 'Trade fair', city: 'Dayton', code: null }])
  })
  it('refuses a value that is no text', async () => {
    const action = { type: 'setField', fieldId: 'source', mode: 'set', value: 4 }
    const body = { name: 'Wrong', countsAs: 'attempt' as const, requiredInputs: [], reasons: [], actions: [action] }
    await team.asManager.refused(addOutcome, 400, { body: body as never })
  })
})

describe('assigning in turn', () => {
  it('gives each user the same number, however many outcomes are logged at once; undo gives the turn back', async () => {
    const actions: Action[] = [{ type: 'assign', to: [team.other.id, team.admin.id] }]
    const outcome = await team.asManager.ok(addOutcome, {
      body: { name: 'Hand over in turn', countsAs: 'attempt', requiredInputs: [], reasons: [], actions },
    })
    const people = await Promise.all(Array.from({ length: 8 }, someone))
    const logged = await Promise.all(people.map((id) => log(id, outcome.id)))
    const owners = () =>
      rows<{ owner: string }>(sql`select owner_id as owner from prospects where id = any($1)`, [people])
    const of = (list: { owner: string }[], id: string) => list.filter(({ owner }) => owner === id).length
    const given = await owners()
    expect([team.other.id, team.admin.id].map((id) => of(given, id))).toEqual([4, 4])
    expect(logged.every(({ summary }) => /Owner: .*, next in turn\./.test(summary))).toBe(true)
    const turns = () => rows(sql`select id, number from assignment_turns order by id`)
    const before = await turns()
    const one = await someone()
    const last = await log(one, outcome.id)
    expect(await turns()).not.toEqual(before)
    await team.asManager.ok(undo, { params: { id: last.id }, body: { id: randomUUID() } })
    expect(await turns()).toEqual(before)
    expect(await rows(sql`select owner_id as owner from prospects where id = $1`, [one])).toEqual([
      { owner: team.rep.id },
    ])
  })
})
