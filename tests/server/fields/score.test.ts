import { randomUUID } from 'node:crypto'
import fc from 'fast-check'
import { beforeEach, describe, expect, it } from 'vitest'
import { editScore, getScore } from '../../../shared/api/settings/settings'
import { editProspect, getProspect } from '../../../shared/api/prospects'
import { undo } from '../../../shared/api/events/history'
import { logOutcome } from '../../../shared/api/desk/desk'
import { findProspects } from '../../../shared/api/lists'
import { mergeProspects, undoMerge } from '../../../shared/api/duplicates'
import { startBulk } from '../../../shared/api/bulk'
import { db } from '../../../server/db/pool'
import { signedToken } from '../../../server/channels/mail/addresses'
import { noteOpened } from '../../../server/services/email/messages'
import { rescore } from '../../../server/services/fields/score'
import { runBulk } from '../../../server/services/bulk/runBulk'
import { addPeople, outcomeId, rows } from '../../fixtures/people'
import { withTeam } from '../../fixtures/team'
import '../database'
import { sql } from '../../../server/db/sql'

const team = withTeam()
const OURS = { points: { reply: 10, conversation: 5, meeting: 15, visit: 1, opened: 1 }, warmFrom: 8, hotFrom: 20 }
const RATINGS = [
  ['hot', 20],
  ['warm', 8],
  ['cold', 1],
] as const
let id: string
beforeEach(async () => {
  await team.asManager.ok(editScore, { body: OURS })
  id = (await addPeople(1, team.rep.id, `Dunmore Vault ${randomUUID().slice(0, 4)}`)).ids[0]!
})
const touch = (kind: string, counts = 'none', whose = id) =>
  db().query(
    sql`
      insert into touches (id, prospect_id, kind, at, counts_as)
      values (gen_random_uuid(), $1, $2, world_now(), $3)
    `,
    [whose, kind, counts],
  )
const status = async (whose = id) => {
  const { score, rating, ratedByScore } = await team.asRep.ok(getProspect, { params: { id: whose } })
  return { score, rating, ratedByScore }
}
const rate = async (rating: 'hot' | 'warm' | 'cold' | 'score' | null) => {
  const { version } = await team.asRep.ok(getProspect, { params: { id } })
  await team.asRep.ok(editProspect, { params: { id }, body: { version, rating } })
}

describe('the score', () => {
  it('grows with what a prospect does, and the rating follows it', async () => {
    expect(await status()).toEqual({ score: 0, rating: null, ratedByScore: true })
    await touch('call', 'attempt')
    await touch('email')
    expect(await status()).toMatchObject({ score: 0, rating: null })
    await touch('visit')
    expect(await status()).toMatchObject({ score: 1, rating: 'cold' })
    await touch('reply')
    expect(await status()).toMatchObject({ score: 11, rating: 'warm' })
    await touch('meeting')
    expect(await status()).toMatchObject({ score: 26, rating: 'hot' })
    expect(
      (
        await team.asRep.ok(findProspects, {
          body: { filter: 'score is at least 20 and rating is hot', columns: ['score'], limit: 100 },
        })
      ).people.find((person) => person.id === id)!.values,
    ).toMatchObject({ score: 26 })
  })
  it('counts a call that reached them, and no longer when that is taken back', async () => {
    const call = randomUUID()
    await team.asRep.ok(logOutcome, {
      params: { id },
      body: { id: call, outcomeId: await outcomeId('Not interested'), details: { reason: 'no need' } },
    })
    expect(await status()).toMatchObject({ score: 5, rating: 'cold' })
    await team.asRep.ok(undo, { params: { id: call }, body: { id: randomUUID() } })
    expect(await status()).toMatchObject({ score: 0, rating: null })
  })
  it('does not grow with a call in which they asked for no more', async () => {
    await team.asRep.ok(logOutcome, {
      params: { id },
      body: { id: randomUUID(), outcomeId: await outcomeId('Do not call') },
    })
    expect(await status()).toMatchObject({ score: 0, rating: null })
    await rescore()
    expect(await status()).toMatchObject({ score: 0, rating: null })
  })
  it('counts a mail that is opened once, however often it is looked at', async () => {
    const message = randomUUID()
    await db().query(
      sql`
        insert into email_messages (id, prospect_id, kind, email_address_id, status, send_at, sent_at)
        select $1, $2, 'personal', id, 'sent', world_now(), world_now()
        from email_addresses
        where prospect_id = $2
      `,
      [message, id],
    )
    for (let time = 0; time < 3; time++) await noteOpened(signedToken('open', message))
    expect(await status()).toMatchObject({ score: 1, rating: 'cold' })
  })
  it('is what all there was comes to, in whatever order it came and went', async () => {
    const deeds = fc.array(
      fc.record({
        kind: fc.constantFrom('call', 'email', 'reply', 'visit', 'meeting', 'text'),
        counts: fc.constantFrom('none', 'conversation', 'attempt'),
        removed: fc.boolean(),
      }),
      { maxLength: 8 },
    )
    await fc.assert(
      fc.asyncProperty(deeds, async (all) => {
        await db().query(sql`delete from touches where prospect_id = $1`, [id])
        for (const { kind, counts } of all) await touch(kind, counts)
        const made = await rows<{ id: string; kind: string; counts_as: string }>(
          sql`select id, kind, counts_as from touches where prospect_id = $1 order by id`,
          [id],
        )
        const removed = made.filter((_, index) => all[index]!.removed)
        await db().query(sql`delete from touches where id = any($1::uuid[])`, [removed.map((one) => one.id)])
        const worth = ({ kind, counts_as: counts }: { kind: string; counts_as: string }) =>
          (kind in OURS.points ? OURS.points[kind as 'reply'] : 0) + (counts === 'conversation' ? 5 : 0)
        const score = made.filter((one) => !removed.includes(one)).reduce((sum, one) => sum + worth(one), 0)
        expect(await status()).toEqual({
          score,
          ratedByScore: true,
          rating: RATINGS.find(([, from]) => score >= from)?.[0] ?? null,
        })
      }),
      { numRuns: 25 },
    )
  }, 60_000)
})

describe('a rating by hand', () => {
  it('set by hand stays whatever the score is, until it follows the score again', async () => {
    await rate('cold')
    await touch('meeting')
    await touch('reply')
    expect(await status()).toEqual({ score: 25, rating: 'cold', ratedByScore: false })
    await rate(null)
    expect(await status()).toMatchObject({ rating: null, ratedByScore: false })
    await rate('score')
    expect(await status()).toEqual({ score: 25, rating: 'hot', ratedByScore: true })
  })
  it('is left, for many at once, where it is asked to follow the score and does already', async () => {
    const { ids } = await addPeople(3, team.rep.id, `Tarn Stores ${randomUUID().slice(0, 4)}`)
    for (const whose of ids) await touch('reply', 'none', whose)
    await db().query(
      sql`
      update prospects
      set rating = 'cold', rated_by_score = false
      where id = any($1::uuid[])
    `,
      [ids.slice(0, 2)],
    )
    const started = await team.asManager.ok(startBulk, {
      body: { id: randomUUID(), action: { type: 'rate', rating: 'score' }, prospectIds: ids },
    })
    expect(started.touches).toBe(2)
    await runBulk(started.id)
    for (const whose of ids) expect(await status(whose)).toEqual({ score: 10, rating: 'warm', ratedByScore: true })
  })
  it('of one of two who are merged counts for more than a score, and goes back with the merge', async () => {
    const other = (await addPeople(1, team.rep.id, `Dunmore ${randomUUID().slice(0, 4)}`)).ids[0]!
    await touch('reply')
    await touch('meeting', 'none', other)
    await db().query(sql`update prospects set rating = 'cold', rated_by_score = false where id = $1`, [other])
    const merge = randomUUID()
    await team.asManager.ok(mergeProspects, { params: { id }, body: { id: merge, duplicateId: other } })
    expect(await status()).toEqual({ score: 25, rating: 'cold', ratedByScore: false })
    await team.asManager.ok(undoMerge, { params: { id: merge }, body: {} })
    expect(await status()).toEqual({ score: 10, rating: 'warm', ratedByScore: true })
    expect(await status(other)).toEqual({ score: 15, rating: 'cold', ratedByScore: false })
  })
})

describe('what behavior is worth', () => {
  it('is read by everyone and changed by a manager; then all prospects are scored again', async () => {
    await touch('reply')
    await touch('visit')
    expect(await team.asRep.ok(getScore)).toEqual(OURS)
    await team.asRep.refused(editScore, 403, { body: OURS })
    await team.asManager.ok(editScore, {
      body: { points: { ...OURS.points, reply: 3, visit: 30 }, warmFrom: 8, hotFrom: 20 },
    })
    expect(
      await rows(sql`
        select count(*)::int as count
        from graphile_worker.jobs
        where task_identifier = 'rescore'
      `),
    ).toEqual([{ count: 1 }])
    await rescore()
    expect(await status()).toMatchObject({ score: 33, rating: 'hot' })
    await team.asManager.ok(editScore, {
      body: { points: { ...OURS.points, reply: 3, visit: 30 }, warmFrom: 20, hotFrom: 40 },
    })
    await rescore()
    expect(await status()).toMatchObject({ score: 33, rating: 'warm' })
  })
  it.each([
    ['hot that begins below warm', { ...OURS, hotFrom: 8 }, 'hotFrom'],
    ['points that are no whole number', { ...OURS, points: { ...OURS.points, reply: 1.5 } }, 'points.reply'],
    ['warm from nothing', { ...OURS, warmFrom: 0 }, 'warmFrom'],
    ['points without an end', { ...OURS, points: { ...OURS.points, visit: 1e9 } }, 'points.visit'],
  ])('is refused at the field: %s', async (_, body, field) => {
    expect((await team.asManager.refused(editScore, 400, { body })).problems.map((problem) => problem.field)).toContain(
      field,
    )
    expect(await team.asRep.ok(getScore)).toEqual(OURS)
  })
})
