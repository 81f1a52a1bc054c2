import { randomUUID } from 'node:crypto'
import { beforeEach, describe, expect, it } from 'vitest'
import type { Action } from '../../../core/actions/registry'
import { addCadence, editCadence, getCadence, type StepDraft } from '../../../shared/api/cadences/cadences'
import { brief, logOutcome } from '../../../shared/api/desk/desk'
import { getProspect } from '../../../shared/api/prospects'
import { addTag, removeTag, setTags } from '../../../shared/api/settings/fields'
import { takeDueSteps } from '../../../server/engine/dueSteps'
import { recordEvents } from '../../../server/engine/recordEvents'
import { addPeople, freeze, MONDAY, outcomeId, rows } from '../../fixtures/people'
import { stepDraft } from '../../fixtures/steps'
import { withTeam } from '../../fixtures/team'
import { sql } from '../../../server/db/sql'

const team = withTeam()
beforeEach(() => freeze(MONDAY))

/** An active cadence of one step, behind which this follows. */
async function make(kind: StepDraft['kind'], afterLast: Action[]): Promise<string> {
  const { id } = await team.asManager.ok(addCadence, {
    body: { name: `Cadence ${randomUUID()}`, steps: [stepDraft(kind)], afterLast },
  })
  const made = await team.asManager.ok(getCadence, { params: { id } })
  expect(made.afterLast).toMatchObject(afterLast)
  await team.asManager.ok(editCadence, { params: { id }, body: { ...made, status: 'active' } })
  return id
}
const about = (prospectId: string) => ({ id: randomUUID(), prospectId, actorId: team.rep.id, causedByEventId: null })
const enroll = async (cadenceId: string, prospectId: string) => {
  await recordEvents([{ ...about(prospectId), kind: 'enrolled', cadenceId }])
  await takeDueSteps()
}
const newTag = async () => {
  const name = `Tag ${randomUUID()}`
  return { name, ...(await team.asManager.ok(addTag, { body: { name } })) }
}
const person = (id: string) => team.asManager.ok(getProspect, { params: { id } })
const openCadences = (id: string) =>
  rows<{ id: string }>(sql`select cadence_id as id from enrollments where prospect_id = $1 and status <> 'ended'`, [id])

describe('what follows the last step of a cadence', () => {
  it('is done when the last call is logged, and when the last email has left', async () => {
    const { id: tagId, name: tagName } = await newTag()
    const next = await make('task', [])
    const tag: Action = { type: 'changeTag', tagId, on: true }
    const where = { all: [{ field: 'phone', test: { op: 'set' as const } }] }
    const calls = await make('call', [tag, { type: 'startCadence', cadenceId: next, where }])
    const { ids } = await addPeople(2, team.rep.id)
    const [called, written] = ids as [string, string]
    await team.asRep.ok(setTags, { params: { id: called }, body: { add: [tagName] } })
    await enroll(calls, called)
    // It was promised, as it is done: to who has the tag already, too.
    const noAnswer = await outcomeId('No answer')
    const promised = (await team.asRep.ok(brief, { params: { id: called } })).outcomes.find(
      ({ id }) => id === noAnswer,
    )!
    const body = { id: randomUUID(), outcomeId: noAnswer, fingerprint: promised.fingerprint }
    const { summary } = await team.asRep.ok(logOutcome, { params: { id: called }, body })
    expect(summary).toBe(promised.summary)
    expect(summary).toContain('The cadence is finished')
    expect((await person(called)).tags.map(({ id }) => id)).toEqual([tagId])
    expect(await openCadences(called)).toEqual([{ id: next }])

    const emails = await make('email', [tag, { type: 'assign', to: team.other.id }])
    await enroll(emails, written)
    const [{ messageId }] = (await rows<{ messageId: string }>(
      sql`select id as "messageId" from email_messages where prospect_id = $1`,
      [written],
    )) as [{ messageId: string }]
    await recordEvents([{ ...about(written), actorId: null, kind: 'emailSent', messageId }])
    expect(await person(written)).toMatchObject({ tags: [{ id: tagId }], owner: { id: team.other.id } })
  })
  it('is refused with actions of a call, with what is not there, and where cadences start each other for ever', async () => {
    const { id: tagId } = await newTag()
    const refused = async (id: string, afterLast: Action[]) => {
      const made = await team.asManager.ok(getCadence, { params: { id } })
      const { problems } = await team.asManager.refused(editCadence, 400, {
        params: { id },
        body: { ...made, afterLast },
      })
      return problems.map(({ field }) => field)
    }
    const one = await make('call', [])
    const other = await make('call', [{ type: 'startCadence', cadenceId: one }])
    const tag: Action = { type: 'changeTag', tagId, on: true }
    expect(await refused(one, [tag, { type: 'advance' }])).toEqual(['afterLast.1'])
    expect(await refused(one, [{ type: 'startCadence', cadenceId: other }])).toEqual(['afterLast.0'])
    expect(await refused(one, [{ type: 'startCadence', cadenceId: one }])).toEqual(['afterLast.0'])
    await team.asManager.ok(removeTag, { params: { id: tagId } })
    expect(await refused(one, [tag])).toEqual(['afterLast.0'])
  })
})
