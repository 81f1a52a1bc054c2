import { randomUUID } from 'node:crypto'
import { beforeAll, beforeEach, describe, expect, it } from 'vitest'
import { brief } from '../../server/services/brief'
import { enroll } from '../../server/services/enrollments'
import { history, undo } from '../../server/services/history'
import { logOutcome } from '../../server/services/outcomes'
import type { Viewer } from '../../server/services/sessions'
import { takeDueSteps } from '../../server/engine/agenda'
import { addCadence, addPeople, addUser, freeze, MONDAY, outcomeId, rows, startWorld } from '../world/people'

let rep: Viewer

beforeAll(async () => {
  await startWorld()
  rep = await addUser()
})
beforeEach(() => freeze(MONDAY))

const request = async (name: string, more: object = {}) => ({ id: randomUUID(), outcomeId: await outcomeId(name), taskId: null, phoneId: null, details: {}, fingerprint: null, ...more })

/** Somebody at a call step, due now. */
async function atCall(count = 1) {
  const { ids, companyId } = await addPeople(count, rep.id)
  const cadence = await addCadence([{ kind: 'call' }, { kind: 'email', amount: 2, unit: 'hours' }, { kind: 'call', amount: 1, unit: 'business_days' }])
  await enroll(rep, cadence.id, { prospectIds: ids }, false)
  await takeDueSteps()
  return { id: ids[0]!, ids, companyId, cadence }
}

describe('logging an outcome', () => {
  it('says beforehand what it then does: attempt, next step, stage', async () => {
    const { id } = await atCall()
    const before = await brief(rep, id, null)
    const choice = before.outcomes.find(outcome => outcome.name === 'No answer')!
    expect(choice.says).toBe('Attempt 1 of 3. Next: email, 12:42. Stage: Attempting.')
    const done = await logOutcome(rep, id, await request('No answer', { taskId: before.task!.id, fingerprint: choice.fingerprint }))
    expect(done.says).toBe(choice.says)
    expect(await rows('select stage_id from prospects where id = $1', [id])).toEqual([{ stage_id: 'attempting' }])
    expect(await rows('select state from tasks where prospect_id = $1', [id])).toEqual([{ state: 'done' }])
    expect(await rows('select kind, ms(at) as at from agenda where prospect_id = $1', [id])).toEqual([{ kind: 'step', at: MONDAY + 2 * 3_600_000 }])
  })
})
