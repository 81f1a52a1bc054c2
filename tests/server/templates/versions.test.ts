import { randomUUID } from 'node:crypto'
import { beforeEach, describe, expect, it } from 'vitest'
import { allottedVersion } from '../../../core/cadence/versions'
import { addCadence, editCadence, getCadence, planCadence } from '../../../shared/api/cadences/cadences'
import { enroll, unenroll } from '../../../shared/api/cadences/enrollments'
import { cadenceResultPeople, cadenceResults } from '../../../shared/api/cadences/results'
import { brief } from '../../../shared/api/desk/desk'
import { exportCadence, importCadence } from '../../../shared/api/cadences/cadenceFile'
import { noteOpened } from '../../../server/services/email/messages'
import { signedToken } from '../../../server/channels/mail/addresses'
import { sql } from '../../../server/db/sql'
import { withMail } from '../../fixtures/mail'
import { addPeople, freeze, MONDAY, rows } from '../../fixtures/people'
import { activeCadence, stepDraft } from '../../fixtures/steps'
import { withTeam } from '../../fixtures/team'

const team = withTeam()
const { room, work } = withMail()
beforeEach(async () => {
  await freeze(MONDAY)
  room.letters.length = 0
})
const version = (given: object = {}) => ({
  id: randomUUID(),
  weight: 1,
  subject: 'Other subject',
  body: 'Other {{ first_name }}',
  html: null,
  ...given,
})
async function active(step: Parameters<typeof stepDraft>[1]) {
  const steps = [stepDraft('email', step), stepDraft('task', { wait: { amount: 30, unit: 'days', at: null } })]
  const id = await activeCadence(team.asManager, { steps, cold: false })
  return { id, step: steps[0]! }
}
interface SentEmail {
  id: string
  prospect_id: string
  version_id: string | null
  subject: string
}
const sentTo = (stepId: string) =>
  rows<SentEmail>(
    sql`select id, prospect_id, version_id, subject from email_messages where step_id = $1 order by prospect_id`,
    [stepId],
  )

describe('versions of an email', () => {
  it('are allotted once per prospect, and counted each for itself', async () => {
    const other = version({ html: '<p>Other <b>{{ first_name }}</b></p>' })
    const { id, step } = await active({ subject: 'Own subject', body: 'Own', versions: [other] })
    const { ids } = await addPeople(30, team.rep.id)
    await team.asRep.ok(enroll, { params: { id }, body: { prospectIds: ids } })
    await work()
    const sent = await sentTo(step.id)
    expect(sent).toHaveLength(30)
    for (const one of sent) {
      expect(one.version_id).toBe(allottedVersion({ ...step, versions: [other] }, one.prospect_id))
      expect(one.subject).toBe(one.version_id === other.id ? 'Other subject' : 'Own subject')
    }
    const others = sent.filter((one) => one.version_id === other.id)
    expect(others.length).toBeGreaterThan(3)
    expect(others.length).toBeLessThan(27)
    const letter = room.letters.find(({ subject }) => subject === 'Other subject')!
    expect(letter.raw.html).toMatch(/<p>Other <strong>\w+<\/strong><\/p>/)
    await noteOpened(signedToken('open', others[0]!.id))
    const results = await team.asManager.ok(cadenceResults, { params: { id } })
    expect(results.steps[0]!.versions).toMatchObject([
      { id: step.id, name: 'A', figures: { sent: 30 - others.length, opened: 0 } },
      { id: other.id, name: 'B', figures: { sent: others.length, opened: 1 } },
    ])
    const people = await team.asManager.ok(cadenceResultPeople, {
      params: { id },
      query: { step: step.id, figure: 'sent', version: other.id },
    })
    expect(people.people.map((one) => one.id).sort()).toEqual(others.map((one) => one.prospect_id).sort())
  })
  it('stay with a prospect who comes again, whatever the weights say by then, and after one was deleted', async () => {
    const other = version()
    const { id, step } = await active({ weight: 0, versions: [other], subject: 'Own subject' })
    const { ids } = await addPeople(1, team.rep.id)
    const start = async () => {
      await team.asRep.ok(enroll, { params: { id }, body: { prospectIds: ids } })
      await work()
      const open = await rows<{ id: string }>(
        sql`select id from enrollments where prospect_id = $1 and status <> 'ended'`,
        [ids[0]],
      )
      await team.asRep.ok(unenroll, { params: { id: open[0]!.id }, body: { id: randomUUID() } })
      return room.letters.at(-1)!.subject
    }
    expect(await start()).toBe('Other subject')
    const change = async (changed: object) => {
      const now = await team.asManager.ok(getCadence, { params: { id } })
      const steps = now.steps.map((one) => (one.id === step.id ? { ...one, ...changed } : one))
      await team.asManager.ok(editCadence, { params: { id }, body: { ...now, steps } })
    }
    await change({ weight: 1, versions: [{ ...other, weight: 0 }] })
    expect(await start()).toBe('Other subject')
    await change({ versions: [] })
    expect(await start()).toBe('Own subject')
    const results = await team.asManager.ok(cadenceResults, { params: { id } })
    expect(results.steps[0]!.versions).toMatchObject([
      { name: 'A', figures: { sent: 0 } },
      { name: 'deleted', figures: { sent: 2 } },
    ])
  })
  it('are shown as the prospect would get them, in the editor and on the Desk', async () => {
    const other = version({ subject: 'For {{ first_name }}' })
    const { id, step } = await active({ weight: 0, review: true, versions: [other] })
    const { ids } = await addPeople(1, team.rep.id)
    const planned = await team.asRep.ok(planCadence, {
      body: {
        prospectId: ids[0]!,
        steps: [{ ...step, versions: [other] }],
      },
    })
    expect(planned.steps[0]).toMatchObject({ version: 'B', subject: 'For Tomas', body: 'Other Tomas' })
    await team.asRep.ok(enroll, { params: { id }, body: { prospectIds: ids } })
    await work()
    const task = (
      await rows<{ id: string }>(sql`select id from tasks where prospect_id = $1 and status = 'open'`, [ids[0]])
    )[0]!
    const seen = await team.asRep.ok(brief, { params: { id: ids[0]! }, query: { task: task.id } })
    expect(seen.message).toMatchObject({ subject: 'For Tomas', body: 'Other Tomas' })
  })
  it('are refused where nobody would get any, there are too many, or one is not whole', async () => {
    const refused = async (step: Parameters<typeof stepDraft>[1]) => {
      const body = { name: 'Refused', steps: [stepDraft('email', step)] }
      const { problems } = await team.asManager.refused(addCadence, 400, { body })
      return problems.map(({ field }) => field)
    }
    expect(await refused({ weight: 0, versions: [version({ weight: 0 })] })).toEqual(['steps.0.weight'])
    expect(await refused({ versions: Array.from({ length: 4 }, () => version()) })).toEqual(['steps.0.weight'])
    expect(await refused({ versions: [version({ body: 'To {{ nobody }}' })] })).toEqual(['steps.0.versions.0.body'])
    expect(await refused({ versions: [version({ weight: -1 })] })).toEqual(['steps.0.versions.0.weight'])
  })
  it('go with a cadence file', async () => {
    const { id } = await active({ versions: [version()] })
    const file = await team.asManager.ok(exportCadence, { params: { id } })
    const added = await team.asManager.ok(importCadence, { body: { file } })
    const [step] = (await team.asManager.ok(getCadence, { params: { id: added.id } })).steps
    expect(step!.versions).toMatchObject([{ subject: 'Other subject', body: 'Other {{ first_name }}' }])
  })
})
