import { randomUUID } from 'node:crypto'
import { describe, expect, it } from 'vitest'
import { getBulk, previewBulk, startBulk } from '../../../shared/api/bulk'
import { db } from '../../../server/db/pool'
import { runBulk } from '../../../server/services/bulk/runBulk'
import { addPeople, rows } from '../../fixtures/people'
import { withTeam } from '../../fixtures/team'
import { sql } from '../../../server/db/sql'

const team = withTeam()

describe('a bulk action', () => {
  it('assigns in turn with companies kept together, and says before how many each gets', async () => {
    const firms = await Promise.all(Array.from({ length: 6 }, () => addPeople(2, null, 'Turn Cellar')))
    const ids = firms.flatMap((firm) => firm.ids)
    const action = { type: 'assign' as const, to: [team.rep.id, team.other.id] }
    const { shares } = await team.asManager.ok(previewBulk, { body: { action, prospectIds: ids } })
    expect(shares.map((share) => [share.id, share.people])).toEqual([
      [team.rep.id, 6],
      [team.other.id, 6],
    ])
    const id = randomUUID()
    await team.asManager.ok(startBulk, { body: { id, action, prospectIds: ids } })
    await runBulk(id)
    const after = await rows<{ company_id: string; owner_id: string }>(
      sql`select distinct company_id, owner_id from prospects where id = any($1::uuid[])`,
      [ids],
    )
    expect(after).toHaveLength(6)
    expect([team.rep.id, team.other.id].map((id) => after.filter((row) => row.owner_id === id).length)).toEqual([3, 3])
  })
  it('sends no email that lacks a value, and says whose', async () => {
    const {
      ids: [full, bare],
    } = await addPeople(2, team.rep.id)
    await db().query(sql`update prospects set title = 'Owner' where id = $1`, [full])
    const action = {
      type: 'email' as const,
      subject: 'For {{ title }}',
      body: 'Hello {{ first_name }}',
      kind: 'marketing' as const,
      sendAt: null,
    }
    const asked = { action, prospectIds: [full!, bare!] }
    expect(await team.asRep.ok(previewBulk, { body: asked })).toMatchObject({
      touches: 1,
      leftOut: [{ reason: 'lacks job title', count: 1 }],
    })
    const id = randomUUID()
    await team.asRep.ok(startBulk, { body: { id, ...asked } })
    await runBulk(id)
    expect(await team.asRep.ok(getBulk, { params: { id } })).toMatchObject({
      done: 1,
      leftOut: [{ reason: 'lacks job title', people: [{ id: bare }] }],
    })
    expect(
      await rows(sql`select prospect_id from email_messages where prospect_id = any($1::uuid[])`, [[full, bare]]),
    ).toEqual([{ prospect_id: full }])
  })
  it('changes the stage through its gate, and leaves out whom it holds back, with the reason', async () => {
    const { ids } = await addPeople(2, team.rep.id)
    const action = { type: 'stage' as const, to: 'lost', reason: null, override: null }
    const held = await team.asRep.ok(previewBulk, { body: { action, prospectIds: ids } })
    expect(held).toMatchObject({ touches: 0, leftOut: [{ reason: 'Lost requires a reason', count: 2 }] })
    const id = randomUUID()
    await team.asRep.ok(startBulk, { body: { id, action: { ...action, reason: 'no budget' }, prospectIds: ids } })
    await runBulk(id)
    expect(await rows(sql`select distinct stage_id from prospects where id = any($1::uuid[])`, [ids])).toEqual([
      { stage_id: 'lost' },
    ])
    await team.asRep.refused(startBulk, 403, {
      body: { id: randomUUID(), action: { ...action, override: 'because' }, prospectIds: ids },
    })
    await team.asRep.refused(previewBulk, 400, { body: { action: { ...action, to: 'nowhere' }, prospectIds: ids } })
  })
})
