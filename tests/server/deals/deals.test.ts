import { randomUUID } from 'node:crypto'
import { describe, expect, it } from 'vitest'
import { closeDeal, editDeal, findDeals, listDealStages, openDeal, saveDealStages } from '../../../shared/api/deals'
import { getCompany } from '../../../shared/api/companies'
import { getProspect } from '../../../shared/api/prospects'
import { prospectHistory, undo } from '../../../shared/api/events/history'
import { db } from '../../../server/db/pool'
import { addPeople, rows } from '../../fixtures/people'
import { withTeam } from '../../fixtures/team'
import { sql } from '../../../server/db/sql'

const team = withTeam()
const open = (prospectId: string, more: object = {}, id = randomUUID()) => ({
  params: { id: prospectId },
  body: { id, name: 'Loggers', value: 1250.5, stageId: 'meeting', ...more },
})

describe('a deal', () => {
  it('is opened with its stage’s likelihood; a second at the company only where that is said', async () => {
    const {
      ids: [one, two],
      companyId,
    } = await addPeople(2, team.rep.id)
    expect((await team.asRep.ok(openDeal, open(one!, { expectedClose: '2027-01-15' }))).summary).toContain(
      'Opens a deal.',
    )
    expect((await team.asRep.ok(getProspect, { params: { id: one! } })).deals).toMatchObject([
      {
        name: 'Loggers',
        status: 'open',
        value: 1250.5,
        likelihood: 15,
        stageId: 'meeting',
        expectedClose: '2027-01-15',
      },
    ])
    expect((await team.asRep.ok(getCompany, { params: { id: companyId } })).status).toBe('in_deal')
    const { problems } = await team.asRep.refused(openDeal, 422, open(two!))
    expect(problems).toMatchObject([{ field: 'another' }])
    await team.asRep.ok(openDeal, open(two!, { another: true }))
    expect(
      (await team.asRep.refused(openDeal, 400, open(two!, { stageId: 'nowhere', another: true }))).problems,
    ).toMatchObject([{ field: 'stageId' }])
    await team.asOther.refused(openDeal, 404, open(one!, { another: true }))
  })
  it('is changed, with what is known of it; a new stage brings its likelihood', async () => {
    const {
      ids: [id],
    } = await addPeople(1, team.rep.id)
    const deal = randomUUID()
    await team.asRep.ok(openDeal, open(id!, {}, deal))
    const { stages } = await team.asRep.ok(listDealStages)
    expect(stages.map((stage) => stage.likelihood)).toEqual([15, 40, 60, 80])
    await team.asRep.ok(editDeal, { params: { id: deal }, body: { stageId: 'proposal', value: 900 } })
    expect((await team.asRep.ok(getProspect, { params: { id: id! } })).deals).toMatchObject([
      { stageId: 'proposal', likelihood: 60, value: 900 },
    ])
    await team.asRep.ok(editDeal, { params: { id: deal }, body: { likelihood: 75, expectedClose: '2027-02-01' } })
    const { entries } = await team.asRep.ok(prospectHistory, { params: { id: id! } })
    expect(
      entries
        .filter((entry) => entry.kind === 'dealChanged')
        .flatMap((entry) => entry.changes.map((change) => change.summary))
        .join(),
    ).toContain('Likelihood: 60% → 75%. Expected close: none → Feb 1, 2027')
    await team.asRep.refused(editDeal, 400, { params: { id: deal }, body: { value: -1 } })
    await team.asOther.refused(editDeal, 404, { params: { id: deal }, body: { value: 1 } })
  })
  it('is won: the company is a customer and the prospect is in the won stage; undone, all is as before', async () => {
    const {
      ids: [id],
      companyId,
    } = await addPeople(1, team.rep.id)
    const [deal, won] = [randomUUID(), randomUUID()]
    await team.asRep.ok(openDeal, open(id!, {}, deal))
    expect(
      (await team.asRep.ok(closeDeal, { params: { id: deal }, body: { id: won, result: 'won', value: 2000 } })).summary,
    ).toContain('The deal is won.')
    expect(
      await rows(
        sql`
          select status, value::float8 as value, likelihood, closed_at is not null as closed
          from deals
          where id = $1
        `,
        [deal],
      ),
    ).toEqual([{ status: 'won', value: 2000, likelihood: 100, closed: true }])
    expect(
      await rows(
        sql`
          select c.status, p.stage_id
          from prospects p
            join companies c on c.id = p.company_id
          where p.id = $1
        `,
        [id],
      ),
    ).toEqual([{ status: 'customer', stage_id: 'customer' }])
    await team.asRep.refused(closeDeal, 422, { params: { id: deal }, body: { id: randomUUID(), result: 'won' } })
    await team.asRep.refused(editDeal, 422, { params: { id: deal }, body: { value: 1 } })
    await team.asRep.ok(undo, { params: { id: won }, body: { id: randomUUID() } })
    expect(await rows(sql`select status, value::float8 as value from deals where id = $1`, [deal])).toEqual([
      { status: 'open', value: 1250.5 },
    ])
    expect((await team.asRep.ok(getCompany, { params: { id: companyId } })).status).toBe('in_deal')
  })
  it('is lost with a reason, which the log does not hold; the company is open again', async () => {
    const {
      ids: [id],
      companyId,
    } = await addPeople(1, team.rep.id)
    const deal = randomUUID()
    await team.asRep.ok(openDeal, open(id!, {}, deal))
    expect(
      (await team.asRep.refused(closeDeal, 422, { params: { id: deal }, body: { id: randomUUID(), result: 'lost' } }))
        .problems,
    ).toMatchObject([{ field: 'reason' }])
    await team.asRep.ok(closeDeal, {
      params: { id: deal },
      body: { id: randomUUID(), result: 'lost', reason: 'their cousin Petra sells these' },
    })
    expect(await rows(sql`select status, close_reason from deals where id = $1`, [deal])).toEqual([
      { status: 'lost', close_reason: 'their cousin Petra sells these' },
    ])
    expect((await team.asRep.ok(getCompany, { params: { id: companyId } })).status).toBe('open')
    expect(await rows(sql`select count(*)::int as count from events where payload::text like '%cousin%'`)).toEqual([
      { count: 0 },
    ])
    expect(
      await rows(
        sql`
          select count(*)::int as count
          from effects
          where after::text like '%cousin%' or before::text like '%cousin%'
        `,
      ),
    ).toEqual([{ count: 0 }])
  })
})

describe('the stages of deals', () => {
  it('are renamed, ordered, added and deleted by managers; one that open deals are in stays', async () => {
    await db().query(sql`update deals set deal_stage_id = 'meeting' where deal_stage_id = 'proposal'`)
    const {
      ids: [id],
    } = await addPeople(1, team.rep.id)
    const deal = randomUUID()
    await team.asRep.ok(openDeal, open(id!, { stageId: 'proposal' }, deal))
    const { stages } = await team.asManager.ok(listDealStages)
    await team.asRep.refused(saveDealStages, 403, { body: { stages } })
    const { message } = await team.asManager.refused(saveDealStages, 422, {
      body: { stages: stages.filter((stage) => stage.id !== 'proposal') },
    })
    expect(message).toBe('1 open deal is in “Proposal”. Move it to another stage first')
    await team.asManager.refused(saveDealStages, 400, {
      body: { stages: [...stages, { id: null, name: 'proposal', likelihood: 1 }] },
    })
    await team.asManager.refused(saveDealStages, 400, {
      body: { stages: [...stages, { id: 'nowhere', name: 'Nowhere', likelihood: 1 }] },
    })
    const changed = [
      { id: null, name: 'Trial', likelihood: 30 },
      ...stages
        .toReversed()
        .map((stage) => (stage.id === 'proposal' ? { ...stage, name: 'Quote', likelihood: 65 } : stage)),
    ]
    const { stages: after } = await team.asManager.ok(saveDealStages, { body: { stages: changed } })
    expect(after.map(({ name, likelihood }) => [name, likelihood])).toEqual([
      ['Trial', 30],
      ['Negotiation', 80],
      ['Quote', 65],
      ['Qualified', 40],
      ['Meeting set', 15],
    ])
    // A deal that is closed is no reason to keep its stage on offer, and stays in it.
    await team.asRep.ok(closeDeal, {
      params: { id: deal },
      body: { id: randomUUID(), result: 'lost', reason: 'No budget' },
    })
    const { stages: less } = await team.asManager.ok(saveDealStages, {
      body: { stages: stages.filter((stage) => stage.id !== 'proposal') },
    })
    expect(less.map((stage) => stage.name)).toEqual(['Meeting set', 'Qualified', 'Negotiation'])
    expect(
      (await team.asRep.ok(findDeals, { body: { status: 'lost' } })).deals.find((one) => one.id === deal),
    ).toMatchObject({ stage: { name: 'Quote' } })
    await team.asManager.ok(saveDealStages, { body: { stages } })
  })
})

describe('the table of deals', () => {
  it('has those of people who fit a filter and are visible, in the order asked for, and their sum', async () => {
    const { ids } = await addPeople(3, team.rep.id, 'Table Cellar')
    for (const [index, id] of ids.entries()) {
      await team.asRep.ok(
        openDeal,
        open(id, { name: `Deal ${index}`, value: 100 * (index + 1), likelihood: 50, another: true }),
      )
    }
    const asked = { filter: 'company is "Table Cellar"', sort: 'value' as const, down: true }
    const found = await team.asRep.ok(findDeals, { body: asked })
    expect(found.deals.map((deal) => deal.name)).toEqual(['Deal 2', 'Deal 1', 'Deal 0'])
    expect(found).toMatchObject({ count: 3, value: 600, weighted: 300 })
    expect(await team.asOther.ok(findDeals, { body: asked })).toMatchObject({ count: 0, deals: [] })
    expect(await team.asRep.ok(findDeals, { body: { ...asked, status: 'lost' } })).toMatchObject({ count: 0 })
    expect(
      (await team.asRep.ok(findDeals, { body: { ...asked, limit: 1, after: 1 } })).deals.map((deal) => deal.name),
    ).toEqual(['Deal 1'])
    await team.asRep.refused(findDeals, 400, { body: { filter: 'nonsense is 3' } })
  })
})
