import { randomUUID } from 'node:crypto'
import { parse as parseCsv } from 'csv-parse/sync'
import { beforeAll, describe, expect, it } from 'vitest'
import type { TouchUnit } from '../../../core/enumerations'
import { previewBulk } from '../../../shared/api/bulk'
import {
  addField,
  addTag,
  editField,
  listFields,
  listTags,
  mergeTag,
  removeField,
  removeTag,
  renameTag,
  setTags,
} from '../../../shared/api/settings/fields'
import {
  addList,
  addToList,
  countProspects,
  editList,
  filterFields,
  findCompanies,
  findProspects,
  listBatches,
  listCount,
  listLists,
  orderLists,
  previewRefresh,
  refreshBatch,
  removeFromList,
  removeList,
  type GoalState,
} from '../../../shared/api/lists'
import { logOutcome, planTask } from '../../../shared/api/desk/desk'
import { queue } from '../../../shared/api/desk/queue'
import { editUser, listUsers } from '../../../shared/api/settings/settings'
import { addProspect, editProspect, getProspect } from '../../../shared/api/prospects'
import { editCompany, getCompany } from '../../../shared/api/companies'
import { prospectHistory, undo } from '../../../shared/api/events/history'
import { addKey } from '../../../server/services/access/sessions'
import { db } from '../../../server/db/pool'
import { addPeople, MONDAY } from '../../fixtures/people'
import type { Caller } from '../../fixtures/caller'
import { withTeam } from '../../fixtures/team'
import '../database'
import { firstRow, sql } from '../../../server/db/sql'

const team = withTeam()
const DAY = 86_400_000
let mine: string[]
let others: string[]
let nobodys: string[]

const counted = async (filter: string, as: Caller = team.asManager) =>
  (await as.ok(countProspects, { body: { filter } })).count
const names = async (
  body: Parameters<Caller['ok']>[1] extends infer G ? (G extends { body?: infer B } ? B : never) : never,
  as: Caller = team.asManager,
) => (await as.ok(findProspects, { body: body as never })).people.map((person) => person.name)

beforeAll(async () => {
  mine = (await addPeople(3, team.rep.id, 'Marlpit Creamery')).ids
  others = (await addPeople(2, team.other.id, 'Halden Cider')).ids
  nobodys = (await addPeople(1, null, 'Oxbow Vault')).ids
})

describe('people by filter', () => {
  it('are counted and found by a sentence, among those the caller may see', async () => {
    expect(await counted('everyone')).toBe(6)
    expect(await counted('everyone', team.asRep)).toBe(4)
    expect(await counted('owner is me', team.asRep)).toBe(3)
    expect(await counted('owner is not set', team.asOther)).toBe(1)
    expect(await counted('company contains "HALDEN" or owner is not set')).toBe(3)
    const answer = await team.asManager.ok(countProspects, {
      body: { filter: 'Stage IS new AND company is "Halden Cider"' },
    })
    expect(answer).toMatchObject({
      count: 2,
      exact: true,
      removed: 0,
      sentence: 'stage is "New" and company is "Halden Cider"',
    })
    expect(await team.asManager.ok(countProspects, { body: { filter: answer.filter as never } })).toMatchObject({
      count: 2,
    })
  })
  it('come in any order, page by page, with the columns asked for', async () => {
    await db().query(
      sql`
        update prospects
        set city = case id when $1 then 'Bergen' when $2 then 'aarau' end, rating = 'hot'
        where id in ($1, $2)
      `,
      [mine[0], mine[1]],
    )
    const all: string[] = []
    let after: string | undefined
    do {
      const page = await team.asManager.ok(findProspects, {
        body: { sort: { field: 'city', down: false }, columns: ['city', 'rating', 'tags'], limit: 2, after },
      })
      all.push(...page.people.map((person) => `${person.values.city as string}`))
      expect(page.people.every((person) => Array.isArray(person.values.tags))).toBe(true)
      after = page.next ?? undefined
    } while (after)
    expect(all).toEqual(['aarau', 'Bergen', 'null', 'null', 'null', 'null'])
    const down = await team.asManager.ok(findProspects, {
      body: { sort: { field: 'city', down: true }, columns: ['city'], limit: 10 },
    })
    expect(down.people.slice(0, 2).map((person) => person.values.city)).toEqual(['Bergen', 'aarau'])
    expect(await names({ filter: 'city is "bergen"' })).toEqual(['Tomas Bellweather 1'])
    expect(await names({ search: 'halden' })).toHaveLength(2)
    expect((await team.asManager.ok(findProspects, { body: { limit: 6 } })).next).toBeNull()
  })
  it('that are removed are left out and said, unless they are asked for', async () => {
    await db().query(sql`update prospects set status = 'archived' where id = $1`, [nobodys[0]])
    expect(await team.asManager.ok(countProspects, { body: {} })).toMatchObject({ count: 5, removed: 1 })
    expect(await counted('status is archived')).toBe(1)
    await db().query(sql`update prospects set status = 'active' where id = $1`, [nobodys[0]])
  })
  it.each([
    ['stage is Gone', 'no value'],
    ['added is on 2026-02-30', 'no day'],
    ['x'.repeat(20), 'No field'],
    ['stage is New and (', 'No field'],
    ['attempts is between 5 and 1', 'nothing does'],
  ])('are not found by nonsense, and it is said where: %s', async (filter, message) => {
    const { problems } = await team.asManager.refused(countProspects, 400, { body: { filter } })
    expect(problems[0]).toMatchObject({ field: 'filter' })
    expect(problems[0]!.message).toContain(message)
  })
  it('are not found by a megabyte of text, an unknown order or a made-up place to go on from', async () => {
    await team.asManager.refused(countProspects, 400, { body: { filter: `name is "${'x'.repeat(1_000_000)}"` } })
    expect(
      (await team.asManager.refused(findProspects, 400, { body: { sort: { field: 'tags', down: true } } })).problems[0]!
        .field,
    ).toBe('sort')
    expect(
      (await team.asManager.refused(findProspects, 400, { body: { after: 'bm9uc2Vuc2U' } })).problems[0]!.field,
    ).toBe('after')
  })
  it('are counted exactly to ten thousand, and estimated beyond', async () => {
    await db().query(
      sql`
        insert into prospects (id, first_name, last_name, name_key, stage_id, time_zone, source, created_at)
        select
          gen_random_uuid(), 'Crowd', n::text, 'crowd ' || n, 'new', 'UTC',
          case when n <= 9000 then 'first' else 'second' end, world_now() - interval '1 year'
        from generate_series(1, 24000) n
      `,
    )
    // Not analyzed yet, the table's size is not known: then it is read whole.
    await db().query(sql`update pg_class set reltuples = -1 where oid = 'prospects'::regclass`)
    expect(await team.asManager.ok(countProspects, { body: { filter: 'source is "second"' } })).toMatchObject({
      count: 15_000,
      exact: true,
    })
    await db().query('analyze prospects')
    expect(await team.asManager.ok(countProspects, { body: { filter: 'source is "first"' } })).toMatchObject({
      count: 9000,
      exact: true,
    })
    const many = await team.asManager.ok(countProspects, { body: { filter: 'source is "second"' } })
    expect(many.exact).toBe(false)
    expect(Math.abs(many.count - 15_000)).toBeLessThan(1_500)
    await db().query(sql`delete from prospects where first_name = 'Crowd'`)
  })
})

describe('people as a file', () => {
  const file = async (query: Record<string, string>) => {
    const { key } = await addKey(team.rep, 'file')
    const response = await fetch(`${team.url}/api/prospects/export?${new URLSearchParams(query)}`, {
      headers: { authorization: `Bearer ${key}` },
    })
    return { status: response.status, text: await response.text(), named: response.headers.get('content-disposition') }
  }
  it('have the columns and the order asked for, visible prospects only, and no formula that a spreadsheet would run', async () => {
    await db().query(sql`update prospects set title = '=HYPERLINK("x")', city = '+1' where id = $1`, [mine[0]])
    const csv = await file({ columns: 'title,city,stage,attempts,createdAt', filter: 'owner is me', sort: 'name.up' })
    expect(csv).toMatchObject({ status: 200, named: 'attachment; filename="people.csv"' })
    const rows = parseCsv(csv.text) as string[][]
    expect(rows[0]).toEqual(['name', 'job title', 'city', 'stage', 'attempts', 'added'])
    expect(rows[1]).toEqual([
      'Tomas Bellweather 1',
      `'=HYPERLINK("x")`,
      `'+1`,
      'New',
      '0',
      new Date(MONDAY).toISOString(),
    ])
    expect(rows).toHaveLength(4)
    const json = JSON.parse(
      (await file({ columns: 'tags,stopCall', filter: 'owner is me', format: 'json' })).text,
    ) as object[]
    expect(json).toHaveLength(3)
    expect(json[0]).toMatchObject({ tags: [], 'do not call': false })
    expect((await file({ filter: 'moon is full' })).status).toBe(400)
    expect((await file({ filter: 'name is "nobody"', format: 'json' })).text).toBe('[]\n')
    await db().query(sql`update prospects set title = null, city = null where id = $1`, [mine[0]])
  })
})

describe('a company', () => {
  it('is edited with its custom fields by any user who sees a prospect there', async () => {
    const { company } = await team.asRep.ok(getProspect, { params: { id: mine[0]! } })
    const { id: stores } = await team.asManager.ok(addField, {
      body: { of: 'company', name: 'Stores', kind: 'choices', choices: ['cheese', 'cider'] },
    })
    const params = { id: company!.id }
    const { version } = await team.asRep.ok(getCompany, { params })
    await team.asRep.ok(editCompany, {
      params,
      body: { version, industry: 'cheese', size: 40, custom: { [stores]: ['cider', 'cheese'] } },
    })
    expect(await team.asRep.ok(getCompany, { params })).toMatchObject({
      industry: 'cheese',
      size: 40,
      custom: { [stores]: ['cheese', 'cider'] },
      version: version + 1,
    })
    expect(
      await counted('company stores has all of cheese, cider and company size is at least 40 and industry is "Cheese"'),
    ).toBe(3)
    expect((await team.asRep.refused(editCompany, 409, { params, body: { version, size: 1 } })).current).toEqual({
      version: version + 1,
    })
    expect(
      (
        await team.asRep.refused(editCompany, 400, {
          params,
          body: { version: version + 1, custom: { [stores]: ['milk'] } },
        })
      ).message,
    ).toContain('cheese, cider')
    await team.asRep.refused(editCompany, 400, { params, body: { version: version + 1, size: -1 } })
    await team.asOther.refused(editCompany, 404, { params, body: { version: version + 1, size: 1 } })
    await team.asManager.ok(removeField, { params: { id: stores } })
  })
})

describe('a live list', () => {
  it('is its filter, always current, and counts who was handled', async () => {
    const { id } = await team.asManager.ok(addList, {
      body: { name: 'Never called', kind: 'live', filter: 'last call is never' },
    })
    expect(await team.asRep.ok(listCount, { params: { id } })).toEqual({
      count: 4,
      exact: true,
      removed: 0,
      handledToday: 0,
      touchGoal: null,
      companies: null,
    })
    await db().query(
      sql`
        insert into touches (id, prospect_id, kind, at, counts_as)
        values ($1, $2, 'call', world_now(), 'attempt')
      `,
      [randomUUID(), mine[0]],
    )
    await db().query(
      sql`
      insert into handled_prospects
      values ($1, $2, $3, world_now(), $4), ($1, $2, $3, world_now(), $5)
    `,
      [id, mine[0], team.rep.id, randomUUID(), randomUUID()],
    )
    expect(await team.asRep.ok(listCount, { params: { id } })).toMatchObject({ count: 3, handledToday: 1 })
    expect(
      (await team.asRep.ok(findProspects, { body: { list: id } })).people.map((person) => person.id),
    ).not.toContain(mine[0])
    await db().query(sql`delete from touches`)
    await team.asManager.ok(removeList, { params: { id } })
  })
  it('is worked in its order: who is dealt with leaves it and counts, and comes back where that is taken back', async () => {
    const { id } = await team.asManager.ok(addList, {
      body: {
        name: 'By name',
        kind: 'live',
        filter: 'company is "Marlpit Creamery" and last call is never',
        sort: { field: 'name', down: true },
      },
    })
    const queued = async () =>
      (await team.asRep.ok(queue, { query: { list: id } })).items.map((item) => item.prospectId)
    expect(await queued()).toEqual([...mine].reverse())
    const first = await team.asRep.ok(queue, { query: { list: id } })
    expect(first).toMatchObject({
      list: { id, name: 'By name' },
      counts: { due: 3, later: 0 },
      items: [{ taskId: null, why: 'not called yet', group: 'due' }, {}, {}],
    })
    const outcome = await firstRow(db().query<{ id: string }>(sql`select id from outcomes where name = 'No answer'`))
    const eventId = randomUUID()
    await team.asRep.ok(logOutcome, {
      params: { id: mine[2]! },
      body: { id: eventId, outcomeId: outcome!.id, listId: id },
    })
    expect(await queued()).toEqual([mine[1], mine[0]])
    expect(await team.asRep.ok(listCount, { params: { id } })).toMatchObject({ count: 2, handledToday: 1 })
    await team.asRep.ok(undo, { params: { id: eventId }, body: { id: randomUUID() } })
    expect(await queued()).toEqual([...mine].reverse())
    expect(await team.asRep.ok(listCount, { params: { id } })).toMatchObject({ count: 3, handledToday: 0 })
    // Someone at a company that is no fit, or in a closed stage, is not work.
    await db().query(
      sql`
        update companies
        set status = 'not_a_fit'
        where id = (select company_id from prospects where id = $1)
      `,
      [mine[0]],
    )
    expect(await queued()).toEqual([])
    await db().query(
      sql`
        update companies
        set status = 'open'
        where id = (select company_id from prospects where id = $1)
      `,
      [mine[0]],
    )
    await db().query(sql`update prospects set stage_id = 'stopped' where id = $1`, [mine[0]])
    expect(await queued()).not.toContain(mine[0])
    await db().query(sql`update prospects set stage_id = 'new' where id = $1`, [mine[0]])
    // Called from anywhere else: still on a list that keeps them, handled, and not brought again today, unless
    // something is due.
    const whole = await team.asManager.ok(addList, {
      body: { name: 'All of them', kind: 'live', filter: 'company is "Marlpit Creamery"', touchKinds: ['call'] },
    })
    const whom = async () =>
      (await team.asRep.ok(queue, { query: { list: whole.id } })).items.map((item) => item.prospectId)
    expect(await whom()).toContain(mine[1])
    const elsewhere = randomUUID()
    await team.asRep.ok(logOutcome, { params: { id: mine[1]! }, body: { id: elsewhere, outcomeId: outcome!.id } })
    expect(await whom()).not.toContain(mine[1])
    expect(await team.asRep.ok(listCount, { params: { id: whole.id } })).toMatchObject({ count: 3, handledToday: 1 })
    // Calls count here, mail does not; and what a colleague may not see is not counted for them.
    await db().query(
      sql`
        insert into touches (id, prospect_id, kind, at, user_id, counts_as)
        values ($1, $2, 'email', world_now(), $3, 'none')
      `,
      [randomUUID(), mine[0], team.rep.id],
    )
    expect(await team.asRep.ok(listCount, { params: { id: whole.id } })).toMatchObject({ handledToday: 1 })
    expect(await team.asOther.ok(listCount, { params: { id: whole.id } })).toMatchObject({ count: 0, handledToday: 0 })
    // Where only mail counts, a call is not what the list is about, and mail that went out by itself is nobody's doing.
    const byMail = await team.asManager.ok(addList, {
      body: { name: 'Written to', kind: 'live', filter: 'company is "Marlpit Creamery"', touchKinds: ['email'] },
    })
    expect(await team.asRep.ok(listCount, { params: { id: byMail.id } })).toMatchObject({ count: 3, handledToday: 0 })
    await team.asManager.ok(removeList, { params: { id: byMail.id } })
    await db().query(
      sql`
        insert into tasks (id, prospect_id, owner_id, kind, priority, title, due_at, status, time_zone)
        values ($1, $2, $3, 'call', 2, 'Ring again', world_now(), 'open', 'America/New_York')
      `,
      [randomUUID(), mine[1], team.rep.id],
    )
    expect(await whom()).toContain(mine[1])
    await db().query(sql`delete from tasks`)
    await team.asRep.ok(undo, { params: { id: elsewhere }, body: { id: randomUUID() } })
    await db().query(sql`delete from touches`)
    expect(await team.asRep.ok(listCount, { params: { id: whole.id } })).toMatchObject({ handledToday: 0 })
    await team.asManager.ok(removeList, { params: { id: whole.id } })
    // At night nobody is called, and it is said how many wait.
    await db().query(sql`update clock set frozen_at = $1`, [new Date(MONDAY + 12 * 3_600_000)])
    expect(await team.asRep.ok(queue, { query: { list: id } })).toMatchObject({
      items: [{ group: 'later' }, { group: 'later' }, { group: 'later' }],
      counts: { due: 0, later: 3 },
    })
    await db().query(sql`update clock set frozen_at = $1`, [new Date(MONDAY)])
    await team.asManager.ok(editList, { params: { id }, body: { version: 1, visibility: 'me' } })
    await team.asRep.refused(queue, 404, { query: { list: id } })
    await team.asRep.refused(logOutcome, 404, {
      params: { id: mine[2]! },
      body: { id: randomUUID(), outcomeId: outcome!.id, listId: id },
    })
    expect((await db().query('select from touches')).rowCount).toBe(0)
    await team.asManager.ok(removeList, { params: { id } })
  })
  it('with a touch goal says who is overdue, soonest first, and the stricter of two goals holds', async () => {
    const call = (id: string, daysAgo: number, kind = 'call') =>
      db().query(
        sql`
        insert into touches (id, prospect_id, kind, at, counts_as)
        values ($1, $2, $3, $4, 'attempt')
      `,
        [randomUUID(), id, kind, new Date(MONDAY - daysAgo * DAY)],
      )
    await call(mine[0]!, 30)
    await call(mine[1]!, 9)
    await call(mine[2]!, 2)
    await call(mine[0]!, 1, 'email')
    const often = await team.asManager.ok(addList, {
      body: {
        name: 'Often',
        kind: 'live',
        filter: 'company is "Marlpit Creamery"',
        touchEvery: { amount: 10, unit: 'days' },
        touchKinds: ['call'],
      },
    })
    const one = await team.asManager.ok(addList, {
      body: { name: 'Very often', kind: 'fixed', prospectIds: [mine[2]!], touchEvery: { amount: 1, unit: 'days' } },
    })
    const promised = async (list: string) =>
      (await team.asRep.ok(findProspects, { body: { list } })).people.map(({ id, touchGoal }) => ({ id, touchGoal }))
    expect(await promised(often.id)).toEqual([
      // Mail does not count here.
      {
        id: mine[0],
        touchGoal: {
          listId: often.id,
          every: { amount: 10, unit: 'days' },
          lastAt: MONDAY - 30 * DAY,
          dueAt: MONDAY - 20 * DAY,
          status: 'overdue',
        },
      },
      {
        id: mine[1],
        touchGoal: {
          listId: often.id,
          every: { amount: 10, unit: 'days' },
          lastAt: MONDAY - 9 * DAY,
          dueAt: MONDAY + DAY,
          status: 'due_soon',
        },
      },
      {
        id: mine[2],
        touchGoal: {
          listId: one.id,
          every: { amount: 1, unit: 'days' },
          lastAt: MONDAY - 2 * DAY,
          dueAt: MONDAY - DAY,
          status: 'overdue',
        },
      },
    ])
    expect((await team.asRep.ok(findProspects, { body: { list: often.id, limit: 2 } })).next).not.toBeNull()
    // Worked on the Desk they come in the same order, though the last one touched in any way is the first.
    expect((await team.asRep.ok(queue, { query: { list: often.id } })).items.map((item) => item.prospectId)).toEqual(
      mine.slice(0, 3),
    )
    expect(await team.asRep.ok(listCount, { params: { id: often.id } })).toMatchObject({
      touchGoal: { overdue: 1, dueSoon: 1, onTrack: 1, unscheduled: 1 },
    })
    // Each of these numbers opens the people behind it, for the table and for a bulk action alike.
    const status = async (goal: GoalState) =>
      (await team.asRep.ok(findProspects, { body: { list: often.id, goal } })).people.map((person) => person.id)
    expect([
      await status('overdue'),
      await status('unscheduled'),
      await status('due_soon'),
      await status('on_track'),
    ]).toEqual([[mine[0]], [mine[0]], [mine[1]], [mine[2]]])
    expect(
      await team.asManager.ok(previewBulk, {
        body: { action: { type: 'tag', tag: 'Overdue' }, list: often.id, goal: 'overdue' },
      }),
    ).toMatchObject({ touches: 1 })
    await team.asRep.refused(findProspects, 400, { body: { goal: 'overdue' } })
    await db().query(
      sql`
        insert into tasks (id, prospect_id, owner_id, kind, priority, title, due_at, status, time_zone)
        values ($1, $2, $3, 'task', 2, 'Ring', world_now() + interval '1 day', 'open', 'UTC')
      `,
      [randomUUID(), mine[0], team.rep.id],
    )
    expect(await team.asRep.ok(listCount, { params: { id: often.id } })).toMatchObject({
      touchGoal: { overdue: 1, unscheduled: 0 },
    })
    expect([await status('overdue'), await status('unscheduled')]).toEqual([[mine[0]], []])
    await db().query(sql`delete from tasks`)
    await db().query(sql`delete from touches`)
    for (const { id } of [often, one]) await team.asManager.ok(removeList, { params: { id } })
  })
  it('with a touch goal in months counts them in PostgreSQL as the table shows them row by row, at the ends of months too', async () => {
    const list = await team.asManager.ok(addList, {
      body: {
        name: 'Months',
        kind: 'live',
        filter: 'company is "Marlpit Creamery"',
        touchEvery: { amount: 1, unit: 'months' },
        touchKinds: ['call'],
      },
    })
    const edit = async (touchEvery: { amount: number; unit: TouchUnit } | null) =>
      team.asManager.ok(editList, {
        params: { id: list.id },
        body: {
          version: (await team.asManager.ok(listLists)).lists.find((one) => one.id === list.id)!.version,
          touchEvery,
        },
      })
    const seen = new Set<string>()
    for (const [ago, every] of [
      [31, { amount: 1, unit: 'months' }],
      [30, { amount: 1, unit: 'months' }],
      [93, { amount: 3, unit: 'months' }],
      [84, { amount: 12, unit: 'weeks' }],
      [297, { amount: 9, unit: 'months' }],
    ] as const) {
      await edit(every)
      for (const [index, id] of mine.slice(0, 3).entries()) {
        await db().query(
          sql`
            insert into touches (id, prospect_id, kind, at, counts_as)
            values ($1, $2, 'call', $3, 'attempt')
          `,
          [randomUUID(), id, new Date(MONDAY - (ago + [-0.6 * ago, 0, 1][index]!) * DAY)],
        )
      }
      const { people } = await team.asManager.ok(findProspects, { body: { list: list.id } })
      const statuses = people.map(({ touchGoal }) => touchGoal!.status)
      const { touchGoal } = await team.asManager.ok(listCount, { params: { id: list.id } })
      expect(touchGoal).toMatchObject(
        Object.fromEntries(
          Object.entries({ overdue: 'overdue', due_soon: 'dueSoon', on_track: 'onTrack' }).map(([status, count]) => [
            count,
            statuses.filter((one) => one === status).length,
          ]),
        ),
      )
      statuses.forEach((one) => seen.add(one))
      expect(people[0]!.touchGoal).toMatchObject({ every })
      // Interval arithmetic is PostgreSQL's: what the table shows is held to it.
      const { rows } = await db().query<{ id: string; due: number }>(
        sql`
          select id, ms((last_call_at at time zone 'UTC' + $1::interval) at time zone 'UTC') as due
          from prospects
          where id = any($2)
        `,
        [`${every.amount} ${every.unit}`, mine.slice(0, 3)],
      )
      expect(
        Object.fromEntries(
          people.filter((one) => mine.slice(0, 3).includes(one.id)).map((one) => [one.id, one.touchGoal!.dueAt]),
        ),
      ).toEqual(Object.fromEntries(rows.map((row) => [row.id, row.due])))
      await db().query(sql`delete from touches`)
    }
    expect([...seen].sort()).toEqual(['due_soon', 'on_track', 'overdue'])
    await team.asManager.refused(editList, 400, {
      params: { id: list.id },
      body: { version: 1, touchEvery: { amount: 0, unit: 'months' } },
    })
    await edit(null)
    expect(await team.asManager.ok(listCount, { params: { id: list.id } })).toMatchObject({ touchGoal: null })
    await team.asManager.ok(removeList, { params: { id: list.id } })
  })
  it('cannot be made of itself, straight or in a circle', async () => {
    const make = (name: string, filter: string) => team.asManager.ok(addList, { body: { name, kind: 'live', filter } })
    const first = await make('First', 'stage is New')
    const second = await make('Second', 'lists has "First"')
    const version = async (id: string) =>
      (await team.asManager.ok(listLists)).lists.find((list) => list.id === id)!.version
    expect(
      (
        await team.asManager.refused(editList, 400, {
          params: { id: first.id },
          body: { version: await version(first.id), filter: 'lists has "First"' },
        })
      ).problems[0],
    ).toMatchObject({ field: 'filter' })
    expect(
      (
        await team.asManager.refused(editList, 400, {
          params: { id: first.id },
          body: { version: await version(first.id), filter: 'city is set or lists has none of "Second"' },
        })
      ).message,
    ).toContain('Second, First')
    expect(await team.asManager.ok(listCount, { params: { id: second.id } })).toMatchObject({ count: 6 })
    await team.asManager.ok(removeList, { params: { id: first.id } })
    // What it was made of is gone: it finds nobody and says why.
    expect((await team.asManager.ok(listLists)).lists.find((list) => list.id === second.id)!.problems[0]).toContain(
      'no longer has a value',
    )
    expect(await team.asManager.ok(listCount, { params: { id: second.id } })).toMatchObject({ count: 0 })
    expect((await team.asManager.refused(findProspects, 422, { body: { list: second.id } })).message).toContain(
      'cannot be read as it is',
    )
    await team.asManager.ok(removeList, { params: { id: second.id } })
  })
  it('has a name of its own among those everyone sees', async () => {
    const { id } = await team.asManager.ok(addList, { body: { name: 'Hot', kind: 'live', filter: 'rating is hot' } })
    expect(
      (await team.asManager.refused(addList, 409, { body: { name: 'hot', kind: 'live', filter: 'everyone' } }))
        .problems[0],
    ).toMatchObject({ field: 'name' })
    await team.asManager.ok(removeList, { params: { id } })
  })
})

describe('a fixed list', () => {
  it('keeps how it came about, and a batch can be added again', async () => {
    const { id } = await team.asManager.ok(addList, { body: { name: 'Fair', kind: 'fixed', filter: 'rating is hot' } })
    expect(
      await team.asManager.ok(addToList, { params: { id }, body: { prospectIds: [others[0]!, mine[0]!] } }),
    ).toEqual({ added: 1, already: 1 })
    const { batches } = await team.asManager.ok(listBatches, { params: { id } })
    expect(batches.map(({ sentence, count, still }) => ({ sentence, count, still }))).toEqual([
      { sentence: 'rating is "hot"', count: 2, still: 2 },
      { sentence: null, count: 1, still: 1 },
    ])
    await db().query(
      sql`
      update prospects
      set rating = case id when $1 then 'cold' else 'hot' end
      where id in ($1, $2)
    `,
      [mine[0], mine[2]],
    )
    // It is a snapshot: nothing has changed by that alone.
    expect(await names({ list: id, sort: { field: 'name', down: false } })).toEqual([
      'Tomas Bellweather 1',
      'Tomas Bellweather 1',
      'Tomas Bellweather 2',
    ])
    const at = { id, batch: batches[0]!.id }
    expect(await team.asManager.ok(previewRefresh, { params: at })).toMatchObject({
      comes: 1,
      goes: 1,
      come: [{ id: mine[2], company: 'Marlpit Creamery' }],
      go: [{ id: mine[0] }],
    })
    expect(await team.asManager.ok(refreshBatch, { params: at })).toEqual({ came: 1, went: 1 })
    expect(await names({ list: id })).toHaveLength(3)
    await team.asManager.refused(previewRefresh, 422, { params: { id, batch: batches[1]!.id } })
    await team.asManager.refused(previewRefresh, 404, { params: { id, batch: randomUUID() } })
    expect(
      await team.asManager.ok(removeFromList, { params: { id }, body: { prospectIds: [others[0]!, nobodys[0]!] } }),
    ).toEqual({ removed: 1 })
    expect(await counted('lists has "Fair"')).toBe(2)
    // It stands in the activity, with the list by its name while there is one.
    const titles = async () =>
      (await team.asManager.ok(prospectHistory, { params: { id: others[0]! } })).entries.map((entry) => entry.title)
    expect((await titles()).slice(0, 2)).toEqual(['Removed from “Fair”', 'Added to “Fair”'])
    await team.asManager.ok(removeList, { params: { id } })
    expect((await titles()).slice(0, 2)).toEqual(['Removed from a list', 'Added to a list'])
  })
  it('includes only prospects whom the caller may see', async () => {
    const { id } = await team.asRep.ok(addList, {
      body: { name: 'Mine', kind: 'fixed', prospectIds: [mine[0]!, others[0]!] },
    })
    expect((await team.asRep.ok(listCount, { params: { id } })).count).toBe(1)
    await team.asRep.ok(removeList, { params: { id } })
  })
  it('is added to twice at the same moment without anyone being on it twice', async () => {
    const { id } = await team.asManager.ok(addList, { body: { name: 'Twice', kind: 'fixed' } })
    const both = await Promise.all(
      [1, 2].map(() => team.asManager.ok(addToList, { params: { id }, body: { filter: 'everyone' } })),
    )
    expect(both[0]!.added + both[1]!.added).toBe(6)
    await team.asManager.ok(removeList, { params: { id } })
  })
  it('refuses what only a live list has, and the other way round', async () => {
    const fixed = await team.asManager.ok(addList, { body: { name: 'Fixed', kind: 'fixed' } })
    const live = await team.asManager.ok(addList, { body: { name: 'Live', kind: 'live', filter: 'everyone' } })
    await team.asManager.refused(editList, 400, { params: { id: fixed.id }, body: { version: 1, filter: 'everyone' } })
    await team.asManager.refused(addToList, 422, { params: { id: live.id }, body: { filter: 'everyone' } })
    for (const { id } of [fixed, live]) await team.asManager.ok(removeList, { params: { id } })
  })
})

describe('who sees a list', () => {
  it('is one, some or all; to the others there is no such list, whatever they ask', async () => {
    const { id } = await team.asRep.ok(addList, { body: { name: 'My own', kind: 'live', filter: 'owner is me' } })
    const nothing = async (as: Caller) => {
      expect((await as.ok(listLists)).lists.map((list) => list.id)).not.toContain(id)
      for (const [endpoint, body] of [
        [listCount, undefined],
        [listBatches, undefined],
        [editList, { version: 1 }],
        [removeList, undefined],
      ] as const) {
        await as.refused(endpoint, 404, { params: { id }, body })
      }
      await as.refused(findProspects, 404, { body: { list: id } })
      expect((await as.refused(countProspects, 400, { body: { filter: `lists has "#${id}"` } })).message).toContain(
        'no value',
      )
      expect(
        (await as.ok(filterFields)).fields.find((field) => field.key === 'lists')!.choices!.map((choice) => choice.id),
      ).not.toContain(id)
    }
    await nothing(team.asOther)
    await nothing(team.asManager)
    await team.asRep.ok(editList, {
      params: { id },
      body: { version: 1, visibility: 'named', viewerIds: [team.other.id] },
    })
    expect(await team.asOther.ok(listCount, { params: { id } })).toMatchObject({ count: 2 })
    await team.asOther.refused(editList, 403, { params: { id }, body: { version: 2, name: 'Stolen' } })
    expect(
      (await team.asRep.refused(editList, 403, { params: { id }, body: { version: 2, visibility: 'everyone' } }))
        .problems[0]!.field,
    ).toBe('visibility')
    expect(
      (await team.asRep.refused(editList, 409, { params: { id }, body: { version: 1, name: 'Late' } })).current,
    ).toEqual({ version: 2 })
    await team.asRep.ok(removeList, { params: { id } })
  })
})

describe('the order of lists', () => {
  it('is the manager’s, and of two who change it at once only one is heard', async () => {
    const ids: string[] = []
    for (const name of ['One', 'Two', 'Three']) {
      ids.push((await team.asManager.ok(addList, { body: { name, kind: 'live', filter: 'everyone' } })).id)
    }
    const hidden = await team.asRep.ok(addList, { body: { name: 'Hidden', kind: 'live', filter: 'everyone' } })
    await team.asRep.refused(orderLists, 403, { body: { ids, before: ids } })
    const turned = [ids[2]!, ids[0]!, ids[1]!]
    const answers = await Promise.allSettled(
      [turned, [...ids].reverse()].map((order) => team.asManager.ok(orderLists, { body: { ids: order, before: ids } })),
    )
    expect(answers.map((answer) => answer.status).sort()).toEqual(['fulfilled', 'rejected'])
    const held = (await team.asManager.ok(listLists)).lists.map((list) => list.id)
    expect([turned, [...ids].reverse()]).toContainEqual(held)
    expect((await team.asManager.refused(orderLists, 409, { body: { ids, before: ids } })).current).toEqual({
      ids: held,
    })
    await team.asManager.refused(orderLists, 400, { body: { ids: ids.slice(1), before: held } })
    expect((await team.asRep.ok(listLists)).lists.map((list) => list.name)).toContain('Hidden')
    for (const id of [...ids]) await team.asManager.ok(removeList, { params: { id } })
    await team.asRep.ok(removeList, { params: { id: hidden.id } })
  })
})

describe('tags', () => {
  it('are put on by name, made on the fly, and sorted by name', async () => {
    expect(
      (await team.asRep.ok(setTags, { params: { id: mine[0]! }, body: { add: ['vip', 'Audit in spring'] } })).tags.map(
        (tag) => tag.name,
      ),
    ).toEqual(['Audit in spring', 'vip'])
    expect(
      (await team.asRep.ok(setTags, { params: { id: mine[1]! }, body: { add: ['VIP'] } })).tags.map((tag) => tag.name),
    ).toEqual(['vip'])
    expect(
      (await team.asRep.ok(setTags, { params: { id: mine[0]! }, body: { remove: ['AUDIT IN SPRING'] } })).tags.map(
        (tag) => tag.name,
      ),
    ).toEqual(['vip'])
    expect((await team.asRep.ok(getProspect, { params: { id: mine[0]! } })).tags.map((tag) => tag.name)).toEqual([
      'vip',
    ])
    expect(await counted('tags has "VIP"')).toBe(2)
    await team.asRep.refused(setTags, 404, { params: { id: others[0]! }, body: { add: ['x'] } })
    await team.asRep.refused(setTags, 400, { params: { id: mine[0]! }, body: { add: ['x'.repeat(10_000)] } })
  })
  it('are renamed, merged and removed by a manager, and lists follow a merge', async () => {
    const { id: key } = await team.asRep.ok(addTag, { body: { name: 'Key account' } })
    expect(await team.asRep.ok(addTag, { body: { name: 'KEY ACCOUNT' } })).toEqual({ id: key, known: true })
    const vip = (await team.asManager.ok(listTags)).tags.find((tag) => tag.name === 'vip')!
    expect(vip.people).toBe(2)
    const list = await team.asManager.ok(addList, {
      body: { name: 'Very important', kind: 'live', filter: 'tags has "vip"' },
    })
    await team.asRep.refused(renameTag, 403, { params: { id: vip.id }, body: { name: 'x' } })
    await team.asManager.refused(renameTag, 409, { params: { id: vip.id }, body: { name: 'key account' } })
    await team.asManager.refused(mergeTag, 400, { params: { id: key }, body: { into: key } })
    await team.asManager.refused(mergeTag, 404, { params: { id: key }, body: { into: randomUUID() } })
    expect(await team.asManager.ok(mergeTag, { params: { id: vip.id }, body: { into: key } })).toEqual({ people: 2 })
    expect(await team.asManager.ok(listCount, { params: { id: list.id } })).toMatchObject({ count: 2 })
    expect(await team.asManager.ok(removeTag, { params: { id: key } })).toEqual({ people: 2 })
    expect(await team.asManager.ok(listCount, { params: { id: list.id } })).toMatchObject({ count: 0 })
    await team.asManager.ok(removeList, { params: { id: list.id } })
  })
})

describe('custom fields', () => {
  it('are made, filled with checked values, filtered by and removed with a warning of what goes', async () => {
    await team.asRep.refused(addField, 403, { body: { of: 'prospect', name: 'Barrels', kind: 'number' } })
    const { id: barrels } = await team.asManager.ok(addField, {
      body: { of: 'prospect', name: 'Barrels', kind: 'number', defaultValue: '12' },
    })
    const { id: renewal } = await team.asManager.ok(addField, {
      body: { of: 'prospect', name: 'Renewal', kind: 'date', required: true },
    })
    expect(
      (await team.asManager.refused(addField, 409, { body: { of: 'prospect', name: 'BARRELS', kind: 'text' } }))
        .problems[0],
    ).toMatchObject({ field: 'name' })
    expect(
      (await team.asManager.refused(addField, 400, { body: { of: 'prospect', name: 'Grade', kind: 'choice' } }))
        .problems[0],
    ).toMatchObject({ field: 'choices' })
    expect(
      (
        await team.asManager.refused(addField, 400, {
          body: { of: 'prospect', name: 'Grade', kind: 'choice', choices: ['a'], defaultValue: 'b' },
        })
      ).problems[0],
    ).toMatchObject({ field: 'defaultValue' })
    const { version } = await team.asRep.ok(getProspect, { params: { id: mine[0]! } })
    const { problems } = await team.asRep.refused(editProspect, 400, {
      params: { id: mine[0]! },
      body: { version, custom: { [barrels]: 'many', [renewal]: '2026-02-30', [randomUUID()]: 1 } },
    })
    expect(problems.map((problem) => problem.message)).toEqual([
      'Expected a number',
      'Expected a day like 11/23/2026 or 2026-11-23',
      'There is no such field',
    ])
    await team.asRep.ok(editProspect, {
      params: { id: mine[0]! },
      body: {
        version,
        custom: { [barrels]: '1,200', [renewal]: '2026-11-24' },
        rating: 'warm',
        postalCode: '53701',
        relationshipOwnerId: team.rep.id,
      },
    })
    const after = await team.asRep.ok(getProspect, { params: { id: mine[0]! } })
    expect(after).toMatchObject({
      custom: { [barrels]: 1200, [renewal]: '2026-11-24' },
      rating: 'warm',
      postalCode: '53701',
      relationshipOwner: { id: team.rep.id },
    })
    const emptied = await team.asRep.refused(editProspect, 400, {
      params: { id: mine[0]! },
      body: { version: after.version, custom: { [renewal]: null } },
    })
    expect(emptied.problems).toMatchObject([{ field: `custom.${renewal}` }])
    expect(await counted('barrels is more than 1000 and renewal is in the next 2 days')).toBe(1)
    expect(await counted('relationship owner is me', team.asRep)).toBe(1)
    const newcomer = await team.asRep.ok(addProspect, { body: { name: 'New Comer', phone: '607 555 0148' } })
    expect((await team.asRep.ok(getProspect, { params: { id: newcomer.id } })).custom).toEqual({ [barrels]: 12 })
    expect((await team.asManager.ok(listFields)).fields.map((field) => field.name)).toEqual(['Barrels', 'Renewal'])
    await team.asManager.ok(editField, { params: { id: barrels }, body: { version: 1, name: 'Casks' } })
    await team.asManager.refused(editField, 409, { params: { id: barrels }, body: { version: 1, name: 'Vats' } })
    const list = await team.asManager.ok(addList, {
      body: { name: 'Large', kind: 'live', filter: 'casks is more than 100' },
    })
    expect(await team.asManager.ok(removeField, { params: { id: barrels } })).toEqual({ values: 2 })
    expect((await team.asManager.ok(listLists)).lists.find((one) => one.id === list.id)!.problems[0]).toContain(
      'field that is gone',
    )
    expect(
      (
        await team.asManager.refused(countProspects, 400, {
          body: { filter: { field: `custom:${barrels}`, test: { op: 'set' } } },
        })
      ).message,
    ).toContain('gone')
    await team.asManager.ok(removeField, { params: { id: renewal } })
    await team.asManager.ok(removeList, { params: { id: list.id } })
  })
})

it('the world of these tests stands on a Monday', async () => {
  expect(await counted('added is today')).toBeGreaterThan(5)
  await db().query(sql`update prospects set created_at = $2 where id = $1`, [mine[0], new Date(MONDAY - DAY)])
  expect(await names({ filter: 'added is yesterday' })).toHaveLength(1)
})

describe('lists of companies', () => {
  it('show companies with matching prospects, with the matching and the total count, in any order', async () => {
    const marlpit = await addPeople(3, team.rep.id, 'Zeta Creamery')
    const halden = await addPeople(2, team.rep.id, 'Alpha Cider')
    const hidden = await addPeople(2, team.other.id, 'Beta Vault')
    await db().query(sql`update prospects set title = 'Cooper' where id = any($1)`, [
      [marlpit.ids[0], marlpit.ids[1], halden.ids[0], hidden.ids[0]],
    ])
    await db().query(sql`update companies set size = 12 where id = $1`, [marlpit.companyId])
    const ask = (more: object = {}, as = team.asRep) =>
      as.ok(findCompanies, { body: { filter: 'job title is "Cooper"', ...more } })
    expect(await ask()).toMatchObject({
      count: 2,
      next: null,
      companies: [
        { name: 'Alpha Cider', fitting: 1, people: 2 },
        { name: 'Zeta Creamery', fitting: 2, people: 3, size: 12 },
      ],
    })
    expect((await ask({}, team.asManager)).companies.map((company) => company.name)).toEqual([
      'Alpha Cider',
      'Beta Vault',
      'Zeta Creamery',
    ])
    expect((await ask({ sort: { field: 'people', down: true } })).companies.map((company) => company.fitting)).toEqual([
      2, 1,
    ])
    // Page by page, those without a value last, nobody twice.
    for (const field of ['name', 'people', 'lastTouch', 'size'] as const) {
      for (const down of [true, false]) {
        const seen: string[] = []
        for (let after: string | null | undefined; after !== null;) {
          const page: { companies: { name: string }[]; next: string | null } = await ask(
            { sort: { field, down }, limit: 1, ...(after && { after }) },
            team.asManager,
          )
          seen.push(...page.companies.map((company) => company.name))
          after = page.next
        }
        expect(seen.sort(), `${field} ${down}`).toEqual(['Alpha Cider', 'Beta Vault', 'Zeta Creamery'])
      }
    }
    // A company where nobody is yet fits by what is known of itself, for everyone.
    await db().query(
      sql`
        insert into companies (id, name, name_key, city, created_at)
        values (gen_random_uuid(), 'Empty Vault', 'empty vault', 'Bergen', world_now())
      `,
    )
    expect(
      (await team.asRep.ok(findCompanies, { body: { filter: 'company city is "bergen"' } })).companies,
    ).toMatchObject([{ name: 'Empty Vault', fitting: 0, people: 0 }])
    expect(
      (await team.asRep.ok(findCompanies, { body: { filter: 'company city is "bergen" and job title is "Cooper"' } }))
        .companies,
    ).toEqual([])
    expect(
      (await team.asRep.ok(findCompanies, { body: { limit: 500 } })).companies.map((company) => company.name),
    ).not.toContain('Beta Vault')
    // Kept as a list that is shown by company, it says how many companies there are.
    const { id } = await team.asManager.ok(addList, {
      body: { name: 'Coopers’ houses', kind: 'live', filter: 'job title is "Cooper"', defaultView: 'companies' },
    })
    expect(await team.asManager.ok(listCount, { params: { id } })).toMatchObject({ count: 4, companies: 3 })
    expect(await team.asRep.ok(listCount, { params: { id } })).toMatchObject({ count: 3, companies: 2 })
    expect((await team.asRep.ok(listLists)).lists.find((list) => list.id === id)).toMatchObject({
      defaultView: 'companies',
    })
    await team.asManager.ok(removeList, { params: { id } })
    await team.asRep.refused(findCompanies, 400, { body: { filter: 'moon is full' } })
    await team.asRep.refused(findCompanies, 404, { body: { list: randomUUID() } })
  })
})

describe('a list for a team', () => {
  it('is seen by the users it is shared with, and by managers; reps create them for their own team only', async () => {
    const join = (id: string, name: string | null) =>
      team.asManager.ok(editUser, { params: { id }, body: { team: name } })
    await team.asRep.refused(editUser, 403, { params: { id: team.rep.id }, body: { team: 'East' } })
    await join(team.rep.id, 'East')
    await join(team.other.id, ' West ')
    expect((await team.asRep.ok(listUsers)).users.find((user) => user.id === team.other.id)!.team).toBe('West')
    const make = (name: string, of: string | undefined, as = team.asManager) =>
      as.ok(addList, { body: { name, kind: 'live', filter: 'everyone', visibility: 'team', team: of } })
    const { id } = await make('For the East', 'East')
    const names = async (as: Caller) =>
      (await as.ok(listLists)).lists.filter((list) => list.visibility === 'team').map((list) => list.name)
    expect([await names(team.asRep), await names(team.asOther), await names(team.asManager)]).toEqual([
      ['For the East'],
      [],
      ['For the East'],
    ])
    await team.asOther.refused(listCount, 404, { params: { id } })
    await team.asOther.refused(findProspects, 404, { body: { list: id } })
    const { id: own } = await make('Our East', 'East', team.asRep)
    for (const wrong of ['West', 'Nowhere', undefined]) {
      expect(
        (await team.asRep.refused(addList, 400, { body: { name: 'x', kind: 'live', visibility: 'team', team: wrong } }))
          .problems[0]!.field,
      ).toBe('team')
    }
    const { version } = (await team.asManager.ok(listLists)).lists.find((list) => list.id === id)!
    await team.asManager.ok(editList, { params: { id }, body: { version, visibility: 'team', team: 'West' } })
    expect([await names(team.asRep), await names(team.asOther)]).toEqual([['Our East'], ['For the East']])
    await team.asManager.ok(editList, { params: { id }, body: { version: version + 1, visibility: 'me' } })
    expect((await team.asManager.ok(listLists)).lists.find((list) => list.id === id)).toMatchObject({
      visibility: 'me',
      team: null,
    })
    await team.asManager.ok(removeList, { params: { id } })
    await team.asRep.ok(removeList, { params: { id: own } })
    for (const user of [team.rep, team.other]) await join(user.id, null)
  })
})

describe('the thread in a row', () => {
  it('has the latest touches in order, and a next touch is planned from it in one step', async () => {
    const {
      ids: [id],
    } = await addPeople(1, team.rep.id, 'Thread Cellar')
    for (const days of [40, 3, 90]) {
      await db().query(
        sql`
          insert into touches (id, prospect_id, kind, at, counts_as)
          values (gen_random_uuid(), $1, 'call', world_now() - $2 * interval '1 day', 'attempt')
        `,
        [id, days],
      )
    }
    const find = async () =>
      (await team.asRep.ok(findProspects, { body: { filter: 'company is "Thread Cellar"', columns: ['thread'] } }))
        .people[0]!
    expect((await find()).values.thread).toEqual([90, 40, 3].map((days) => [MONDAY - days * 86_400_000, 'call']))
    const dueAt = MONDAY + 7 * 86_400_000
    await team.asRep.ok(planTask, {
      params: { id: id! },
      body: { id: randomUUID(), task: 'call', title: 'Keep in touch', dueAt },
    })
    expect((await find()).nextAt).toBe(dueAt)
    await team.asOther.refused(planTask, 404, {
      params: { id: id! },
      body: { id: randomUUID(), task: 'call', title: 'Keep in touch', dueAt },
    })
  })
})
