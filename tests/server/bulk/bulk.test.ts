import { randomUUID } from 'node:crypto'
import { beforeAll, describe, expect, it } from 'vitest'
import { getBulk, listBulk, previewBulk, startBulk, undoBulk, type BulkAction } from '../../../shared/api/bulk'
import { addField, addTag } from '../../../shared/api/settings/fields'
import { addList, listBatches, listCount } from '../../../shared/api/lists'
import { editProspect, getProspect } from '../../../shared/api/prospects'
import { prospectHistory, undo } from '../../../shared/api/events/history'
import { sendDueMail } from '../../../server/channels/mail/dispatch'
import type { MailChannel } from '../../../server/channels/mail/transport'
import { db } from '../../../server/db/pool'
import { NO_CONTENT } from '../../../server/services/templates/toDoContent'
import { runBulk } from '../../../server/services/bulk/runBulk'
import { undoEvents } from '../../../server/services/bulk/bulkUndo'
import { addCadence, addPeople, freeze, MONDAY, rows } from '../../fixtures/people'
import { withTeam } from '../../fixtures/team'
import '../database'
import { firstRow, sql } from '../../../server/db/sql'

const team = withTeam()
let mine: string[]
let others: string[]
let nobodys: string[]

beforeAll(async () => {
  // The worker's own tables, for the job that waits.
  const { runMigrations, Logger } = await import('graphile-worker')
  await runMigrations({ pgPool: db(), logger: new Logger(() => () => {}) })
  mine = (await addPeople(3, team.rep.id, 'Marlpit Creamery')).ids
  others = (await addPeople(2, team.other.id, 'Halden Cider')).ids
  nobodys = (await addPeople(2, null, 'Oxbow Vault')).ids
})

async function run(action: BulkAction, whom: { prospectIds?: string[]; filter?: string }, as = team.asManager) {
  const id = randomUUID()
  await as.ok(startBulk, { body: { id, action, ...whom } })
  await runBulk(id)
  return as.ok(getBulk, { params: { id } })
}
const owners = async (ids: string[]) =>
  (
    await rows<{ owner_id: string | null }>(
      sql`
        select owner_id
        from prospects
        where id = any($1)
        order by array_position($1, id)
      `,
      [ids],
    )
  ).map((row) => row.owner_id)

describe('a change of many', () => {
  it('says first whom it touches and whom it leaves out, and why; the account afterwards says the same', async () => {
    const action: BulkAction = { type: 'assign', to: [team.rep.id] }
    const before = await team.asManager.ok(previewBulk, { body: { action, filter: 'everyone' } })
    expect(before).toMatchObject({ touches: 4, leftOut: [{ reason: 'is theirs already', count: 3 }] })
    expect(before.leftOut[0]!.people.map((person) => person.id).sort()).toEqual([...mine].sort())
    await db().query(
      sql`
        insert into tasks (id, prospect_id, owner_id, kind, priority, title, due_at, status, time_zone)
        values ($1, $2, $3, 'task', 2, 'Ring', world_now(), 'open', 'UTC')
      `,
      [randomUUID(), others[0], team.other.id],
    )
    const account = await run(action, { filter: 'company is "Halden Cider" or company is "Marlpit Creamery"' })
    expect(account).toMatchObject({
      status: 'done',
      touches: 2,
      done: 2,
      about: 'company is "Halden Cider" or company is "Marlpit Creamery"',
      leftOut: [{ reason: 'is theirs already', count: 3 }],
    })
    expect(await owners(others)).toEqual([team.rep.id, team.rep.id])
    // Open work goes along, and everyone's history says what happened.
    expect(await rows(sql`select from tasks where owner_id = $1`, [team.rep.id])).toHaveLength(1)
    expect((await team.asManager.ok(prospectHistory, { params: { id: others[0]! } })).entries[0]).toMatchObject({
      title: 'Bulk action',
    })
    await db().query(sql`update prospects set owner_id = $2 where id = any($1)`, [others, team.other.id])
    await db().query(sql`delete from tasks`)
  })
  it('assigns in turn, evenly', async () => {
    const account = await run(
      { type: 'assign', to: [team.rep.id, team.other.id], apart: true },
      { prospectIds: [...mine, ...others, nobodys[0]!] },
    )
    expect(account).toMatchObject({ touches: 6, leftOut: [] })
    const after = await owners([...mine, ...others, nobodys[0]!])
    expect([team.rep.id, team.other.id].map((id) => after.filter((owner) => owner === id).length)).toEqual([3, 3])
    for (const [ids, owner] of [
      [mine, team.rep.id],
      [others, team.other.id],
      [nobodys, null],
    ] as const) {
      await db().query(sql`update prospects set owner_id = $2 where id = any($1)`, [ids, owner])
    }
  })
  it('never touches whom the caller may not see, nor says that there is anyone', async () => {
    const everyone = [...mine, ...others, ...nobodys]
    expect(
      await team.asRep.ok(previewBulk, { body: { action: { type: 'rate', rating: 'hot' }, prospectIds: everyone } }),
    ).toEqual({ touches: 5, leftOut: [], shares: [], mail: null })
    await run({ type: 'rate', rating: 'hot' }, { prospectIds: everyone }, team.asRep)
    expect(
      (await rows<{ rating: string | null }>(sql`select rating from prospects where id = any($1)`, [others])).map(
        (row) => row.rating,
      ),
    ).toEqual([null, null])
    expect((await team.asRep.ok(getProspect, { params: { id: mine[0]! } })).rating).toBe('hot')
  })
  it('tags, untags, rests and removes', async () => {
    expect(await run({ type: 'tag', tag: 'Fair' }, { prospectIds: mine })).toMatchObject({ touches: 3 })
    expect(await run({ type: 'tag', tag: 'FAIR' }, { prospectIds: [...mine, nobodys[0]!] })).toMatchObject({
      touches: 1,
      leftOut: [{ reason: 'has the tag already', count: 3 }],
    })
    expect(await run({ type: 'untag', tag: 'fair' }, { filter: 'everyone' })).toMatchObject({
      touches: 4,
      leftOut: [{ reason: 'does not have the tag', count: 3 }],
    })
    expect(await run({ type: 'untag', tag: 'never made' }, { filter: 'everyone' })).toMatchObject({ touches: 0 })
    expect(
      await run({ type: 'work', status: 'archived', reason: 'no work' }, { prospectIds: [nobodys[1]!] }),
    ).toMatchObject({ touches: 1 })
    // Who is removed is not among "everyone", but can be brought back by name.
    expect(
      await team.asManager.ok(previewBulk, {
        body: { action: { type: 'work', status: 'active' }, filter: 'everyone' },
      }),
    ).toMatchObject({ touches: 0 })
    expect(await run({ type: 'work', status: 'active' }, { filter: 'status is archived' })).toMatchObject({
      touches: 1,
    })
  })
  it('puts people on a fixed list as one batch', async () => {
    const { id } = await team.asManager.ok(addList, {
      body: { name: 'Put on', kind: 'fixed', prospectIds: [mine[0]!] },
    })
    expect(await run({ type: 'putOn', listId: id }, { filter: 'company is "Marlpit Creamery"' })).toMatchObject({
      touches: 2,
      leftOut: [{ reason: 'is on the list already', count: 1 }],
    })
    expect(await team.asManager.ok(listCount, { params: { id } })).toMatchObject({ count: 3 })
    expect((await team.asManager.ok(listBatches, { params: { id } })).batches.map((batch) => batch.count)).toEqual([
      1, 2,
    ])
    const live = await team.asManager.ok(addList, { body: { name: 'Live one', kind: 'live', filter: 'everyone' } })
    expect(
      (
        await team.asManager.refused(previewBulk, 400, {
          body: { action: { type: 'putOn', listId: live.id }, filter: 'everyone' },
        })
      ).problems[0],
    ).toMatchObject({ field: 'action.listId' })
    await team.asRep.refused(startBulk, 403, {
      body: { id: randomUUID(), action: { type: 'putOn', listId: id }, filter: 'everyone' },
    })
  })
  it('runs once where it is sent twice, and where two workers take it up at once', async () => {
    const id = randomUUID()
    const body = { id, action: { type: 'rate' as const, rating: 'cold' as const }, prospectIds: mine }
    await team.asManager.ok(startBulk, { body })
    await team.asManager.refused(startBulk, 409, { body })
    await Promise.all([runBulk(id), runBulk(id), runBulk(id)])
    expect(await team.asManager.ok(getBulk, { params: { id } })).toMatchObject({ status: 'done', touches: 3, done: 3 })
    expect(
      await rows(
        sql`
        select
        from events
        where kind = 'changedWithMany' and payload ->> 'actionId' = $1
      `,
        [id],
      ),
    ).toHaveLength(3)
    await team.asRep.refused(getBulk, 404, { params: { id } })
  })
  it.each<[string, object, number]>([
    ['a user who is not on the team', { action: { type: 'assign', to: [randomUUID()] }, filter: 'everyone' }, 400],
    ['nobody', { action: { type: 'assign', to: [] }, filter: 'everyone' }, 400],
    ['an unknown action', { action: { type: 'explode' }, filter: 'everyone' }, 400],
    ['a list that is not theirs', { action: { type: 'putOn', listId: randomUUID() }, filter: 'everyone' }, 404],
    ['a filter of nonsense', { action: { type: 'rate', rating: 'hot' }, filter: 'moon is full' }, 400],
  ])('is refused for %s', async (_what, body, status) => {
    await team.asManager.refused(previewBulk, status, { body })
    await team.asManager.refused(startBulk, status, { body: { id: randomUUID(), ...body } })
  })
})

interface QueuedRow {
  kind: string
  at: number
  subject: string
  sender: string
}

describe('a change of many people’s progress', () => {
  it('does actions as outcomes have them, in order; who would not change is left out, and undo takes all back', async () => {
    const { id: tagId } = await team.asManager.ok(addTag, { body: { name: 'Looked up' } })
    const tag = { type: 'changeTag' as const, tagId, on: true }
    const wait = { amount: 0, unit: 'hours' as const }
    const toDo = {
      type: 'makeTask' as const,
      task: 'task' as const,
      title: 'Look them up',
      wait,
      whose: 'owner' as const,
    }
    const action = { type: 'actions' as const, actions: [tag, toDo] }
    const found = () =>
      rows(
        sql`
          select
            (select count(*)::int from prospect_tags where tag_id = $1) as tagged,
            (select count(*)::int from tasks where title = 'Look them up' and status = 'open') as planned
        `,
        [tagId],
      )
    const done = await run(action, { prospectIds: mine })
    expect(done).toMatchObject({ done: mine.length, leftOut: [] })
    expect(await found()).toEqual([{ tagged: mine.length, planned: mine.length }])
    const again = await team.asManager.ok(previewBulk, {
      body: { action: { type: 'actions', actions: [tag] }, prospectIds: mine },
    })
    expect(again).toMatchObject({ touches: 0, leftOut: [{ reason: 'Nothing would change' }] })
    const undoId = randomUUID()
    await team.asManager.ok(undoBulk, { params: { id: done.id }, body: { id: undoId } })
    await runBulk(undoId)
    expect(await found()).toEqual([{ tagged: 0, planned: 0 }])
    await team.asRep.refused(previewBulk, 403, { body: { action, prospectIds: mine } })
    const meeting = { type: 'actions' as const, actions: [{ type: 'bookMeeting' as const }] }
    const { problems } = await team.asManager.refused(previewBulk, 400, {
      body: { action: meeting, prospectIds: mine },
    })
    expect(problems).toMatchObject([{ field: 'action.actions.0' }])
    // The log holds no words of theirs.
    const logged = await rows(sql`select payload from events where kind = 'actionsRun'`)
    expect(JSON.stringify(logged)).not.toContain('Look them up')
  })
  it('enrolls through the engine: who may not be is left out, with the reason, and not as a failure', async () => {
    const { id: cadenceId } = await addCadence([{ kind: 'email' }, { kind: 'call', amount: 1, unit: 'days' }])
    await db().query(sql`update prospects set stop_email = true where id = $1`, [mine[0]])
    await db().query(sql`delete from email_addresses where prospect_id = $1`, [mine[1]])
    const action: BulkAction = { type: 'enroll', cadenceId }
    const before = await team.asRep.ok(previewBulk, { body: { action, prospectIds: mine } })
    const reasons = ['Starts with an email: asked for no email', 'Starts with an email: no email address that works']
    expect(before).toMatchObject({ touches: 1, mail: null })
    expect(before.leftOut.map((group) => group.reason).sort()).toEqual(reasons)
    const account = await run(action, { prospectIds: mine }, team.asRep)
    expect(account).toMatchObject({ status: 'done', touches: 1, done: 1 })
    expect(account.leftOut.map((group) => group.reason).sort()).toEqual(reasons)
    expect(await rows(sql`select prospect_id from enrollments where cadence_id = $1`, [cadenceId])).toEqual([
      { prospect_id: mine[2] },
    ])
    expect((await run(action, { prospectIds: mine }, team.asRep)).leftOut.map((group) => group.reason)).toContain(
      'Already in this cadence',
    )
    expect(await run({ type: 'leaveCadences', cadenceId: null }, { prospectIds: mine }, team.asRep)).toMatchObject({
      done: 1,
      leftOut: [{ reason: 'is in no cadence', count: 2 }],
    })
    await db().query(sql`update prospects set stop_email = false where id = $1`, [mine[0]])
  })
  it('plans calls and tasks for each one’s owner', async () => {
    const dueAt = MONDAY + 2 * 86_400_000
    const account = await run(
      { type: 'plan', ...NO_CONTENT, task: 'call', title: 'Ask about the audit', dueAt, ownerId: null },
      { prospectIds: [...mine, ...others] },
    )
    expect(account).toMatchObject({ done: 5, leftOut: [] })
    const planned = await rows<{ owner_id: string; count: number }>(
      sql`
        select owner_id, count(*)::int as count
        from tasks
        where title = 'Ask about the audit' and kind = 'call' and ms(due_at) = $1
        group by owner_id
        order by count
      `,
      [dueAt],
    )
    expect(planned).toEqual([
      { owner_id: team.other.id, count: 2 },
      { owner_id: team.rep.id, count: 3 },
    ])
    await db().query(sql`update prospects set stop_call = true where id = $1`, [mine[0]])
    expect(
      await team.asManager.ok(previewBulk, {
        body: { action: { type: 'plan', task: 'call', title: 'Again', dueAt, ownerId: null }, prospectIds: mine },
      }),
    ).toMatchObject({ touches: 2, leftOut: [{ reason: 'asked for no calls', count: 1 }] })
    // Each can be taken back like anything else that was done by hand.
    const { entries } = await team.asManager.ok(prospectHistory, { params: { id: mine[1]! } })
    await team.asManager.ok(undo, {
      params: { id: entries.find((entry) => entry.title === 'Planned')!.id },
      body: { id: randomUUID() },
    })
    expect(
      await rows(sql`select from tasks where title = 'Ask about the audit' and prospect_id = $1`, [mine[1]]),
    ).toHaveLength(0)
    await db().query(sql`update prospects set stop_call = false where id = $1`, [mine[0]])
  })
  it('writes to many: customers apart, as one of them reads it, and only those who take such mail', async () => {
    await db().query(
      sql`
      insert into email_addresses (id, prospect_id, address)
      values ($1, $2, 'back@marlpit.example')
    `,
      [randomUUID(), mine[1]],
    )
    await db().query(sql`update prospects set email_types = '{one_to_one}' where id = $1`, [mine[0]])
    await db().query(
      sql`
        update companies
        set status = 'customer'
        where id = (select company_id from prospects where id = $1)
      `,
      [others[0]],
    )
    const action: BulkAction = {
      type: 'email',
      subject: 'Aging rooms, {{ first_name }}',
      body: 'Hello {{ first_name | default: "there" }}, a word on {{ company }}.',
      html: null,
      attachments: [],
      kind: 'marketing',
      sendAt: MONDAY + 3_600_000,
    }
    const before = await team.asManager.ok(previewBulk, { body: { action, prospectIds: [...mine, ...others] } })
    expect(before).toMatchObject({
      touches: 4,
      leftOut: [{ reason: 'takes no marketing email', count: 1 }],
      mail: {
        customers: 2,
        prospects: 2,
        examples: expect.arrayContaining([expect.objectContaining({ subject: 'Aging rooms, Tomas' })]),
      },
    })
    expect(before.mail!.examples).toHaveLength(4)
    expect(before.mail!.examples[0]!.body).toMatch(/^Hello Tomas, a word on /)
    expect(await run(action, { prospectIds: [...mine, ...others] })).toMatchObject({ done: 4 })
    const queued = await rows<QueuedRow>(
      sql`
        select m.kind, ms(a.at) as at, m.subject, u.name as sender
        from email_messages m
          join scheduled_actions a on a.ref_id = m.id
          join users u on u.id = m.sender_id
        where m.kind = 'bulk'
      `,
    )
    expect(queued).toEqual(
      Array.from({ length: 4 }, () => ({
        kind: 'bulk',
        at: MONDAY + 3_600_000,
        subject: action.subject,
        sender: 'Maren Holloway',
      })),
    )
    // Read as they will get it, before it has left too.
    const first = await firstRow(
      db().query<{ name: string }>(sql`select first_name as name from prospects where id = $1`, [others[0]]),
    )
    expect(
      (await team.asManager.ok(prospectHistory, { params: { id: others[0]! } })).entries.map((entry) => entry.body),
    ).toContain(`Aging rooms, ${first!.name}`)
    expect(
      (
        await team.asManager.refused(previewBulk, 400, {
          body: { action: { ...action, body: 'Hello {{ surname }}' }, prospectIds: mine },
        })
      ).problems,
    ).toMatchObject([{ field: 'action.body' }])
    await db().query(sql`update prospects set email_types = default where id = $1`, [mine[0]])
    // Asked again when it leaves: one of them has changed their mind meanwhile.
    await db().query(sql`update prospects set email_types = '{one_to_one,requested}' where id = $1`, [others[0]])
    await freeze(MONDAY + 3_600_000)
    const channel: MailChannel = {
      deliver: () => Promise.resolve({ status: 'sent' }),
      wasTaken: () => Promise.resolve(null),
      close: () => {},
    }
    for (let left = 1; left;) left = await sendDueMail(channel, { id: 'test' })
    expect(
      await rows(sql`
        select m.status, count(*)::int as count
        from email_messages m
        where m.kind = 'bulk'
        group by 1
        order by 1
      `),
    ).toEqual(expect.arrayContaining([{ status: 'cancelled', count: 1 }]))
    expect(
      (await team.asManager.ok(prospectHistory, { params: { id: others[0]! } })).entries
        .flatMap((entry) => entry.changes.map((change) => change.cause))
        .join(),
    ).toContain('takes no marketing email')
    await db().query(sql`update prospects set email_types = default where id = $1`, [others[0]])
    await freeze(MONDAY)
  })
  it('stops many, and sets a field of many', async () => {
    const { id } = await team.asManager.ok(addField, { body: { of: 'prospect', name: 'Aging rooms', kind: 'number' } })
    expect(await run({ type: 'setField', field: `custom:${id}`, value: '4' }, { prospectIds: mine })).toMatchObject({
      done: 3,
    })
    expect(await run({ type: 'setField', field: `custom:${id}`, value: 4 }, { prospectIds: mine })).toMatchObject({
      done: 0,
      leftOut: [{ reason: 'has that already', count: 3 }],
    })
    await team.asManager.refused(previewBulk, 400, {
      body: { action: { type: 'setField', field: `custom:${id}`, value: 'many' }, prospectIds: mine },
    })
    expect(
      await run({ type: 'setField', field: 'source', value: 'Cold chain fair' }, { prospectIds: mine }),
    ).toMatchObject({ done: 3 })
    expect(await rows(sql`select name from sources`)).toEqual([{ name: 'Cold chain fair' }])
    expect(await run({ type: 'stop', channel: 'call' }, { prospectIds: nobodys })).toMatchObject({ done: 2 })
    expect(await rows(sql`select from prospects where id = any($1) and stop_call`, [nobodys])).toHaveLength(2)
    expect(await run({ type: 'stop', channel: 'call' }, { prospectIds: nobodys })).toMatchObject({
      done: 0,
      leftOut: [{ reason: 'is stopped already', count: 2 }],
    })
  })
  it('assigns prospects to the owner of their company', async () => {
    await db().query(sql`update prospects set owner_id = null where id = $1`, [mine[0]])
    expect(await run({ type: 'assignToCompanyOwner' }, { prospectIds: [...mine, ...nobodys] })).toMatchObject({
      done: 1,
    })
    expect(await owners([mine[0]!])).toEqual([team.rep.id])
  })
  it('is listed with its account: one’s own, or all for managers', async () => {
    const all = (await team.asManager.ok(listBulk, {})).changes
    expect(all.length).toBeGreaterThan(10)
    expect((await team.asRep.ok(listBulk, {})).changes.every((one) => one.by === team.rep.name)).toBe(true)
    expect((await team.asOther.ok(listBulk, {})).changes).toEqual([])
  })
})

describe('undoing a bulk action', () => {
  const undoIt = async (target: string, as = team.asManager) => {
    const id = randomUUID()
    await as.ok(undoBulk, { params: { id: target }, body: { id } })
    await runBulk(id)
    return as.ok(getBulk, { params: { id } })
  }
  const known = async (ids: string[]) =>
    rows(
      sql`
        select
          p.owner_id, p.rating, p.rated_by_score, p.title, p.country, p.time_zone, p.time_zone_from, p.time_zone_is_manual, p.custom,
          array(select t.name from prospect_tags x join tags t on t.id = x.tag_id where x.prospect_id = p.id) as
            tags, array(select list_id from list_members m where m.prospect_id = p.id) as lists,
          array(select owner_id from tasks t where t.prospect_id = p.id and t.status = 'open' order by t.id) as tasks
        from prospects p
        where p.id = any($1)
        order by p.id
      `,
      [ids],
    )

  it('gives everyone back what they had, of every kind of change', async () => {
    const { ids } = await addPeople(3, team.rep.id, 'Undone Cellars')
    const field = (
      await team.asManager.ok(addField, { body: { of: 'prospect', name: 'Rooms to undo', kind: 'number' } })
    ).id
    const { id: listId } = await team.asManager.ok(addList, {
      body: { name: 'Undone list', kind: 'fixed', prospectIds: [ids[0]!] },
    })
    await db().query(
      sql`
        insert into tasks (id, prospect_id, owner_id, kind, priority, title, due_at, status, time_zone)
        values ($1, $2, $3, 'task', 2, 'Ring', world_now(), 'open', 'UTC')
      `,
      [randomUUID(), ids[0], team.rep.id],
    )
    await run({ type: 'rate', rating: 'warm' }, { prospectIds: [ids[1]!] })
    await run({ type: 'tag', tag: 'Old friend' }, { prospectIds: [ids[2]!] })
    const actions: BulkAction[] = [
      { type: 'assign', to: [team.other.id] },
      { type: 'rate', rating: 'hot' },
      { type: 'rate', rating: 'score' },
      { type: 'tag', tag: 'Never seen' },
      { type: 'untag', tag: 'old friend' },
      { type: 'putOn', listId },
      { type: 'setField', field: 'title', value: 'Buyer' },
      { type: 'setField', field: `custom:${field}`, value: 7 },
      { type: 'setField', field: 'country', value: 'Germany' },
      { type: 'setField', field: 'timeZone', value: 'Europe/London' },
    ]
    const names: (string | null)[] = []
    for (const action of actions) {
      const before = await known(ids)
      const done = await run(action, { prospectIds: ids })
      names.push(done.object)
      expect(await known(ids)).not.toEqual(before)
      expect(await undoIt(done.id)).toMatchObject({
        status: 'done',
        touches: done.done,
        done: done.done,
        leftOut: [],
        unchanged: [],
        action: { type: 'undo', of: { type: action.type } },
      })
      expect(await known(ids), action.type).toEqual(before)
      expect((await team.asManager.ok(listBulk)).changes.find((one) => one.id === done.id)).toMatchObject({
        undone: true,
        object: done.object,
      })
    }
    // Each says by name what it was about.
    expect(names.filter((name) => name !== null)).toEqual([team.other.name, 'Undone list', 'Rooms to undo'])
  })
  it('leaves alone who was changed since, and says so; once, and only by who did it or a manager', async () => {
    const { ids } = await addPeople(2, team.rep.id, 'Changed Since Cider')
    const done = await run({ type: 'setField', field: 'title', value: 'Buyer' }, { prospectIds: ids }, team.asRep)
    const { version } = await team.asRep.ok(getProspect, { params: { id: ids[0]! } })
    await team.asRep.ok(editProspect, { params: { id: ids[0]! }, body: { version, title: 'Owner' } })
    await team.asOther.refused(undoBulk, 404, { params: { id: done.id }, body: { id: randomUUID() } })
    expect(await undoIt(done.id, team.asRep)).toMatchObject({
      touches: 1,
      done: 1,
      leftOut: [{ reason: 'has been changed since and stays so', people: [{ id: ids[0] }] }],
    })
    expect(
      (
        await rows<{ title: string | null }>(
          sql`select title from prospects where id = any($1) order by array_position($1, id)`,
          [ids],
        )
      ).map((row) => row.title),
    ).toEqual(['Owner', null])
    expect(
      (await team.asRep.refused(undoBulk, 409, { params: { id: done.id }, body: { id: randomUUID() } })).code,
    ).toBe('already_done')
    const history = (await team.asRep.ok(prospectHistory, { params: { id: ids[1]! } })).entries
    expect(history.map(({ title, body }) => `${title}. ${body ?? ''}`)).toEqual(
      expect.arrayContaining(['Bulk action undone. Job title: Buyer → none', 'Bulk action. Job title: none → Buyer']),
    )
    expect(
      (await team.asRep.ok(prospectHistory, { params: { id: ids[0]! } })).entries.find(
        (entry) => entry.title === 'Edited',
      ),
    ).toMatchObject({ body: 'Job title: Buyer → Owner' })
    // What someone was is no part of the log.
    expect(
      await rows(
        sql`
        select payload
        from events
        where prospect_id = any($1) and payload::text ~ 'Buyer|Owner'
      `,
        [ids],
      ),
    ).toEqual([])
  })
  it('skips prospects whom the user may no longer see; who assigned prospects away may undo that', async () => {
    const { ids } = await addPeople(2, team.rep.id, 'Given Away Cellars')
    const done = await run({ type: 'rate', rating: 'hot' }, { prospectIds: ids }, team.asRep)
    await db().query(sql`update prospects set owner_id = $2 where id = $1`, [ids[0], team.other.id])
    expect(await undoIt(done.id, team.asRep)).toMatchObject({
      touches: 1,
      done: 1,
      leftOut: [{ reason: 'is no longer yours to change', count: 1 }],
    })
    expect(
      await rows(
        sql`
        select rating
        from prospects
        where id = any($1)
        order by array_position($1, id)
      `,
        [ids],
      ),
    ).toEqual([{ rating: 'hot' }, { rating: null }])
    const given = await run({ type: 'assign', to: [team.other.id] }, { prospectIds: [ids[1]!] }, team.asRep)
    expect(await undoIt(given.id, team.asRep)).toMatchObject({ done: 1, leftOut: [] })
    expect(await owners(ids)).toEqual([team.other.id, team.rep.id])
  })
  it('undoes what went through the engine as by hand, and keeps what has left', async () => {
    const { ids } = await addPeople(3, team.rep.id, 'Engine Vault')
    const cadence = await addCadence([{ kind: 'call' }, { kind: 'email', amount: 1, unit: 'days' }])
    const done = await run({ type: 'enroll', cadenceId: cadence.id }, { prospectIds: ids })
    expect(done).toMatchObject({ done: 3, leftOut: [] })
    const [first] = await rows<{ id: string }>(
      sql`select id from events where prospect_id = $1 and kind = 'enrolled'`,
      [ids[0]],
    )
    await team.asManager.ok(undo, { params: { id: first!.id }, body: { id: randomUUID() } })
    expect(await undoIt(done.id)).toMatchObject({ touches: 2, leftOut: [{ reason: 'was undone already', count: 1 }] })
    expect(await rows(sql`select from enrollments where prospect_id = any($1) and status = 'active'`, [ids])).toEqual(
      [],
    )
    // Run again after a crash in the middle, it comes to the same.
    const stage = await run({ type: 'stage', to: 'nurture', reason: null, override: null }, { prospectIds: ids })
    const id = randomUUID()
    await team.asManager.ok(undoBulk, { params: { id: stage.id }, body: { id } })
    await undoEvents(id, stage.id, ids[0]!, team.rep.id)
    await runBulk(id)
    expect(await team.asManager.ok(getBulk, { params: { id } })).toMatchObject({ done: 3, leftOut: [] })
    expect(await rows(sql`select distinct stage_id from prospects where id = any($1)`, [ids])).toEqual([
      { stage_id: 'new' },
    ])
    // Email that has not left is withdrawn.
    const mail = await run(
      {
        type: 'email',
        subject: 'Rooms',
        body: 'Hello',
        html: null,
        attachments: [],
        kind: 'requested',
        sendAt: MONDAY + 3_600_000,
      },
      { prospectIds: ids },
    )
    expect(await undoIt(mail.id)).toMatchObject({ done: 3, leftOut: [] })
    expect(
      await rows(sql`select from email_messages where prospect_id = any($1) and status = 'queued'`, [ids]),
    ).toEqual([])
  })
})
