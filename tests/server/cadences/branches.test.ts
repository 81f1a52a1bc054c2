import { randomUUID } from 'node:crypto'
import { beforeEach, describe, expect, it } from 'vitest'
import type { Filter } from '../../../core/filter/filter'
import {
  addCadence,
  copyCadence,
  editCadence,
  getCadence,
  planCadence,
  type StepDraft,
} from '../../../shared/api/cadences/cadences'
import { brief, logOutcome } from '../../../shared/api/desk/desk'
import { prospectHistory } from '../../../shared/api/events/history'
import { signedToken } from '../../../server/channels/mail/addresses'
import { db } from '../../../server/db/pool'
import { takeDueSteps } from '../../../server/engine/dueSteps'
import { recordEvents } from '../../../server/engine/recordEvents'
import { noteOpened } from '../../../server/services/email/messages'
import { addPeople, freeze, MONDAY, outcomeId, rows } from '../../fixtures/people'
import { activeCadence, stepDraft } from '../../fixtures/steps'
import { withTeam } from '../../fixtures/team'
import { sql } from '../../../server/db/sql'

const team = withTeam()
beforeEach(() => freeze(MONDAY))
const HOUR = 3_600_000

const step = (kind: StepDraft['kind'], name: string, rest: Partial<StepDraft> = {}): StepDraft =>
  stepDraft(kind, { name, ...rest })
type Ways = { name: string; when: StepDraft['ways'][number]['when']; ends?: boolean; steps: StepDraft[] }[]
/** A branch and the steps of its ways. */
function branch(name: string, ways: Ways, rest: Partial<StepDraft> = {}): StepDraft[] {
  const made = ways.map(({ ends = false, ...way }) => ({ ...way, ends, id: randomUUID() }))
  return [
    step('branch', name, { ways: made.map(({ steps: _, ...way }) => way), ...rest }),
    ...made.flatMap(({ id, steps }) => steps.map((one) => ({ ...one, wayId: one.wayId ?? id }))),
  ]
}
async function make(steps: StepDraft[]): Promise<string> {
  const id = await activeCadence(team.asManager, { steps })
  return id
}
const enroll = (cadenceId: string, ...ids: string[]) =>
  recordEvents(
    ids.map((prospectId) => ({
      id: randomUUID(),
      kind: 'enrolled' as const,
      prospectId,
      actorId: team.rep.id,
      causedByEventId: null,
      cadenceId,
    })),
  )
/** The step someone is at, by its name, and how they stand there. */
const stepOf = async (prospectId: string) =>
  (
    await rows<{ at: string }>(
      sql`
        select s.name || ' ' || e.status as at
        from enrollments e
          join cadence_steps s on s.id = e.step_id
        where e.prospect_id = $1
      `,
      [prospectId],
    )
  )[0]!.at
const log = async (id: string, name: string) =>
  team.asRep.ok(logOutcome, { params: { id }, body: { id: randomUUID(), outcomeId: await outcomeId(name) } })

describe('a branch', () => {
  it('sends everyone the way that fits: by the outcome of the call, by what is known, or the last one', async () => {
    const busy = await outcomeId('Busy')
    const where: Filter = { all: [{ field: 'title', test: { op: 'contains', text: 'cellar' } }] }
    const cadenceId = await make([
      step('call', 'First call'),
      ...branch('What came of it?', [
        { name: 'Busy', when: { type: 'outcome', outcomeIds: [busy] }, steps: [step('task', 'Try the front desk')] },
        { name: 'Cellar', when: { type: 'filter', where }, steps: [step('email', 'To the cellar')] },
        { name: 'Others', when: null, steps: [] },
      ]),
      step('call', 'Second call', { wait: { amount: 1, unit: 'days', at: null } }),
    ])
    const { ids } = await addPeople(3, team.rep.id)
    const [first, second, third] = ids as [string, string, string]
    await db().query(sql`update prospects set title = 'Cellar master' where id = any($1::uuid[])`, [[first, second]])
    await enroll(cadenceId, ...ids)
    await takeDueSteps()
    expect(await stepOf(first)).toBe('First call active')
    // What comes is said beforehand.
    const promised = async (id: string, name: string) =>
      (await team.asRep.ok(brief, { params: { id } })).outcomes.find((one) => one.name === name)!.summary
    expect(await promised(first, 'Busy')).toContain('Next: task, today')
    expect(await promised(second, 'No answer')).toContain('Next: email, today')
    expect(await promised(third, 'No answer')).toContain('Next: call, tomorrow')
    await log(first, 'Busy')
    await log(second, 'No answer')
    await log(third, 'No answer')
    await takeDueSteps()
    expect([await stepOf(first), await stepOf(second), await stepOf(third)]).toEqual([
      'Try the front desk active',
      'To the cellar active',
      'Second call waiting',
    ])
    const { entries } = await team.asRep.ok(prospectHistory, { params: { id: first } })
    expect(JSON.stringify(entries)).toContain('“What came of it?”: Busy')
  })
  it('waits for an email to be opened, and goes on when it is or when the time is over', async () => {
    const opened = branch(
      'Opened?',
      [
        { name: 'Opened', when: { type: 'opened' }, steps: [step('call', 'Call at once')] },
        { name: 'Not', when: null, ends: true, steps: [] },
      ],
      { wait: { amount: 2, unit: 'days', at: null }, endsEarly: true },
    )
    const cadenceId = await make([step('email', 'First email'), ...opened])
    const { ids } = await addPeople(2, team.rep.id)
    const [reads, never] = ids as [string, string]
    await enroll(cadenceId, ...ids)
    await takeDueSteps()
    const messages = new Map<string, string>()
    for (const id of ids) {
      const [{ messageId }] = (await rows<{ messageId: string }>(
        sql`select id as "messageId" from email_messages where prospect_id = $1`,
        [id],
      )) as [{ messageId: string }]
      messages.set(id, messageId)
      const about = { id: randomUUID(), prospectId: id, actorId: null, causedByEventId: null }
      await recordEvents([{ ...about, kind: 'emailSent', messageId }])
    }
    expect(await stepOf(reads)).toBe('Opened? waiting')
    await freeze(MONDAY + 3 * HOUR)
    await takeDueSteps()
    expect(await stepOf(reads)).toBe('Opened? waiting')
    const token = signedToken('open', messages.get(reads)!)
    await Promise.all([noteOpened(token), noteOpened(token)])
    await noteOpened(token)
    await takeDueSteps()
    expect([await stepOf(reads), await stepOf(never)]).toEqual(['Call at once active', 'Opened? waiting'])
    expect(
      await rows(sql`select opens, ms(opened_at)::float8 as at from email_messages where id = $1`, [
        messages.get(reads),
      ]),
    ).toEqual([{ opens: 3, at: MONDAY + 3 * HOUR }])
    await freeze(MONDAY + 48 * HOUR)
    await takeDueSteps()
    expect(await stepOf(never)).toBe('Opened? ended')
  })
  it('is drawn for a prospect with the way they would take now, and every date', async () => {
    const where: Filter = { all: [{ field: 'title', test: { op: 'set' } }] }
    const steps = [
      ...branch('Known?', [
        { name: 'Yes', when: { type: 'filter', where }, steps: [step('call', 'Call')] },
        { name: 'No', when: null, steps: [step('task', 'Look them up')] },
      ]),
      step('email', 'Email', { wait: { amount: 1, unit: 'hours', at: null } }),
    ]
    const { ids } = await addPeople(2, team.rep.id)
    await db().query(sql`update prospects set title = 'Buyer' where id = $1`, [ids[0]])
    const ways = async (prospectId: string | null) => {
      const { steps: planned } = await team.asRep.ok(planCadence, { body: { prospectId, steps } })
      expect(planned.map(({ stepId }) => stepId)).toEqual(steps.map(({ id }) => id))
      const taken = planned.find(({ stepId }) => stepId === steps[0]!.id)!.wayId
      return steps[0]!.ways.find(({ id }) => id === taken)!.name
    }
    expect([await ways(ids[0]!), await ways(ids[1]!), await ways(null)]).toEqual(['Yes', 'No', 'No'])
  })
  it('is refused without ways, with ways nobody gets to, and with what is not there; each at its field', async () => {
    const good = branch('Fork', [
      { name: 'Opened', when: { type: 'opened' }, steps: [] },
      { name: 'Rest', when: null, steps: [] },
    ])
    const refused = async (...steps: StepDraft[]) =>
      (await team.asManager.refused(addCadence, 400, { body: { name: 'Wrong', steps } })).problems.map(
        ({ field }) => field,
      )
    const [fork] = good as [StepDraft]
    expect(await refused({ ...fork, ways: [] })).toEqual(['steps.0.ways'])
    expect(await refused({ ...fork, ways: [...fork.ways].reverse() })).toEqual(['steps.0.ways'])
    expect(await refused(step('call', 'Lost', { wayId: randomUUID() }))).toEqual(['steps.0.wayId'])
    const forkWith = (when: StepDraft['ways'][number]['when']) => ({
      ...fork,
      ways: [{ ...fork.ways[0]!, when }, fork.ways[1]!],
    })
    expect(await refused(forkWith({ type: 'outcome', outcomeIds: [randomUUID()] }))).toEqual(['steps.0.ways.0'])
    const me: Filter = { all: [{ field: 'owner', test: { op: 'anyOf', values: ['me'] } }] }
    expect(await refused(forkWith({ type: 'filter', where: me }))).toEqual(['steps.0.ways.0'])
    expect(await refused(forkWith({ type: 'outcome', outcomeIds: [] }))).toEqual(['steps.0.ways.0.when.outcomeIds'])
    // Where a reply ends the cadence, nobody can go the way of those who replied.
    for (const type of ['replied', 'answeredText'] as const) {
      expect(await refused(forkWith({ type }))).toEqual(['steps.0.ways.0'])
      const steps = branch('Fork', [
        { name: 'Answered', when: { type }, steps: [] },
        { name: 'Rest', when: null, steps: [] },
      ])
      const goesOn = { name: `Goes on ${type}`, steps, exits: { replied: null } }
      const { id } = await team.asManager.ok(addCadence, { body: goesOn })
      expect((await team.asManager.ok(getCadence, { params: { id } })).exits.replied).toBeNull()
    }
  })
  it('is copied with its ways; those on a step that is deleted go on behind it', async () => {
    const inside = step('call', 'Inside', { wait: { amount: 1, unit: 'days', at: null } })
    const steps = [
      ...branch('Fork', [
        { name: 'Never', when: { type: 'reached' }, steps: [] },
        { name: 'Rest', when: null, steps: [inside] },
      ]),
      step('task', 'Behind'),
    ]
    const cadenceId = await make(steps)
    const { id: copied } = await team.asManager.ok(copyCadence, { params: { id: cadenceId } })
    const copy = await team.asManager.ok(getCadence, { params: { id: copied } })
    expect(copy.steps.map(({ name }) => name)).toEqual(['Fork', 'Inside', 'Behind'])
    expect(copy.steps[1]!.wayId).toBe(copy.steps[0]!.ways[1]!.id)
    expect(copy.steps[0]!.ways[1]!.id).not.toBe(steps[0]!.ways[1]!.id)
    const { ids } = await addPeople(1, team.rep.id)
    await enroll(cadenceId, ...ids)
    await takeDueSteps()
    expect(await stepOf(ids[0]!)).toBe('Inside waiting')
    const made = await team.asManager.ok(getCadence, { params: { id: cadenceId } })
    const rest = made.steps.filter(({ name }) => name === 'Behind')
    await team.asManager.ok(editCadence, { params: { id: cadenceId }, body: { ...made, steps: rest } })
    expect(await stepOf(ids[0]!)).toBe('Behind waiting')
  })
})
