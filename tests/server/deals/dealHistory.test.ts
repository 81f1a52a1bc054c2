import { randomUUID } from 'node:crypto'
import { describe, expect, it } from 'vitest'
import { closeDeal, editDeal, openDeal } from '../../../shared/api/deals'
import { readEvents } from '../../../shared/api/events/feed'
import { dealHistory, undo } from '../../../shared/api/events/history'
import { getProspect } from '../../../shared/api/prospects'
import { addField } from '../../../shared/api/settings/fields'
import { addOutcome } from '../../../shared/api/settings/outcomes'
import { logOutcome } from '../../../shared/api/desk/desk'
import { addPeople, rows } from '../../fixtures/people'
import { withTeam } from '../../fixtures/team'
import { sql } from '../../../server/db/sql'

const team = withTeam()
const params = (id: string) => ({ params: { id } })
const historyOf = async (dealId: string, as = team.asRep) => (await as.ok(dealHistory, params(dealId))).entries

describe('the history of a deal', () => {
  it('says what was opened, changed and closed, by whom, from what to what; a change is undone from it', async () => {
    const [id] = (await addPeople(1, team.rep.id)).ids as [string]
    const dealId = randomUUID()
    const given = { name: 'Loggers', value: 1250.5, stageId: 'meeting', expectedClose: '2027-01-15' }
    await team.asRep.ok(openDeal, { ...params(id), body: { id: dealId, ...given } })
    const { id: fieldId } = await team.asManager.ok(addField, {
      body: { of: 'deal', name: 'Sites', kind: 'number', choices: [] },
    })
    await team.asRep.ok(editDeal, { ...params(dealId), body: { value: 3000, likelihood: 40 } })
    await team.asManager.ok(editDeal, { ...params(dealId), body: { custom: { [fieldId]: 3 } } })
    const body = { id: randomUUID(), result: 'lost' as const, reason: 'Bought elsewhere' }
    await team.asManager.ok(closeDeal, { ...params(dealId), body })
    const entries = await historyOf(dealId)
    expect(entries.map(({ title, by, body: said, canUndo }) => [title, by, said, canUndo])).toEqual([
      ['Deal closed', 'Maren Holloway', 'Deal lost\nReason: Bought elsewhere', false],
      ['Deal edited', 'Maren Holloway', 'Sites: none → 3', false],
      ['Deal changed', 'Imani Osei', 'Value: $1,250.50 → $3,000. Likelihood: 15% → 40%', true],
      [
        'Deal opened',
        'Imani Osei',
        'Value: $1,250.50. Stage: Meeting set. Likelihood: 15%. Expected close: Jan 15, 2027',
        true,
      ],
    ])
    // A manager takes back what anyone did.
    expect((await historyOf(dealId, team.asManager))[0]).toMatchObject({ canUndo: true })
    await team.asManager.ok(undo, { ...params(body.id), body: { id: randomUUID() } })
    expect((await team.asRep.ok(getProspect, params(id))).deals).toMatchObject([{ status: 'open', value: 3000 }])
    expect((await historyOf(dealId))[1]).toMatchObject({ title: 'Deal closed', undone: true })
    // The log itself holds neither the name, nor the reason, nor what custom fields hold.
    const logged = await rows(sql`select payload from events where deal_id = $1`, [dealId])
    expect(JSON.stringify(logged)).not.toMatch(/Loggers|elsewhere/)
    await team.asOther.refused(dealHistory, 404, params(dealId))
    await team.asRep.refused(dealHistory, 404, params(randomUUID()))
  })
  it('holds what outcomes do; programs read to which deal an event happened', async () => {
    const [id] = (await addPeople(1, team.rep.id)).ids as [string]
    const actions = [{ type: 'openDeal' as const, likelihood: 25 }]
    const outcome = await team.asManager.ok(addOutcome, {
      body: { name: 'Wants an offer', countsAs: 'conversation', requiredInputs: [], reasons: [], actions },
    })
    await team.asRep.ok(logOutcome, { ...params(id), body: { id: randomUUID(), outcomeId: outcome.id } })
    const [deal] = (await team.asRep.ok(getProspect, params(id))).deals
    const [entry] = await historyOf(deal!.id)
    expect(entry).toMatchObject({ by: 'Imani Osei', canUndo: false })
    expect(entry!.body).toContain('Likelihood: 25%')
    await team.asRep.ok(editDeal, { ...params(deal!.id), body: { likelihood: 60 } })
    const { events } = await team.asManager.ok(readEvents, { query: { kind: 'dealChanged', limit: 1000 } })
    expect(events.at(-1)).toMatchObject({ subject: { type: 'deal', id: deal!.id } })
  })
})
