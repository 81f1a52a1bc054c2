import { randomUUID } from 'node:crypto'
import { beforeEach, describe, expect, it } from 'vitest'
import {
  findDuplicates,
  listMerges,
  mergePairs,
  mergeProspects,
  tellApart,
  undoMerge,
} from '../../../shared/api/duplicates'
import { addList, addToList, findProspects } from '../../../shared/api/lists'
import { setTags } from '../../../shared/api/settings/fields'
import { addNote, getProspect, pinNote } from '../../../shared/api/prospects'
import { prospectHistory } from '../../../shared/api/events/history'
import { logOutcome } from '../../../shared/api/desk/desk'
import { db } from '../../../server/db/pool'
import { enroll } from '../../../server/services/cadences/enrollments'
import { addCadence, addPeople, outcomeId, rows } from '../../fixtures/people'
import { withTeam } from '../../fixtures/team'
import '../database'
import { sql } from '../../../server/db/sql'

const team = withTeam()
let primary: string
let duplicate: string
let companyId: string
beforeEach(async () => {
  const made = await addPeople(2, team.rep.id, `Gault Cellars ${randomUUID().slice(0, 4)}`)
  companyId = made.companyId
  ;[primary, duplicate] = made.ids as [string, string]
  await db().query(sql`delete from phones`)
  await db().query(
    sql`
      insert into phones (id, prospect_id, number)
      select gen_random_uuid(), id, '+1212555010' || n
      from unnest($1::uuid[]) with ordinality as u(id, n)
    `,
    [made.ids],
  )
  await db().query(
    sql`
    update prospects
    set last_name = 'Gault', name_key = 'tomas gault'
    where id = any($1)
  `,
    [made.ids],
  )
  await db().query(
    sql`
      update prospects
      set first_name = 'Tom', name_key = 'tom gault', title = 'Cellar master', stop_email = true
      where id = $1
    `,
    [duplicate],
  )
})
const merge = (primaryId = primary, duplicateId = duplicate, as = team.asRep) => {
  const id = randomUUID()
  return as.ok(mergeProspects, { params: { id: primaryId }, body: { id, duplicateId } }).then(() => id)
}
/** Everything about everyone, table by table, as it stands. */
const everything = async () =>
  Object.fromEntries(
    await Promise.all(
      [
        'touches',
        'tasks',
        'email_messages',
        'notes',
        'email_addresses',
        'phones',
        'enrollments',
        'deals',
        'prospect_tags',
        'list_members',
      ].map(async (table) => [table, await rows(sql`select * from ${table} order by 1, 2`)]),
    ),
  )

describe('people who may be one', () => {
  it('are found by name with a second sign, the surest first, and only among those one sees', async () => {
    await db().query(sql`update phones set number = '+12125550177' where prospect_id = any($1)`, [[primary, duplicate]])
    const { pairs } = await team.asRep.ok(findDuplicates, { query: { about: primary } })
    expect(pairs.slice(0, 1)).toMatchObject([{ reasons: ['a name cut short', 'the same number', 'the same company'] }])
    expect(pairs[0]!.sureness).toBeGreaterThan(0.9)
    await team.asOther.refused(findDuplicates, 404, { query: { about: primary } })
    expect(
      (await team.asOther.ok(findDuplicates, {})).pairs.filter((pair) =>
        [pair.one.id, pair.other.id].includes(primary),
      ),
    ).toEqual([])
  })
  it('stay separate once a user has said so', async () => {
    const together = async () =>
      (await team.asRep.ok(findDuplicates, {})).pairs.filter(
        (pair) => [pair.one.id, pair.other.id].sort().join() === [primary, duplicate].sort().join(),
      )
    expect(await together()).toHaveLength(1)
    await team.asRep.ok(tellApart, { body: { ids: [duplicate, primary] } })
    expect(await together()).toEqual([])
  })
})

describe('a merge', () => {
  it('loses nothing, and taken back leaves everything as it was', async () => {
    const cadence = await addCadence([{ kind: 'call' }, { kind: 'email', amount: 1, unit: 'days' }])
    for (const id of [primary, duplicate]) await enroll(team.rep, cadence.id, { prospectIds: [id] }, false)
    await team.asRep.ok(logOutcome, {
      params: { id: duplicate },
      body: { id: randomUUID(), outcomeId: await outcomeId('No answer') },
    })
    await team.asRep.ok(setTags, {
      params: { id: duplicate },
      body: { add: ['Audit in spring', 'Two sites'], remove: [] },
    })
    await team.asRep.ok(setTags, { params: { id: primary }, body: { add: ['Two sites'], remove: [] } })
    const list = await team.asRep.ok(addList, { body: { name: `Fair ${duplicate.slice(0, 5)}`, kind: 'fixed' } })
    await team.asRep.ok(addToList, { params: { id: list.id }, body: { prospectIds: [duplicate] } })
    const [one, two] = [randomUUID(), randomUUID()]
    await team.asRep.ok(addNote, { params: { id: primary }, body: { id: one, body: 'Prefers mornings' } })
    await team.asRep.ok(pinNote, { params: { id: primary, note: one }, body: { pinned: true } })
    await team.asRep.ok(addNote, { params: { id: duplicate }, body: { id: two, body: 'Ask for the cooper' } })
    await team.asRep.ok(pinNote, { params: { id: duplicate, note: two }, body: { pinned: true } })
    const [before, primaryBefore, duplicateBefore] = [
      await everything(),
      await team.asRep.ok(getProspect, { params: { id: primary } }),
      await team.asRep.ok(getProspect, { params: { id: duplicate } }),
    ]
    const mergeId = await merge()

    const after = await team.asRep.ok(getProspect, { params: { id: primary } })
    expect(after).toMatchObject({
      title: 'Cellar master',
      stopEmail: true,
      tags: [{ name: 'Audit in spring' }, { name: 'Two sites' }],
      touchCounts: { call: 1 },
    })
    expect(after.emails).toHaveLength(2)
    // Both were in one cadence: one way through it goes on, the other has ended.
    expect(after.enrollments.map((enrollment) => enrollment.status === 'ended').sort()).toEqual([false, true])
    expect((await team.asRep.ok(findProspects, { body: { list: list.id } })).people.map((person) => person.id)).toEqual(
      [primary],
    )
    await team.asRep.refused(getProspect, 404, { params: { id: duplicate } })
    const activity = await team.asRep.ok(prospectHistory, { params: { id: primary } })
    expect(activity.entries.map((entry) => entry.title)).toContain('Merged with a duplicate')
    expect(activity.entries.find((entry) => entry.title === 'Call: No answer')).toMatchObject({ canUndo: false })
    expect(
      await rows(sql`select attempts from prospects where id = any($1) order by attempts`, [[primary, duplicate]]),
    ).toEqual([{ attempts: 0 }, { attempts: 1 }])
    expect((await team.asRep.ok(listMerges, {})).merges[0]).toMatchObject({ id: mergeId, primaryId: primary })

    expect(await team.asRep.ok(undoMerge, { params: { id: mergeId } })).toEqual({
      primaryId: primary,
      duplicateId: duplicate,
      unchanged: [],
    })
    const still = ({ version: _, ...person }: typeof primaryBefore) => person
    expect(still(await team.asRep.ok(getProspect, { params: { id: primary } }))).toEqual(still(primaryBefore))
    expect(still(await team.asRep.ok(getProspect, { params: { id: duplicate } }))).toEqual(still(duplicateBefore))
    expect(await everything()).toEqual(before)
  })
  it('needs no first contact where the duplicate was contacted, until it is undone', async () => {
    await db().query(
      sql`
        insert into tasks (id, prospect_id, owner_id, kind, priority, title, due_at, status, time_zone)
        select gen_random_uuid(), p, $2, 'first_contact', 3, 'First contact', world_now(), 'open', 'UTC'
        from unnest($1::uuid[]) p
      `,
      [[primary, duplicate], team.rep.id],
    )
    const open = () =>
      rows<{ prospect_id: string }>(
        sql`
          select prospect_id
          from tasks
          where prospect_id = any($1) and kind = 'first_contact' and status = 'open'
          order by 1
        `,
        [[primary, duplicate]],
      )
    // Neither was contacted: one first contact is left of two.
    const first = await merge()
    expect(await open()).toEqual([{ prospect_id: primary }])
    await team.asRep.ok(undoMerge, { params: { id: first } })
    expect(await open()).toHaveLength(2)
    await db().query(
      sql`
        insert into touches (id, prospect_id, kind, at, counts_as)
        values ($1, $2, 'call', world_now(), 'attempt')
      `,
      [randomUUID(), duplicate],
    )
    const second = await merge()
    expect(await open()).toEqual([])
    await team.asRep.ok(undoMerge, { params: { id: second } })
    expect(await open()).toHaveLength(2)
    await db().query(sql`delete from tasks`)
  })
  it('is made of many pairs at once; one that cannot be merged stops no other', async () => {
    const [one, two, three] = (await addPeople(3, team.rep.id, 'Many Twins')).ids as [string, string, string]
    const pairs = [
      { id: randomUUID(), primaryId: one, duplicateId: two },
      { id: randomUUID(), primaryId: two, duplicateId: three },
      { id: randomUUID(), primaryId: one, duplicateId: three },
    ]
    const { merged, failed } = await team.asRep.ok(mergePairs, { body: { pairs } })
    expect({ merged, failed: failed.map((one) => one.id) }).toEqual({ merged: 2, failed: [pairs[1]!.id] })
    expect(await rows(sql`select id from prospects where merged_into = $1 order by 1`, [one])).toEqual(
      [two, three].sort().map((id) => ({ id })),
    )
    expect(await team.asOther.ok(mergePairs, { body: { pairs: [{ ...pairs[0]!, id: randomUUID() }] } })).toMatchObject({
      merged: 0,
    })
  })
  it('keeps what has been changed since, and says so', async () => {
    const mergeId = await merge()
    await db().query(sql`update prospects set title = 'Owner' where id = $1`, [primary])
    expect(await team.asRep.ok(undoMerge, { params: { id: mergeId } })).toMatchObject({
      unchanged: ['title has been changed since and stays'],
    })
    expect(await team.asRep.ok(getProspect, { params: { id: primary } })).toMatchObject({
      title: 'Owner',
      stopEmail: false,
    })
    await team.asRep.refused(undoMerge, 409, { params: { id: mergeId } })
  })
  it('never goes round in a circle, nor into oneself, and a chain is taken back from its end', async () => {
    const third = (await addPeople(1, team.rep.id, 'Third')).ids[0]!
    await team.asRep.refused(mergeProspects, 400, {
      params: { id: primary },
      body: { id: randomUUID(), duplicateId: primary },
    })
    const first = await merge()
    await team.asRep.refused(mergeProspects, 404, {
      params: { id: duplicate },
      body: { id: randomUUID(), duplicateId: primary },
    })
    const second = await merge(third, primary)
    await team.asRep.refused(undoMerge, 422, { params: { id: first } })
    await team.asRep.ok(undoMerge, { params: { id: second } })
    await team.asRep.ok(undoMerge, { params: { id: first } })
    expect(await rows(sql`select company_id from prospects where id = any($1)`, [[primary, duplicate]])).toEqual([
      { company_id: companyId },
      { company_id: companyId },
    ])
  })
  it('of two people into each other at once happens one way only', async () => {
    const both = await Promise.allSettled([merge(primary, duplicate), merge(duplicate, primary)])
    expect(both.filter((one) => one.status === 'fulfilled')).toHaveLength(1)
    expect(
      await rows(sql`select from prospects where id = any($1) and merged_into is null`, [[primary, duplicate]]),
    ).toHaveLength(1)
  })
  it('is no way to people one may not see', async () => {
    await team.asOther.refused(mergeProspects, 404, {
      params: { id: primary },
      body: { id: randomUUID(), duplicateId: duplicate },
    })
    const theirs = (await addPeople(1, team.other.id)).ids[0]!
    await team.asRep.refused(mergeProspects, 404, {
      params: { id: primary },
      body: { id: randomUUID(), duplicateId: theirs },
    })
  })
})
