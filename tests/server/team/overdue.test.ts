import { randomUUID } from 'node:crypto'
import { beforeEach, describe, expect, it } from 'vitest'
import { deactivateUser } from '../../../shared/api/accounts'
import { previewBulk, startBulk } from '../../../shared/api/bulk'
import { queue } from '../../../shared/api/desk/queue'
import { editProspect, getProspect } from '../../../shared/api/prospects'
import { editTeam, getTeam } from '../../../shared/api/settings/settings'
import { db } from '../../../server/db/pool'
import { sql } from '../../../server/db/sql'
import { addPeople, addUser, freeze, MONDAY, rows } from '../../fixtures/people'
import { withTeam } from '../../fixtures/team'

const DAY = 86_400_000
const team = withTeam()
beforeEach(() => freeze(MONDAY))

/** Calls that were due days ago, of people of the rep; `reached` of them were spoken to before. */
async function leaveOverdue(count: number, reached = 0): Promise<string[]> {
  await db().query(sql`update tasks set status = 'done', done_at = world_now() where status = 'open'`)
  const { ids } = await addPeople(count, team.rep.id)
  await db().query(
    sql`
      insert into tasks (id, prospect_id, owner_id, kind, priority, title, due_at, status, time_zone)
      select gen_random_uuid(), id, $2, 'call', 2, 'Call', from_ms($3), 'open', 'America/New_York'
      from unnest($1::uuid[]) as u(id)
    `,
    [ids, team.rep.id, MONDAY - 3 * DAY],
  )
  await db().query(sql`update prospects set conversations = 1 where id = any($1::uuid[])`, [
    reached ? ids.slice(-reached) : [],
  ])
  return ids
}
const allow = async (mostOverdue: number | null) => {
  const settings = await team.asManager.ok(getTeam)
  await team.asManager.ok(editTeam, { body: { ...settings, mostOverdue } })
}

describe('a rep with much overdue', () => {
  it('finds first who was spoken to before, then who was never reached', async () => {
    await allow(3)
    const ids = await leaveOverdue(4, 2)
    const { items, counts, overdue } = await team.asRep.ok(queue)
    expect(counts).toMatchObject({ overdue_reached: 2, overdue: 2 })
    expect(items.map(({ group }) => group)).toEqual(['overdue_reached', 'overdue_reached', 'overdue', 'overdue'])
    expect(
      items
        .slice(0, 2)
        .map(({ prospectId }) => prospectId)
        .sort(),
    ).toEqual(ids.slice(2).sort())
    expect(overdue).toEqual({ count: 4, most: 3 })
  })
  it('gets nobody new, by hand or in turn, and who assigns reads what to do', async () => {
    await allow(3)
    await leaveOverdue(4)
    const { ids } = await addPeople(2, null)
    const action = { type: 'assign' as const, to: [team.rep.id, team.other.id] }
    for (const endpoint of [previewBulk, startBulk]) {
      const { problems } = await team.asManager.refused(endpoint, 422, {
        body: { id: randomUUID(), action, prospectIds: ids },
      })
      expect(problems).toMatchObject([{ field: 'action.to' }])
    }
    const { version } = await team.asManager.ok(getProspect, { params: { id: ids[0]! } })
    const { problems } = await team.asManager.refused(editProspect, 422, {
      params: { id: ids[0]! },
      body: { version, ownerId: team.rep.id },
    })
    expect(problems.map(({ field }) => field)).toEqual(['ownerId'])
    // They may take someone up themselves, and what they have is theirs to edit.
    await team.asRep.ok(editProspect, { params: { id: ids[0]! }, body: { version, ownerId: team.rep.id } })
    await team.asManager.ok(editProspect, { params: { id: ids[1]! }, body: { version: 1, ownerId: team.other.id } })
  })
  it('gets new people again once they are dealt with, and where the team sets no limit', async () => {
    await allow(3)
    await leaveOverdue(3)
    const { ids } = await addPeople(1, null)
    const body = { action: { type: 'assign' as const, to: [team.rep.id] }, prospectIds: ids }
    expect((await team.asManager.ok(previewBulk, { body })).touches).toBe(1)
    expect((await team.asRep.ok(queue)).overdue).toBeNull()
    await leaveOverdue(9)
    await team.asManager.refused(previewBulk, 422, { body })
    await allow(null)
    expect((await team.asManager.ok(previewBulk, { body })).touches).toBe(1)
  })
  it('takes over what a user had who leaves, for that cannot wait', async () => {
    await allow(1)
    await leaveOverdue(3)
    const leaver = await addUser('rep', 'Leaving Soon')
    const { ids } = await addPeople(1, leaver.id)
    const { handedOver } = await team.asManager.ok(deactivateUser, {
      params: { id: leaver.id },
      body: { id: randomUUID(), handOverTo: team.rep.id },
    })
    expect(handedOver).toBe(1)
    expect(await rows(sql`select owner_id from prospects where id = $1`, [ids[0]])).toHaveLength(1)
  })
})
