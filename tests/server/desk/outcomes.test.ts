import { randomUUID } from 'node:crypto'
import { beforeAll, beforeEach, describe, expect, it } from 'vitest'
import { evolve } from '../../../core/engine/state/effects'
import { AlreadyRecorded, recordEvents } from '../../../server/engine/recordEvents'
import { attemptsOf, conversationsWith, wasTouched, type EngineState } from '../../../core/engine/state/engineState'
import { load } from '../../../server/engine/load'
import { takeDueSteps } from '../../../server/engine/dueSteps'
import { db } from '../../../server/db/pool'
import { brief } from '../../../server/services/desk/brief'
import { addField, removeField } from '../../../server/services/fields/customFields'
import { editProspect } from '../../../server/services/prospects/editProspect'
import { editStage } from '../../../server/services/settings/stages'
import { enroll } from '../../../server/services/cadences/enrollments'
import { Refusal } from '../../../server/services/access/errors'
import { history, undo } from '../../../server/services/activity/history'
import { UndoRefused } from '../../../server/engine/undo'
import { logOutcome } from '../../../server/services/desk/outcomes'
import type { Viewer } from '../../../server/services/access/viewer'
import { addCadence, addPeople, addUser, freeze, MONDAY, outcomeId, rows, startWorld } from '../../fixtures/people'
import { sql } from '../../../server/db/sql'

const HOUR = 3_600_000
let rep: Viewer

beforeAll(async () => {
  await startWorld()
  rep = await addUser()
})
beforeEach(() => freeze(MONDAY))

const request = async (name: string, more: object = {}) => ({
  id: randomUUID(),
  outcomeId: await outcomeId(name),
  taskId: null,
  phoneId: null,
  details: {},
  fingerprint: null,
  ...more,
})
const meeting = { title: 'A look at your rooms', startAt: MONDAY + 48 * HOUR, minutes: 30, timeZone: 'America/Chicago' }

/** People of one company at a call step, due now. */
async function atCall(count = 1) {
  const { ids, companyId } = await addPeople(count, rep.id)
  const cadence = await addCadence([
    { kind: 'call' },
    { kind: 'email', amount: 2, unit: 'hours' },
    { kind: 'call', amount: 1, unit: 'business_days' },
  ])
  await enroll(rep, cadence.id, { prospectIds: ids }, false)
  await takeDueSteps()
  return { id: ids[0]!, ids, companyId, cadence }
}
/** Everything kept about some people, for comparing before and after. */
async function picture(ids: string[]) {
  const { state } = await load(db(), ids)
  return JSON.parse(JSON.stringify({ ...state, now: 0 })) as object
}

describe('logging an outcome', () => {
  it('says beforehand what it then does: attempt, next step, stage', async () => {
    const { id } = await atCall()
    const before = await brief(rep, id, null)
    const choice = before.outcomes.find((outcome) => outcome.name === 'No answer')!
    expect(choice.summary).toBe('Attempt 1 of 3. Next: email, today, 12:42 PM. Stage: Attempting.')
    const done = await logOutcome(
      rep,
      id,
      await request('No answer', { taskId: before.task!.id, fingerprint: choice.fingerprint }),
    )
    expect(done.summary).toBe(choice.summary)
    expect(await rows(sql`select stage_id from prospects where id = $1`, [id])).toEqual([{ stage_id: 'attempting' }])
    expect(await rows(sql`select status from tasks where prospect_id = $1`, [id])).toEqual([{ status: 'done' }])
    expect(await rows(sql`select kind, ms(at) as at from scheduled_actions where prospect_id = $1`, [id])).toEqual([
      { kind: 'step', at: MONDAY + 2 * HOUR },
    ])
  })
  it('pauses a prospect after the third attempt, and brings them back in 30 days', async () => {
    const { id, cadence } = await atCall()
    for (let attempt = 0; attempt < 2; attempt++) await logOutcome(rep, id, await request('No answer'))
    // The third is for the call step that the cadence has come to.
    await db().query(sql`update enrollments set step_id = $2 where prospect_id = $1`, [id, cadence.stepIds[2]])
    await logOutcome(rep, id, await request('No answer'))
    expect(await rows(sql`select stage_id from prospects where id = $1`, [id])).toEqual([{ stage_id: 'unreached' }])
    expect(await rows(sql`select exit from enrollments where prospect_id = $1`, [id])).toEqual([{ exit: 'unreached' }])
    expect(
      await rows(
        sql`
        select kind, ms(due_at) as due
        from tasks
        where prospect_id = $1 and status = 'open'
      `,
        [id],
      ),
    ).toEqual([{ kind: 'follow_up', due: MONDAY + 30 * 24 * HOUR }])
  })
  it('books a meeting: everyone leaves, stage, deal, company status, invitation, and a task after it', async () => {
    const { id, ids, companyId } = await atCall(3)
    const { summary: says, fingerprint } = (await brief(rep, id, null)).outcomes.find(
      (outcome) => outcome.name === 'Meeting booked',
    )!
    expect(says).toContain('Leaves the cadence with 2 others at Marlpit Creamery. Stage: Meeting set.')
    await logOutcome(rep, id, await request('Meeting booked', { details: { meeting }, fingerprint }))
    expect(await rows(sql`select status, exit from enrollments where prospect_id = any($1::uuid[])`, [ids])).toEqual(
      expect.arrayContaining([
        { status: 'ended', exit: 'meeting_booked' },
        ...ids.slice(1).map(() => ({ status: 'ended', exit: 'colleague_booked' })),
      ]),
    )
    expect(await rows(sql`select status from companies where id = $1`, [companyId])).toEqual([{ status: 'in_deal' }])
    expect(await rows(sql`select status, likelihood from deals where prospect_id = $1`, [id])).toEqual([
      { status: 'open', likelihood: 15 },
    ])
    expect(await rows(sql`select kind, status from email_messages where prospect_id = $1`, [id])).toEqual([
      { kind: 'invitation', status: 'queued' },
    ])
    expect(
      await rows(sql`select ms(start_at) as start, time_zone as "timeZone" from meetings where prospect_id = $1`, [id]),
    ).toEqual([{ start: meeting.startAt, timeZone: 'America/Chicago' }])
    expect(await rows(sql`select kind from tasks where prospect_id = $1 and status = 'open'`, [id])).toEqual([
      { kind: 'meeting_result' },
    ])
    // A colleague's activity says whose call it was, is no touch of theirs, and shows nothing that was written there.
    const call = async () => (await history(rep, ids[1]!, 10)).find((entry) => entry.kind === 'callLogged')
    const entry = await call()
    expect(entry).toMatchObject({
      title: 'Call: Meeting booked (with Tomas Bellweather 1)',
      knot: null,
      note: null,
      body: null,
      canUndo: false,
    })
    expect(entry!.changes.length).toBeGreaterThan(0)
    const { id: other } = await addUser('rep', 'Other Rep')
    await db().query(sql`update prospects set owner_id = $2 where id = $1`, [id, other])
    expect(await call()).toMatchObject({ title: 'Call: Meeting booked (with a colleague)' })
  })
  it('asks for what an outcome must know, at its field, and does nothing without it', async () => {
    const { id } = await atCall()
    const before = await picture([id])
    for (const [name, field, details] of [
      ['Call back at a time', 'callBackAt', {}],
      ['Call back at a time', 'callBackAt', { callBackAt: MONDAY - 1 }],
      ['Not interested', 'reason', { reason: ' ' }],
      ['Meeting booked', 'meeting', {}],
      ['Not the right person', 'referral', { referral: { firstName: '', lastName: ' ', phone: '(608) 555-0178' } }],
      ['Not the right person', 'referral.phone', { referral: { firstName: 'Dana', lastName: '', phone: '12' } }],
    ] as const) {
      await expect(logOutcome(rep, id, await request(name, { details }))).rejects.toMatchObject({
        problems: [{ field }],
      })
    }
    expect(await picture([id])).toEqual(before)
  })
  it('adds the right person at the company, with a task; an existing prospect is not added twice', async () => {
    const { id, companyId } = await atCall()
    const referral = {
      firstName: 'Dana',
      lastName: 'Friel',
      email: `dana.${id.slice(0, 6)}@marlpit.example`,
      phone: '(608) 555-0177',
    }
    await logOutcome(rep, id, await request('Not the right person', { details: { referral } }))
    const people = await rows<{ id: string }>(
      sql`select p.id from prospects p where p.company_id = $1 and p.last_name = 'Friel'`,
      [companyId],
    )
    expect(people).toHaveLength(1)
    expect(await rows(sql`select title from tasks where prospect_id = $1`, [people[0]!.id])).toEqual([
      { title: 'Referred by Tomas Bellweather 1' },
    ])
    const other = await atCall()
    await logOutcome(rep, other.id, await request('Not the right person', { details: { referral } }))
    expect(await rows(sql`select 1 from prospects where last_name = 'Friel' and first_name = 'Dana'`)).toHaveLength(1)
  })
  it('does not need to know who the right person is', async () => {
    const { id, companyId } = await atCall()
    await logOutcome(rep, id, await request('Not the right person'))
    expect(await rows(sql`select stage_id from prospects where company_id = $1`, [companyId])).toEqual([
      { stage_id: 'not_a_fit' },
    ])
  })
  it('asks in place for what the gate of the new stage wants: a note, and fields that are filled in first', async () => {
    const gate = (wants: object) => editStage('meeting_set', { gate: wants })
    const { id } = await atCall()
    const offered = async () =>
      (await brief(rep, id, null)).outcomes.find((outcome) => outcome.name === 'Meeting booked')!
    await gate({ note: true, fields: ['title', 'phone'] })
    const before = await offered()
    expect(before).toMatchObject({
      blocked: null,
      missing: [{ key: 'title', label: 'job title' }],
      requiredInputs: ['meeting', 'note'],
    })
    await expect(logOutcome(rep, id, await request('Meeting booked', { details: { meeting } }))).rejects.toMatchObject({
      problems: [{ field: 'note' }, { field: 'fields.title' }],
    })
    await editProspect(rep, id, { version: (await brief(rep, id, null)).prospect.version, title: 'Cellar master' })
    // What was promised holds once the field is filled in.
    await logOutcome(
      rep,
      id,
      await request('Meeting booked', { details: { meeting, note: 'Keen' }, fingerprint: before.fingerprint }),
    )
    expect(await rows(sql`select stage_id from prospects where id = $1`, [id])).toEqual([{ stage_id: 'meeting_set' }])
    // What cannot be filled in here keeps the outcome back.
    await gate({ attempts: 3, fields: ['companyId'] })
    await db().query(sql`update prospects set company_id = null, stage_id = $2 where id = $1`, [id, 'new'])
    expect(await offered()).toMatchObject({ blocked: expect.stringContaining('company'), missing: [] })
    await gate({})
  })
  it('a company that is not a fit stops everyone there', async () => {
    const { id, ids } = await atCall(3)
    await logOutcome(rep, id, await request('Company not a fit'))
    expect(await rows(sql`select distinct stage_id from prospects where id = any($1::uuid[])`, [ids])).toEqual([
      { stage_id: 'not_a_fit' },
    ])
    const again = await enroll(rep, (await addCadence([{ kind: 'call' }])).id, { prospectIds: ids }, true)
    expect(again.refused.map((one) => one.why)).toEqual(ids.map(() => 'Marlpit Creamery is not a fit'))
  })
  it('wrong number marks it and goes on; do not call stops everything', async () => {
    const first = await atCall()
    await logOutcome(rep, first.id, await request('Wrong number'))
    expect(await rows(sql`select status from phones where prospect_id = $1`, [first.id])).toEqual([{ status: 'wrong' }])
    expect(await rows(sql`select status from enrollments where prospect_id = $1`, [first.id])).toEqual([
      { status: 'waiting' },
    ])
    const second = await atCall()
    await logOutcome(rep, second.id, await request('Do not call'))
    expect(await rows(sql`select stop_call, stop_email, stage_id from prospects where id = $1`, [second.id])).toEqual([
      { stop_call: true, stop_email: true, stage_id: 'stopped' },
    ])
  })
})

describe('two at once', () => {
  it('the same click sent twice is handled once', async () => {
    const { id } = await atCall()
    const once = await request('No answer')
    const both = await Promise.allSettled([logOutcome(rep, id, once), logOutcome(rep, id, once)])
    expect(both.map((one) => one.status).sort()).toEqual(['fulfilled', 'rejected'])
    expect(both.find((one) => one.status === 'rejected')).toMatchObject({
      reason: expect.any(AlreadyRecorded) as object,
    })
    expect(await rows(sql`select 1 from touches where prospect_id = $1`, [id])).toHaveLength(1)
  })
  it('two reps logging the same call: the second is refused, and changes nothing', async () => {
    const { id } = await atCall()
    const taskId = (await brief(rep, id, null)).task!.id
    const both = await Promise.allSettled([
      logOutcome(rep, id, await request('No answer', { taskId })),
      logOutcome(rep, id, await request('Left voicemail', { taskId })),
    ])
    expect(both.filter((one) => one.status === 'fulfilled')).toHaveLength(1)
    expect(both.find((one) => one.status === 'rejected')).toMatchObject({
      reason: { code: 'conflict' },
    })
    expect(await rows(sql`select 1 from touches where prospect_id = $1`, [id])).toHaveLength(1)
  })
  it('a stale picture is answered with the new sentence, and nothing is done', async () => {
    const { id } = await atCall()
    const seen = await brief(rep, id, null)
    const choice = seen.outcomes.find((outcome) => outcome.name === 'No answer')!
    await logOutcome(rep, id, await request('No answer', { taskId: null }))
    const { fingerprint } = (await brief(rep, id, null)).outcomes.find((outcome) => outcome.name === 'No answer')!
    expect(fingerprint).not.toBe(choice.fingerprint)
    await expect(
      logOutcome(rep, id, await request('No answer', { fingerprint: choice.fingerprint })),
    ).rejects.toMatchObject({
      code: 'conflict',
      current: { summary: expect.stringContaining('Attempt 2 of 3') as string, fingerprint },
    })
    expect(await rows(sql`select 1 from touches where prospect_id = $1`, [id])).toHaveLength(1)
  })
  it('many at one company, from everywhere, all come to an end without a deadlock left over', async () => {
    const { ids } = await atCall(8)
    const results = await Promise.allSettled(
      ids.flatMap((id) => [request('No answer').then((one) => logOutcome(rep, id, one)), takeDueSteps()]),
    )
    expect(results.filter((one) => one.status === 'rejected')).toEqual([])
    expect(await rows(sql`select 1 from touches where prospect_id = any($1::uuid[])`, [ids])).toHaveLength(8)
  })
})

describe('taking back', () => {
  it.each(['No answer', 'Company not a fit', 'Do not call', 'Meeting booked', 'Not the right person'])(
    '%s leaves everything as it was',
    async (name) => {
      const { ids, id } = await atCall(3)
      const before = await picture(ids)
      const details = { meeting, referral: { firstName: 'Dana', lastName: 'Okonjo', phone: '(608) 555-0177' } }
      const logged = await request(name, {
        details: {
          ...(name === 'Meeting booked' && { meeting }),
          ...(name === 'Not the right person' && { referral: details.referral }),
        },
      })
      await logOutcome(rep, id, logged)
      expect(await picture(ids)).not.toEqual(before)
      const done = await undo(rep, randomUUID(), logged.id)
      expect(done.unchanged).toEqual([])
      expect(await picture(ids)).toEqual(before)
    },
  )
  it('takes back what followed from it, too, and only once; the note stays', async () => {
    const { id } = await atCall()
    const before = await picture([id])
    const logged = await request('No answer', { details: { note: 'rang out twice' } })
    await logOutcome(rep, id, logged)
    await freeze(MONDAY + 3 * HOUR)
    await takeDueSteps()
    expect(await rows(sql`select status from email_messages where prospect_id = $1`, [id])).toEqual([
      { status: 'queued' },
    ])
    await undo(rep, randomUUID(), logged.id)
    expect(await picture([id])).toEqual(before)
    await expect(undo(rep, randomUUID(), logged.id)).rejects.toThrow(UndoRefused)
    const activity = await history(rep, id, 50)
    expect(activity.find((entry) => entry.id === logged.id)).toMatchObject({
      title: 'Call: No answer',
      undone: true,
      canUndo: false,
      note: 'rang out twice',
    })
  })
  it('is for the user who did it, or a manager', async () => {
    const { id } = await atCall()
    const logged = await request('No answer')
    await logOutcome(rep, id, logged)
    await db().query(sql`update prospects set owner_id = null where id = $1`, [id])
    await expect(undo(await addUser('rep', 'Joaquin Pell'), randomUUID(), logged.id)).rejects.toBeInstanceOf(Refusal)
    await undo(await addUser('manager', 'Maren Holloway'), randomUUID(), logged.id)
  })
})

describe('the database and memory', () => {
  it('load(apply(effects)) is evolve(state, effects), whatever happens in whatever order', async () => {
    const { ids } = await atCall(4)
    const names = [
      'No answer',
      'Left voicemail',
      'Call back at a time',
      'Wrong number',
      'Not interested',
      'Meeting booked',
      'Do not call',
    ]
    for (const [index, name] of [...names, ...names].entries()) {
      const logEntry = {
        id: randomUUID(),
        kind: 'callLogged' as const,
        prospectId: ids[index % ids.length]!,
        actorId: rep.id,
        causedByEventId: null,
        outcomeId: await outcomeId(name),
        taskId: null,
        phoneId: null,
        details: { callBackAt: MONDAY + HOUR, reason: 'No need', meeting },
      }
      const { before, after, results } = await recordEvents([logEntry])
      const expected = evolve(before, results[0]!.effects)
      expect(JSON.parse(JSON.stringify(after))).toEqual(JSON.parse(JSON.stringify(expected)))
      const touched = new Set(Object.keys(after.prospect))
      const messageIds = Object.keys(after.emailMessage)
      const { state } = await load(db(), [...touched], messageIds)
      for (const entity of ['company', 'phone', 'deal'] as const) {
        expect(state[entity]).toEqual(after[entity])
      }
      // The engine knew of colleagues' touches by their counters.
      expect(state.touch).toMatchObject(after.touch)
      const known = (one: EngineState) =>
        [...touched].map((who) => [attemptsOf(one, who), conversationsWith(one, who), wasTouched(one, who)])
      expect(known(state)).toEqual(known(after))
      // A rating by score follows the score, which the database counts.
      const withoutScore = (rows: EngineState['prospect']) =>
        Object.values(rows).map((row) => (row.ratedByScore ? { ...row, rating: null } : row))
      expect(withoutScore(state.prospect)).toEqual(withoutScore(after.prospect))
      for (const entity of ['task', 'enrollment', 'emailMessage'] as const) {
        for (const [rowId, row] of Object.entries(state[entity])) expect(after[entity][rowId]).toEqual(row)
      }
    }
  })
  it('the event log is append only', async () => {
    await expect(rows(sql`delete from events`)).rejects.toThrow('append only')
    await expect(rows(sql`update effects set kind = 'x'`)).rejects.toThrow('append only')
  })
})

describe('what an outcome makes', () => {
  it('starts with the defaults of the custom fields: a deal, and a referral', async () => {
    const fields = await Promise.all(
      (['deal', 'prospect'] as const).map((of) =>
        addField({
          of,
          name: `Loggers of a ${of}`,
          kind: 'number',
          choices: [],
          required: false,
          defaultValue: of === 'deal' ? 4 : 0,
        }),
      ),
    )
    const { ids } = await atCall(2)
    await logOutcome(rep, ids[0]!, await request('Meeting booked', { details: { meeting } }))
    expect(await rows(sql`select custom from deals where prospect_id = $1`, [ids[0]])).toEqual([
      { custom: { [fields[0]!.id]: 4 } },
    ])
    const other = await atCall(1)
    await logOutcome(
      rep,
      other.ids[0]!,
      await request('Not the right person', { details: { referral: { firstName: 'Eve', lastName: 'Yardley' } } }),
    )
    expect(await rows(sql`select custom from prospects where last_name = 'Yardley'`)).toEqual([
      { custom: { [fields[1]!.id]: 0 } },
    ])
    for (const { id } of fields) await removeField(id)
  })
})
