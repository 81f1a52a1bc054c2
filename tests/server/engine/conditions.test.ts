import { randomUUID } from 'node:crypto'
import { beforeEach, describe, expect, it } from 'vitest'
import type { Action } from '../../../core/actions/registry'
import { breadthOfEvent } from '../../../core/engine/breadth'
import { factsNow } from '../../../core/engine/state/facts'
import type { Filter } from '../../../core/filter/filter'
import { brief, logOutcome } from '../../../shared/api/desk/desk'
import { addList } from '../../../shared/api/lists'
import { getProspect } from '../../../shared/api/prospects'
import { prospectHistory } from '../../../shared/api/events/history'
import { addTag, removeTag, setTags } from '../../../shared/api/settings/fields'
import { addOutcome, listOutcomes } from '../../../shared/api/settings/outcomes'
import { db } from '../../../server/db/pool'
import { takeDueActions } from '../../../server/engine/dueSteps'
import { withFacts } from '../../../server/engine/facts'
import { load } from '../../../server/engine/load'
import { currentPlaybook } from '../../../server/engine/playbook'
import { recordEvents } from '../../../server/engine/recordEvents'
import { addPeople, freeze, MONDAY, rows } from '../../fixtures/people'
import { withTeam } from '../../fixtures/team'
import { sql } from '../../../server/db/sql'

const team = withTeam()
beforeEach(() => freeze(MONDAY))

const is = (field: string, ...values: string[]): Filter => ({ all: [{ field, test: { op: 'anyOf', values } }] })
const has = (field: string, ...values: string[]): Filter => ({ all: [{ field, test: { op: 'hasAny', values } }] })
const newTag = async () => {
  const name = `Tag ${randomUUID()}`
  return { name, ...(await team.asManager.ok(addTag, { body: { name } })) }
}
const outcomeWith = async (actions: Action[]) => {
  const body = { name: `Outcome ${randomUUID()}`, countsAs: 'attempt' as const, requiredInputs: [], reasons: [] }
  return (await team.asManager.ok(addOutcome, { body: { ...body, actions } })).id
}
const log = (id: string, outcomeId: string) =>
  team.asRep.ok(logOutcome, { params: { id }, body: { id: randomUUID(), outcomeId } })
const tagsOf = async (id: string) => (await team.asRep.ok(getProspect, { params: { id } })).tags.map((tag) => tag.id)
/** What the Desk says beforehand that an outcome will do. */
const promised = async (id: string, outcomeId: string) =>
  (await team.asRep.ok(brief, { params: { id } })).outcomes.find((one) => one.id === outcomeId)!.summary

describe('an outcome’s action with a filter', () => {
  it('is promised to and done for who fits alone: by what they are, tags, live lists', async () => {
    const [wanted, given] = [await newTag(), await newTag()]
    const { ids } = await addPeople(2, team.rep.id)
    const [inside, outside] = ids as [string, string]
    await db().query(sql`update prospects set title = 'Cellar master', source = 'Fair' where id = $1`, [inside])
    await team.asRep.ok(setTags, { params: { id: inside }, body: { add: [wanted.name] } })
    const filter: Filter = { all: [{ field: 'title', test: { op: 'contains', text: 'cellar' } }] }
    const { id: live } = await team.asManager.ok(addList, { body: { name: 'Cellar people', kind: 'live', filter } })
    for (const where of [is('source', 'Fair'), has('tags', wanted.id), has('lists', live), filter]) {
      const outcomeId = await outcomeWith([{ type: 'changeTag', tagId: given.id, on: true, where }])
      for (const [id, does] of [
        [inside, true],
        [outside, false],
      ] as const) {
        expect((await promised(id, outcomeId)).includes(given.name), `${JSON.stringify(where)} ${does}`).toBe(does)
        await log(id, outcomeId)
        expect((await tagsOf(id)).includes(given.id), `${JSON.stringify(where)} ${does}`).toBe(does)
      }
      await team.asRep.ok(setTags, { params: { id: inside }, body: { remove: [given.name] } })
    }
  })
  it('that waits is shown with its condition, asked when it is due, and said to be skipped', async () => {
    const [wanted, given] = [await newTag(), await newTag()]
    const { ids } = await addPeople(2, team.rep.id)
    const [stays, loses] = ids as [string, string]
    const where = has('tags', wanted.id)
    const after = { amount: 1, unit: 'hours' } as const
    const outcomeId = await outcomeWith([{ type: 'changeTag', tagId: given.id, on: true, where, after }])
    for (const id of ids) await log(id, outcomeId)
    await team.asRep.ok(setTags, { params: { id: stays }, body: { add: [wanted.name] } })
    const [shown] = (await team.asRep.ok(getProspect, { params: { id: loses } })).scheduled
    expect(shown!.summary).toMatch(/^Adds the tag “Tag [-0-9a-f]+”, if tags has /)
    await freeze(MONDAY + 3_600_000)
    await takeDueActions()
    expect([(await tagsOf(stays)).includes(given.id), (await tagsOf(loses)).includes(given.id)]).toEqual([true, false])
    const { entries } = await team.asRep.ok(prospectHistory, { params: { id: loses } })
    expect(JSON.stringify(entries)).toContain('The prospect does not fit the condition of this action')
  })
  it('is refused without a condition, with “me”, and with what is not there; a deleted tag is said in Settings', async () => {
    const { id: tagId } = await newTag()
    const wanted = await newTag()
    const body = { name: 'Asked', countsAs: 'none' as const, requiredInputs: [], reasons: [] }
    for (const where of [{ all: [] }, is('owner', 'me'), is('nothing', 'x'), has('tags', randomUUID())]) {
      const actions: Action[] = [{ type: 'changeTag', tagId, on: true, where }]
      const refused = await team.asManager.refused(addOutcome, 400, { body: { ...body, actions } })
      expect(refused.problems).toMatchObject([{ field: 'actions.0' }])
    }
    const id = await outcomeWith([{ type: 'changeTag', tagId, on: true, where: has('tags', wanted.id) }])
    const faults = async () => (await team.asManager.ok(listOutcomes)).outcomes.find((one) => one.id === id)!.faults
    expect(await faults()).toEqual([])
    await team.asManager.ok(removeTag, { params: { id: wanted.id } })
    expect(await faults()).toHaveLength(1)
    // Where it would be done it is not, and the rest is.
    const { ids } = await addPeople(1, team.rep.id)
    await log(ids[0]!, id)
    expect(await tagsOf(ids[0]!)).toEqual([])
  })
})

describe('what the engine knows of a prospect', () => {
  it('is what lists know, before an outcome and after it', async () => {
    const { ids } = await addPeople(1, team.rep.id)
    const [id] = ids as [string]
    const { id: tagId } = await newTag()
    const fields = await rows<{ id: string }>(sql`select id from cadences where status = 'active' limit 1`)
    const actions: Action[] = [
      { type: 'changeTag', tagId, on: true },
      { type: 'moveStage', to: 'unreached' },
      { type: 'startCadence', cadenceId: fields[0]!.id },
      { type: 'markNumber', as: 'wrong' },
      { type: 'stop', channel: 'call' },
      { type: 'assign', to: team.other.id },
      { type: 'rate', rating: 'hot' },
      { type: 'setCompanyStatus', to: 'customer' },
    ]
    const asked = (await currentPlaybook(db())).filterFields
    // The moments of touches and what is planned are those before; names of places and the like nothing here changes.
    const BEFORE = ['lastTouch', 'lastCall', 'nextAction', 'lastOutcome', 'lists']
    const known = [...asked.keys()].filter((key) => !BEFORE.includes(key))
    const filters = known.map((field): Filter => ({ field, test: { op: 'set' } }))
    const read = async () => {
      const book = await currentPlaybook(db())
      const { state } = await load(db(), [id], [], { colleagues: false, records: true })
      return withFacts(db(), state, [id], { filters }, book)
    }
    const plain = (facts: object) =>
      Object.fromEntries(
        Object.entries(facts).map(([key, value]) => [key, Array.isArray(value) ? [...new Set(value)].sort() : value]),
      )
    const before = await read()
    expect(plain(factsNow(before, id))).toEqual(plain(before.facts[id]!))
    const outcomeId = await outcomeWith(actions)
    const event = { kind: 'callLogged', outcomeId, taskId: null, phoneId: null, details: {} } as const
    const about = { id: randomUUID(), prospectId: id, actorId: team.rep.id, causedByEventId: null }
    expect(breadthOfEvent({ ...event }, await currentPlaybook(db())).colleagues).toBe(true)
    const { after } = await recordEvents([{ ...about, ...event }])
    const stored = await read()
    expect(plain(factsNow({ ...after, facts: before.facts }, id))).toEqual(plain(stored.facts[id]!))
  })
})
