import { randomUUID } from 'node:crypto'
import { expect, it } from 'vitest'
import { readEvents } from '../../../shared/api/events/feed'
import { listHistory } from '../../../shared/api/events/history'
import { addList, editList, removeList } from '../../../shared/api/lists'
import { rows } from '../../fixtures/people'
import { withTeam } from '../../fixtures/team'
import { sql } from '../../../server/db/sql'

const team = withTeam()
const params = (id: string) => ({ params: { id } })

it('says how a list was added, edited and deleted, by whom, from what to what, to those who see it', async () => {
  const filter = 'job title contains "plant"'
  const { id } = await team.asManager.ok(addList, { body: { name: 'Plant managers', kind: 'live', filter } })
  const own = await team.asRep.ok(addList, { body: { name: 'My own', kind: 'live', filter } })
  await team.asOther.refused(listHistory, 404, params(own.id))
  const edit = { version: 1, name: 'Plants', filter: 'job title contains "plant" and attempts is at least 3' }
  const touchGoal = { touchEvery: { amount: 2, unit: 'weeks' as const }, touchKinds: ['call' as const] }
  const { version } = await team.asAdmin.ok(editList, { ...params(id), body: { ...edit, ...touchGoal } })
  // What is the same as before is no change.
  await team.asManager.ok(editList, { ...params(id), body: { version, name: 'Plants' } })
  const shown = (await team.asRep.ok(listHistory, params(id))).entries
  expect(shown.map(({ title, by, canUndo }) => [title, by, canUndo])).toEqual([
    ['List edited', 'Ada Quill', false],
    ['List added', 'Maren Holloway', false],
  ])
  expect(shown[0]!.body!.split('\n').sort()).toEqual([
    'Filter: job title contains "plant" → job title contains "plant" and attempts is at least 3',
    'Name: Plant managers → Plants',
    'Touch goal: none → every 2 weeks, by call',
  ])
  expect(shown[1]!.body).toBe(
    'Name: Plant managers\nFilter: job title contains "plant"\nVisible to: everyone\nDefault view: people',
  )
  await team.asAdmin.ok(removeList, params(id))
  const { events } = await team.asManager.ok(readEvents, { query: { kind: 'listDeleted' } })
  expect(events).toMatchObject([{ subject: { type: 'list', id }, actorId: team.admin.id, payload: {} }])
  // The log itself holds neither names nor filters.
  expect(JSON.stringify(await rows(sql`select payload from events where list_id = $1`, [id]))).not.toMatch(/[Pp]lant/)
  await team.asRep.refused(listHistory, 404, params(randomUUID()))
})
