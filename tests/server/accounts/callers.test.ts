import { randomUUID } from 'node:crypto'
import { beforeAll, beforeEach, describe, expect, it } from 'vitest'
import { addBlock, closeBlock, listBlocks } from '../../../shared/api/blocks/blocks'
import { workBlock } from '../../../shared/api/blocks/work'
import { startBulk } from '../../../shared/api/bulk'
import { brief, dial, finishTask, logOutcome, sayWhen } from '../../../shared/api/desk/desk'
import { queue } from '../../../shared/api/desk/queue'
import { ENDPOINTS } from '../../../shared/endpoints'
import { editProspect } from '../../../shared/api/prospects'
import { undo } from '../../../shared/api/events/history'
import { sql } from '../../../server/db/sql'
import type { Viewer } from '../../../server/services/access/viewer'
import { runBulk } from '../../../server/services/bulk/runBulk'
import { caller, type Caller } from '../../fixtures/caller'
import { addPeople, addUser, freeze, MONDAY, outcomeId, rows } from '../../fixtures/people'
import { withTeam } from '../../fixtures/team'

const team = withTeam()
let nell: Viewer
let asNell: Caller
beforeAll(async () => {
  nell = await addUser('caller', 'Nell Harrow')
  asNell = await caller(team.url, nell)
})
beforeEach(() => freeze(MONDAY))

async function block(callerIds: string[]) {
  const { ids } = await addPeople(2, team.rep.id)
  const { id } = await team.asManager.ok(addBlock, {
    body: { id: randomUUID(), name: 'Monday', callerIds, script: 'Hello', who: { prospectIds: ids } },
  })
  return { id, ids: ids as [string, string] }
}

describe('a caller', () => {
  it('is refused everything that is not about their calls, whatever is asked', async () => {
    const id = randomUUID()
    const params = Object.fromEntries(
      ['id', 'stage', 'name', 'phone', 'email', 'note', 'link', 'batch'].map((name) => [name, id]),
    )
    const others = Object.values(ENDPOINTS).filter(({ access, callers }) => access !== 'anyone' && !callers)
    expect(others.length).toBeGreaterThan(120)
    for (const endpoint of others) {
      const { code } = await asNell.refused(endpoint, 403, { params, body: {}, query: {} })
      expect(code).toBe('not_allowed')
    }
    // What they may call is a short list, kept in sight.
    expect(
      Object.values(ENDPOINTS)
        .filter(({ callers }) => callers)
        .map(({ method, path }) => `${method} ${path}`)
        .sort(),
    ).toMatchInlineSnapshot(`
      [
        "delete /api/account/sessions/{id}",
        "delete /api/session",
        "delete /api/session/others",
        "delete /api/voicemail-messages/{id}",
        "get /api/account",
        "get /api/call-blocks",
        "get /api/call-blocks/{id}/changes",
        "get /api/calls/{id}",
        "get /api/calls/{id}/recording",
        "get /api/changes",
        "get /api/desk/choices",
        "get /api/desk/day",
        "get /api/desk/queue",
        "get /api/fields",
        "get /api/incoming-calls",
        "get /api/notifications",
        "get /api/prospects/{id}/best-time",
        "get /api/prospects/{id}/brief",
        "get /api/voicemail-messages",
        "get /api/voicemail-messages/{id}",
        "patch /api/account",
        "patch /api/prospects/{id}",
        "patch /api/voicemail-messages/{id}",
        "post /api/account/password",
        "post /api/account/second-factor",
        "post /api/account/second-factor/remove",
        "post /api/call-blocks/{id}/lines",
        "post /api/call-blocks/{id}/pass",
        "post /api/call-blocks/{id}/skip",
        "post /api/call-blocks/{id}/work",
        "post /api/calls",
        "post /api/calls/{id}/hang-up",
        "post /api/calls/{id}/stop-recording",
        "post /api/calls/{id}/voicemail",
        "post /api/events/{id}/undo",
        "post /api/incoming-calls/{id}/answer",
        "post /api/incoming-calls/{id}/hang-up",
        "post /api/incoming-calls/{id}/seen",
        "post /api/meetings/{id}/result",
        "post /api/notifications/read",
        "post /api/prospects/{id}/outcomes",
        "post /api/tasks/{id}/done",
        "post /api/voicemail-messages",
        "post /api/when",
        "put /api/account/second-factor",
      ]
    `)
  })

  it('sees whom they are given to call, in open blocks and by to-dos, and nobody else', async () => {
    const mine = await block([nell.id])
    const others = await block([team.rep.id])
    const unowned = (await addPeople(1, null)).ids[0]!
    const briefOf = (id: string) => ({ params: { id } })
    await asNell.ok(brief, briefOf(mine.ids[0]))
    for (const id of [others.ids[0], unowned]) {
      await asNell.refused(brief, 404, briefOf(id))
      await asNell.refused(dial, 404, { body: { id: randomUUID(), prospectId: id, phoneId: null } })
      await asNell.refused(sayWhen, 404, { body: { kind: 'call', prospectId: id, timeZone: 'UTC', text: 'mon 9' } })
      const outcome = { id: randomUUID(), outcomeId: await outcomeId('No answer') }
      await asNell.refused(logOutcome, 404, { params: { id }, body: outcome })
      // Not by naming a block of theirs with someone who is not in it, either.
      await asNell.refused(logOutcome, 409, { params: { id }, body: { ...outcome, blockId: mine.id } })
      await asNell.refused(editProspect, 404, { params: { id }, body: { version: 1, title: 'Buyer' } })
    }
    expect((await asNell.ok(listBlocks, { query: {} })).blocks.map(({ id }) => id)).toEqual([mine.id])
    await asNell.refused(workBlock, 404, { params: { id: others.id }, body: {} })
    await team.asManager.ok(closeBlock, { params: { id: mine.id }, body: { closed: true } })
    await asNell.refused(brief, 404, briefOf(mine.ids[0]))
  })

  it('logs calls and does to-dos, takes their own back, and fills in what a gate asks', async () => {
    const { id: blockId, ids } = await block([nell.id])
    const { items } = await asNell.ok(workBlock, { params: { id: blockId }, body: {} })
    expect(items.map(({ prospectId }) => prospectId).sort()).toEqual([...ids].sort())
    const called = randomUUID()
    const outcome = { id: called, outcomeId: await outcomeId('No answer'), blockId }
    await asNell.ok(logOutcome, { params: { id: ids[0] }, body: outcome })
    await asNell.ok(undo, { params: { id: called }, body: { id: randomUUID() } })

    const planned = (await addPeople(1, team.rep.id)).ids[0]!
    const plan = { type: 'plan' as const, task: 'call' as const, title: 'Confirm', dueAt: MONDAY, ownerId: nell.id }
    const bulkId = randomUUID()
    const email = { ...plan, task: 'email' as const }
    await team.asManager.refused(startBulk, 400, { body: { id: bulkId, action: email, prospectIds: [planned] } })
    await team.asManager.ok(startBulk, { body: { id: bulkId, action: plan, prospectIds: [planned] } })
    await runBulk(bulkId)
    const [item] = (await asNell.ok(queue, { query: {} })).items
    expect(item).toMatchObject({ prospectId: planned, kind: 'call' })
    const { version } = (
      await rows<{ version: number }>(sql`select version from prospects where id = $1`, [planned])
    )[0]!
    const params = { id: planned }
    await asNell.refused(editProspect, 403, { params, body: { version, ownerId: nell.id } })
    await asNell.refused(editProspect, 403, { params, body: { version, status: 'archived', reason: 'x' } })
    await asNell.ok(editProspect, { params, body: { version, title: 'Cellar master' } })
    const done = randomUUID()
    await asNell.ok(finishTask, { params: { id: item!.taskId! }, body: { id: done } })
    await asNell.refused(brief, 404, { params })
    await asNell.ok(undo, { params: { id: done }, body: { id: randomUUID() } })
    await asNell.ok(brief, { params })
    // What a rep did is not theirs to undo.
    const byRep = randomUUID()
    await team.asRep.ok(logOutcome, { params, body: { id: byRep, outcomeId: await outcomeId('No answer') } })
    await asNell.refused(undo, 404, { params: { id: byRep }, body: { id: randomUUID() } })
  })
})
