import { randomUUID } from 'node:crypto'
import { beforeEach, describe, expect, it } from 'vitest'
import { addBlock, closeBlock } from '../../../shared/api/blocks/blocks'
import { blockChanges, skipInBlock, workBlock } from '../../../shared/api/blocks/work'
import { logOutcome } from '../../../shared/api/desk/desk'
import { db } from '../../../server/db/pool'
import { sql } from '../../../server/db/sql'
import { addPeople, freeze, MONDAY, outcomeId, rows } from '../../fixtures/people'
import { readStream } from '../../fixtures/caller'
import { withTeam } from '../../fixtures/team'

const team = withTeam()
beforeEach(() => freeze(MONDAY))

async function block() {
  const { ids } = await addPeople(3, team.rep.id)
  const id = randomUUID()
  await team.asManager.ok(addBlock, {
    body: { id, name: 'Cold rooms', callerIds: [team.rep.id], who: { prospectIds: ids } },
  })
  return { id, ids }
}
/** Looks at a block as the manager does: `next` waits for the next word of a change. */
const look = (id: string) => readStream(team.asManager, blockChanges.path.replace('{id}', id))
/** How many connections of this process listen to the database. */
const listeners = async () =>
  (
    await rows<{ pid: number }>(
      sql`select pid from pg_stat_activity where datname = current_database() and query like 'listen %'`,
    )
  ).map(({ pid }) => pid)

describe('who looks at a block', () => {
  it('gets an event for each change of it, and for no other', async () => {
    const { id, ids } = await block()
    const other = await block()
    const seen = await look(id)
    expect(seen.type).toBe('text/event-stream')
    expect(await seen.next()).toBe('data: 0')
    await expect.poll(listeners).toHaveLength(1)
    await team.asRep.ok(workBlock, { params: { id }, body: {} })
    const body = { id: randomUUID(), outcomeId: await outcomeId('No answer'), blockId: id }
    await team.asManager.ok(closeBlock, { params: { id: other.id }, body: { closed: true } })
    await team.asRep.ok(logOutcome, { params: { id: ids[0]! }, body })
    expect(await seen.next()).toBe('data: 1')
    await team.asRep.ok(skipInBlock, { params: { id }, body: { prospectId: ids[1]!, why: 'On leave' } })
    expect(await seen.next()).toBe('data: 2')
    // What is refused changes nothing.
    await team.asRep.refused(logOutcome, 409, { params: { id: ids[0]! }, body })
    await team.asManager.ok(closeBlock, { params: { id }, body: { closed: true } })
    expect(await seen.next()).toBe('data: 3')
    await seen.close()
    await expect.poll(listeners).toEqual([])
    await team.asOther.refused(blockChanges, 404, { params: { id } })
  })

  it('gets one once the database was lost and is back', async () => {
    const { id } = await block()
    const seen = await look(id)
    expect(await seen.next()).toBe('data: 0')
    await expect.poll(listeners).toHaveLength(1)
    const [pid] = await listeners()
    await db().query(sql`select pg_terminate_backend($1)`, [pid])
    expect(await seen.next()).toBe('data: 1')
    await team.asManager.ok(closeBlock, { params: { id }, body: { closed: true } })
    expect(await seen.next()).toBe('data: 2')
    await seen.close()
    await expect.poll(listeners).toEqual([])
  })
})
