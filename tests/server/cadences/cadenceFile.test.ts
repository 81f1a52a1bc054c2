import { randomUUID } from 'node:crypto'
import Ajv from 'ajv/dist/2020'
import { describe, expect, it } from 'vitest'
import { CADENCE_FILE_VERSION } from '../../../core/cadence/file'
import {
  cadenceFileFormat,
  exportCadence,
  importCadence,
  type CadenceFile,
} from '../../../shared/api/cadences/cadenceFile'
import { addCadence, getCadence, listCadences } from '../../../shared/api/cadences/cadences'
import { listStarters, takeStarters } from '../../../shared/api/settings/setup'
import { db } from '../../../server/db/pool'
import { sql } from '../../../server/db/sql'
import { outcomeId } from '../../fixtures/people'
import { stepDraft } from '../../fixtures/steps'
import { withTeam } from '../../fixtures/team'

const team = withTeam()
const exported = (id: string) => team.asManager.ok(exportCadence, { params: { id } })
const taken = (file: unknown) => team.asManager.ok(importCadence, { body: { file } })
const fieldsOf = async (file: unknown) =>
  (await team.asManager.refused(importCadence, 400, { body: { file } })).problems.map(({ field }) => field)

/** The schema is checked with ajv, a validator of JSON Schema 2020-12 that is no part of the program. */
describe('the schema of cadence files', () => {
  it('holds for every cadence that ships, and refuses a wrong one with the path', async () => {
    const offered = await team.asManager.ok(listStarters)
    await team.asManager.ok(takeStarters, { body: { lists: [], cadences: offered.cadences.map(({ key }) => key) } })
    const schema = await team.asManager.ok(cadenceFileFormat)
    expect(schema.$schema).toBe('https://json-schema.org/draft/2020-12/schema')
    const validate = new Ajv({ strict: false, validateFormats: false, allErrors: true }).compile(schema)
    const { cadences } = await team.asManager.ok(listCadences)
    expect(cadences.length).toBeGreaterThanOrEqual(7)
    const files = await Promise.all(cadences.map(({ id }) => exported(id)))
    for (const file of files) {
      expect([file.cadence.name, validate(file), validate.errors]).toEqual([file.cadence.name, true, null])
    }
    const wrong = structuredClone(files.find(({ cadence }) => cadence.steps.length > 2)!) as CadenceFile
    Object.assign(wrong.cadence.steps[1]!, { kind: 'pigeon' })
    expect(validate(wrong)).toBe(false)
    expect(validate.errors!.map((error) => error.instancePath)).toContain('/cadence/steps/1/kind')
    expect(await fieldsOf(wrong)).toContain('cadence.steps.1.kind')
    expect(validate({ ...files[0], colour: 'green' })).toBe(false)
  })
})

describe('a cadence file', () => {
  it('brings the cadence back as a draft with ids of its own, and what it refers to by name', async () => {
    const tag = randomUUID()
    await db().query(sql`insert into tags (id, name, created_at) values ($1, 'Cellar tour', world_now())`, [tag])
    const busy = await outcomeId('Busy')
    const fork = stepDraft('branch', {
      ways: [
        { id: randomUUID(), name: 'Busy', when: { type: 'outcome', outcomeIds: [busy] }, ends: false },
        { id: randomUUID(), name: 'Others', when: null, ends: true },
      ],
    })
    const where = { field: 'tags', test: { op: 'hasAny' as const, values: [tag] } }
    const { id } = await team.asManager.ok(addCadence, {
      body: {
        name: 'To be taken along',
        steps: [stepDraft('call'), fork, stepDraft('email', { wayId: fork.ways[0]!.id })],
        entry: { where },
        exits: { stages: { ids: ['in_conversation'], scope: 'company' } },
        afterLast: [{ type: 'changeTag', tagId: tag, on: true }] as never,
      },
    })
    const file = await exported(id)
    expect(file.references).toEqual(
      expect.arrayContaining([
        { id: busy, kind: 'outcomes', name: 'Busy' },
        { id: tag, kind: 'tags', name: 'Cellar tour' },
        { id: 'in_conversation', kind: 'stage', name: 'In conversation' },
      ]),
    )
    // Elsewhere the same tag has another id, and another case.
    await db().query(sql`delete from tags where id = $1`, [tag])
    const other = randomUUID()
    await db().query(sql`insert into tags (id, name, created_at) values ($1, 'cellar TOUR', world_now())`, [other])
    const made = await team.asManager.ok(getCadence, { params: { id: (await taken(file)).id } })
    expect(made).toMatchObject({
      name: 'To be taken along',
      status: 'draft',
      entry: { where: { field: 'tags', test: { op: 'hasAny', values: [other] } } },
      exits: { stages: { ids: ['in_conversation'], scope: 'company' } },
      afterLast: [{ type: 'changeTag', tagId: other, on: true }],
    })
    expect(made.steps.map(({ kind }) => kind)).toEqual(['call', 'branch', 'email'])
    expect(made.steps[2]!.wayId).toBe(made.steps[1]!.ways[0]!.id)
    const before = new Set(file.cadence.steps.map((step) => step.id))
    expect(made.steps.every((step) => !before.has(step.id))).toBe(true)
  })
  it('is refused with its path: of a newer version, with unknown fields, about what is not here', async () => {
    const { id } = await team.asManager.ok(addCadence, { body: { name: 'Plain', steps: [stepDraft('call')] } })
    const file = await exported(id)
    expect(await fieldsOf({ ...file, version: CADENCE_FILE_VERSION + 1 })).toEqual(['version'])
    expect(await fieldsOf({ ...file, colour: 'green' })).toEqual(['colour'])
    const odd = structuredClone(file) as CadenceFile
    Object.assign(odd.cadence.steps[0]!.wait, { sharp: true })
    expect(await fieldsOf(odd)).toEqual(['cadence.steps.0.wait.sharp'])
    const about = { ...file, references: [{ id: randomUUID(), kind: 'tags', name: 'Nowhere' }] }
    expect(await fieldsOf(about)).toEqual(['references.0'])
    expect(await fieldsOf('a text')).toEqual([''])
    expect(await fieldsOf(null)).toEqual([''])
  })
  it('of version 1, with hours of its own, gets the default window', async () => {
    const { id } = await team.asManager.ok(addCadence, { body: { name: 'Old', steps: [stepDraft('call')] } })
    const file = await exported(id)
    const { windowId, ...cadence } = file.cadence
    const old = { ...file, version: 1, references: [], cadence: { ...cadence, window: { days: [1], from: 0, to: 60 } } }
    const made = await team.asManager.ok(getCadence, { params: { id: (await taken(old)).id } })
    expect(made.windowId).toBe(windowId)
    expect(file.references).toEqual([{ id: windowId, kind: 'window', name: 'Business hours' }])
  })
})
