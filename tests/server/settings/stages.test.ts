import { randomUUID } from 'node:crypto'
import { describe, expect, it } from 'vitest'
import { addProspect, moveProspect } from '../../../shared/api/prospects'
import { addStage, archiveStage, editStage, orderStages, stages } from '../../../shared/api/settings/stages'
import { runBulk } from '../../../server/services/bulk/runBulk'
import { addPeople, rows } from '../../fixtures/people'
import { withTeam } from '../../fixtures/team'
import { sql } from '../../../server/db/sql'

const team = withTeam()
const names = async () =>
  (await team.asManager.ok(stages)).stages.filter((stage) => !stage.archived).map((stage) => stage.name)

describe('stages', () => {
  it('are added, renamed, given another kind and put in order, by a manager alone', async () => {
    const { id } = await team.asManager.ok(addStage, { body: { name: 'Trial', kind: 'open' } })
    expect((await names()).at(-1)).toBe('Trial')
    await team.asManager.refused(addStage, 409, { body: { name: ' trial ', kind: 'open' } })
    await team.asRep.refused(addStage, 403, { body: { name: 'Mine', kind: 'open' } })
    const ids = (await team.asManager.ok(stages)).stages.map((stage) => stage.id)
    await team.asManager.ok(orderStages, { body: { ids: [ids[0]!, id, ...ids.slice(1, -1)] } })
    expect((await names())[1]).toBe('Trial')
    await team.asManager.refused(orderStages, 409, { body: { ids: ids.slice(1) } })
    await team.asManager.ok(editStage, {
      params: { stage: id },
      body: { name: 'Pilot', kind: 'paused', gate: { note: true } },
    })
    expect((await team.asManager.ok(stages)).stages.find((stage) => stage.id === id)).toMatchObject({
      name: 'Pilot',
      kind: 'paused',
      gate: { note: true },
      people: 0,
    })
  })
  it('are archived: prospects move to the stage chosen, no new ones come, and it can be restored', async () => {
    const { id } = await team.asManager.ok(addStage, { body: { name: 'Paper trial', kind: 'open' } })
    const { ids } = await addPeople(3, team.rep.id)
    for (const person of ids) {
      await team.asRep.ok(moveProspect, { params: { id: person }, body: { id: randomUUID(), to: id } })
    }
    expect((await team.asManager.ok(stages)).stages.find((stage) => stage.id === id)).toMatchObject({ people: 3 })
    const { bulkId, moved } = await team.asManager.ok(archiveStage, {
      params: { stage: id },
      body: { moveTo: 'nurture' },
    })
    expect(moved).toBe(3)
    await runBulk(bulkId!)
    expect(await rows(sql`select distinct stage_id from prospects where id = any($1::uuid[])`, [ids])).toEqual([
      { stage_id: 'nurture' },
    ])
    expect(
      (await team.asRep.refused(moveProspect, 422, { params: { id: ids[0]! }, body: { id: randomUUID(), to: id } }))
        .problems,
    ).toMatchObject([{ field: 'stage' }])
    await team.asManager.ok(editStage, { params: { stage: id }, body: { archived: false } })
    expect(await names()).toContain('Paper trial')
  })
  it('are put in their place as they are added, and limited in where one comes from', async () => {
    const add = (body: object) => ({ body: { name: `Stage ${randomUUID()}`, kind: 'open' as const, ...body } })
    const order = async () => (await team.asManager.ok(stages)).stages.map((stage) => stage.id)
    const { id: second } = await team.asManager.ok(addStage, add({ after: 'new' }))
    const { id: first } = await team.asManager.ok(addStage, add({ after: null }))
    const [one, two, three] = await order()
    expect([one, two, three]).toEqual([first, 'new', second])
    await team.asManager.refused(addStage, 404, add({ after: randomUUID() }))
    const refused = [[randomUUID()], [second]]
    for (const from of refused) {
      const answer = await team.asManager.refused(editStage, 400, {
        params: { stage: second },
        body: { gate: { from } },
      })
      expect(answer.problems).toMatchObject([{ field: 'gate.from' }])
    }
    const { id: third } = await team.asManager.ok(addStage, add({ gate: { from: [second] } }))
    await team.asManager.ok(editStage, { params: { stage: second }, body: { gate: { from: [third] } } })
    const faults = (await team.asManager.ok(stages)).stages.flatMap(({ id, fault }) => (fault ? [id] : []))
    expect(faults.sort()).toEqual([second, third].sort())
    const { ids } = await addPeople(1, team.rep.id)
    const to = { params: { id: ids[0]! }, body: { id: randomUUID(), to: second } }
    expect((await team.asRep.refused(moveProspect, 422, to)).problems).toMatchObject([{ field: 'stage' }])
    await team.asManager.ok(moveProspect, { ...to, body: { ...to.body, override: 'A trial' } })
    for (const stage of [first, second, third]) {
      if (stage !== second) await team.asManager.ok(archiveStage, { params: { stage }, body: {} })
    }
    // The stage that alone led here is archived: nothing is limited any more.
    expect((await team.asManager.ok(stages)).stages.find(({ id }) => id === second)).toMatchObject({
      gate: { from: [] },
      fault: null,
    })
  })
  it('that outcomes still lead to cannot be archived, nor the last one in work', async () => {
    expect(
      (await team.asManager.refused(archiveStage, 422, { params: { stage: 'lost' }, body: {} })).message,
    ).toContain('the outcome “Not interested”')
    for (const stage of (await team.asManager.ok(stages)).stages.filter(
      (one) => one.kind === 'open' && one.id !== 'new',
    )) {
      await team.asManager.ok(editStage, { params: { stage: stage.id }, body: { kind: 'paused' } })
    }
    await team.asManager.refused(editStage, 422, { params: { stage: 'new' }, body: { kind: 'closed' } })
    // New people stand in the first stage in work, wherever that is.
    const { id } = await team.asRep.ok(addProspect, {
      body: { name: 'Una New', phone: '(607) 555-0131', country: 'US' },
    })
    expect(await rows(sql`select stage_id from prospects where id = $1`, [id])).toEqual([{ stage_id: 'new' }])
  })
})
