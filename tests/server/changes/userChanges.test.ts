import { randomUUID } from 'node:crypto'
import { expect, it } from 'vitest'
import { callState, dial, planTask } from '../../../shared/api/desk/desk'
import { editProspect } from '../../../shared/api/prospects'
import { listNotifications, markNotifications } from '../../../shared/api/notifications'
import { userChanges } from '../../../shared/api/session'
import { db } from '../../../server/db/pool'
import { sql } from '../../../server/db/sql'
import { readStream } from '../../fixtures/caller'
import { withExchange } from '../../fixtures/exchange'
import { addPeople, freeze, MONDAY, rows } from '../../fixtures/people'
import { withTeam } from '../../fixtures/team'
import '../database'

const team = withTeam()
const exchange = withExchange(team, { patienceMs: 60_000 })
const listens = async () =>
  (
    await rows(
      sql`select pid from pg_stat_activity where datname = current_database() and query like 'listen "user_changed"%'`,
    )
  ).length

/** What the next event is about; one that only says that something may have been missed is passed over. */
async function topic({ next }: Awaited<ReturnType<typeof readStream>>, prospects = false): Promise<string> {
  for (;;) {
    const [, , about, prospectId] = (await next())!.split(' ')
    if (about && (prospects || about !== 'prospect')) return [about, ...(prospectId ? [prospectId] : [])].join(' ')
  }
}

it('says to each user what is new for them, and to everyone that a call comes in', async () => {
  const { ids } = await addPeople(1, team.rep.id)
  const [mine, theirs] = await Promise.all([
    readStream(team.asRep, userChanges.path),
    readStream(team.asOther, userChanges.path),
  ])
  expect([await mine.next(), await theirs.next()]).toEqual(['data: 0', 'data: 0'])
  await expect.poll(listens).toBe(1)
  await db().query(
    sql`
      insert into notifications (id, user_id, kind, prospect_id, at)
      values ($1, $2, 'reply', $3, world_now())
    `,
    [randomUUID(), team.rep.id, ids[0]],
  )
  expect(await topic(mine)).toBe('notifications')
  // Read in another tab, it is no longer new in this one.
  const [one] = (await team.asRep.ok(listNotifications, {})).notifications
  await team.asRep.ok(markNotifications, { body: { ids: one!.ids, read: true } })
  expect(await topic(mine)).toBe('notifications')
  await db().query(
    sql`
      insert into incoming_calls (id, line_ref, number, rang_at)
      values ($1, $2, '+12125550199', world_now())
    `,
    [randomUUID(), randomUUID()],
  )
  // Nothing of what was for someone else alone has come in between.
  expect([await topic(mine), await topic(theirs)]).toEqual(['calls', 'calls'])
  await Promise.all([mine.close(), theirs.close()])
  await expect.poll(listens).toBe(0)
})

it('says when work is added to someone’s queue by someone else, once it is there', async () => {
  const { ids } = await addPeople(1, team.rep.id)
  const [mine, theirs] = await Promise.all([
    readStream(team.asRep, userChanges.path),
    readStream(team.asOther, userChanges.path),
  ])
  await Promise.all([mine.next(), theirs.next()])
  await expect.poll(listens).toBe(1)
  const planned = { id: randomUUID(), task: 'task' as const, title: 'Ask about the new line', dueAt: Date.now() }
  await team.asManager.ok(planTask, { params: { id: ids[0]! }, body: planned })
  expect(await topic(mine)).toBe('queue')
  // Open work goes along with its person: it leaves one queue and joins another.
  await team.asManager.ok(editProspect, {
    params: { id: ids[0]! },
    body: { version: 1, ownerId: team.other.id },
  })
  expect(await topic(theirs)).toBe('notifications')
  expect([await topic(mine), await topic(theirs)]).toEqual(['queue', 'queue'])
  await Promise.all([mine.close(), theirs.close()])
})

it('says when the state of a call changes, to the user who makes it', async () => {
  await freeze(MONDAY)
  const { ids } = await addPeople(1, team.rep.id)
  const mine = await readStream(team.asRep, userChanges.path)
  await mine.next()
  await expect.poll(listens).toBe(1)
  const made = await team.asRep.ok(dial, { body: { id: randomUUID(), prospectId: ids[0]! } })
  expect(made).toMatchObject({ uri: null, reported: true })
  expect(await topic(mine)).toBe('line')
  const { status } = await team.asRep.ok(callState, { params: { id: made.id } })
  expect(status).not.toBe('ringing')
  exchange.end((await rows<{ ref: string }>(sql`select line_ref as ref from calls where id = $1`, [made.id]))[0]!.ref)
  expect(await topic(mine)).toBe('line')
  expect(await team.asRep.ok(callState, { params: { id: made.id } })).toMatchObject({ status: 'ended' })
  await mine.close()
})

it('says which prospect has changed, by what happened to them and by an edit', async () => {
  const { ids } = await addPeople(1, team.rep.id)
  const theirs = await readStream(team.asOther, userChanges.path)
  await theirs.next()
  await expect.poll(listens).toBe(1)
  await team.asManager.ok(editProspect, { params: { id: ids[0]! }, body: { version: 1, title: 'Head of aging' } })
  expect(await topic(theirs, true)).toBe(`prospect ${ids[0]}`)
  const planned = { id: randomUUID(), task: 'task' as const, title: 'Look again', dueAt: Date.now() }
  await team.asRep.ok(planTask, { params: { id: ids[0]! }, body: planned })
  expect(await topic(theirs, true)).toBe(`prospect ${ids[0]}`)
  await theirs.close()
})
