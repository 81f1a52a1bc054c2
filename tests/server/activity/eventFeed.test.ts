import { randomUUID } from 'node:crypto'
import { expect, it } from 'vitest'
import { editCompany } from '../../../shared/api/companies'
import { readEvents } from '../../../shared/api/events/feed'
import { addNote, stopProspect } from '../../../shared/api/prospects'
import { db } from '../../../server/db/pool'
import { sql } from '../../../server/db/sql'
import { logEvent } from '../../../server/engine/eventLog'
import { addPeople } from '../../fixtures/people'
import { withTeam } from '../../fixtures/team'
import '../database'

const team = withTeam()

/** Everything from a position on, page by page. */
async function readOn(after: number, limit = 2) {
  const events: Awaited<ReturnType<typeof page>>['events'] = []
  const page = (from: number) => team.asManager.ok(readEvents, { query: { after: from, limit } })
  for (let next = after; ;) {
    const found = await page(next)
    events.push(...found.events)
    next = found.next
    if (found.events.length < limit) return { events, next }
  }
}

it('gives every event once, in order, with its subject and no text of anyone', async () => {
  const { ids, companyId } = await addPeople(1, team.rep.id)
  const { next } = await readOn(0)
  await team.asRep.ok(stopProspect, { params: { id: ids[0]! }, body: { id: randomUUID(), channel: 'call', on: true } })
  await team.asRep.ok(editCompany, { params: { id: companyId }, body: { version: 1, industry: 'Cheesemaking' } })
  await team.asRep.ok(addNote, { params: { id: ids[0]! }, body: { id: randomUUID(), body: 'Cheesemaking' } })
  const { events, next: end } = await readOn(next)
  expect(events.map(({ kind, subject, actorId }) => ({ kind, subject, actorId }))).toEqual([
    { kind: 'stopSet', subject: { type: 'prospect', id: ids[0] }, actorId: team.rep.id },
    { kind: 'companyEdited', subject: { type: 'company', id: companyId }, actorId: team.rep.id },
    { kind: 'noteAdded', subject: { type: 'prospect', id: ids[0] }, actorId: team.rep.id },
  ])
  expect(JSON.stringify(events)).not.toContain('Cheesemaking')
  expect((await team.asManager.ok(readEvents, { query: { after: end } })).events).toEqual([])
  expect((await team.asManager.ok(readEvents, { query: { after: next, kind: 'companyEdited' } })).events).toHaveLength(
    1,
  )
  await team.asRep.refused(readEvents, 403, {})
  await team.asManager.refused(readEvents, 400, { query: { kind: 'nothing' } })
})

it('waits for a transaction that has taken an earlier position and is not done', async () => {
  const { ids } = await addPeople(3, team.rep.id)
  const { next } = await readOn(0)
  const slow = await db().connect()
  const fast = await db().connect()
  const log = (client: typeof slow, prospectId: string) =>
    logEvent(client, { kind: 'listJoined', prospectId, actorId: null, payload: { listId: randomUUID() } })
  try {
    await slow.query(sql`begin`)
    const first = await log(slow, ids[0]!)
    await fast.query(sql`begin`)
    const second = await log(fast, ids[1]!)
    await fast.query(sql`commit`)
    // What is committed lies behind what is not: it waits, so that the reader passes nothing over.
    const early = await readOn(next)
    expect(early.events).toEqual([])
    const third = await log(slow, ids[2]!)
    await slow.query(sql`commit`)
    expect((await readOn(early.next)).events.map((event) => event.id)).toEqual([first, second, third])
  } finally {
    slow.release()
    fast.release()
  }
})
