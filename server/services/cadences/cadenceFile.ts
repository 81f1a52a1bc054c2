import { CADENCE_FILE_VERSION, referencesIn, unknownPaths, withReferences, type Reference } from '#core/cadence/file'
import type { Id } from '#core/instant'
import { cadenceFileSchema, type CadenceFile } from '#shared/api/cadences/cadenceFile'
import { EVERYTHING, readFilterWorld } from '../../db/filterWorld'
import { db } from '../../db/pool'
import { mustSeeCadence } from '../access/owned'
import { Refusal } from '../access/errors'
import type { Viewer } from '../access/viewer'
import { getCadence } from './cadences'
import { listSendingWindows } from '../sending/windows'
import { addCadence } from './editCadence'
import { withNewIds } from './stepDraft'

const FIELD = 'field'
const WINDOW = 'window'

/** Everything that a cadence may refer to here, by id. */
async function referable(): Promise<Map<Id, Omit<Reference, 'id'>>> {
  const { fields } = await readFilterWorld(db(), EVERYTHING)
  const choices = ['outcomes', 'tags', 'lists', 'stage', 'owner', 'source', 'inCadence'].flatMap((key) =>
    (fields.get(key)?.choices ?? []).map(({ id, name }) => [id, { kind: key, name }] as const),
  )
  const custom = [...fields.values()].flatMap(({ key, label }) => {
    const id = /custom:(.+)$/.exec(key)?.[1]
    return id ? [[id, { kind: FIELD, name: label }] as const] : []
  })
  const { windows } = await listSendingWindows()
  return new Map([...choices, ...custom, ...windows.map(({ id, name }) => [id, { kind: WINDOW, name }] as const)])
}

/** A cadence as a file: its content, and what it refers to by name. */
export async function exportCadence(viewer: Viewer, id: Id): Promise<CadenceFile> {
  await mustSeeCadence(viewer, id)
  const {
    id: _id,
    version: _version,
    status: _status,
    people: _people,
    ownerId: _owner,
    ...cadence
  } = await getCadence(id)
  return {
    format: 'uphill-cadence',
    version: CADENCE_FILE_VERSION,
    references: referencesIn(cadence, await referable()),
    // Files and templates stay here; what they say is in the steps.
    cadence: { ...cadence, steps: cadence.steps.map((step) => ({ ...step, attachments: [], templateId: null })) },
  }
}

/** Version 1 held the hours of its window; sending windows have names since, and such a cadence gets the default. */
function fromVersion1(file: CadenceFile): unknown {
  const { window: _hours, ...cadence } = file.cadence as CadenceFile['cadence'] & { window?: unknown }
  return { ...file, version: CADENCE_FILE_VERSION, cadence }
}

/** A file as it was given, read. Throws with the path of each part that is wrong. */
function readFile(given: unknown): CadenceFile {
  const version = (given as { version?: unknown } | null)?.version
  if (typeof version === 'number' && version > CADENCE_FILE_VERSION) {
    const message = `This file is of a newer version (${version}): this program reads up to ${CADENCE_FILE_VERSION}`
    throw new Refusal('invalid', message, [{ field: 'version', message }])
  }
  const file = version === 1 ? fromVersion1(given as CadenceFile) : given
  const read = cadenceFileSchema.safeParse(file)
  if (!read.success) {
    const problems = read.error.issues.map((issue) => ({ field: issue.path.join('.'), message: issue.message }))
    const [first] = problems
    throw new Refusal('invalid', `This is not a cadence file: ${first!.field || 'it'}: ${first!.message}`, problems)
  }
  const unknown = unknownPaths(file, read.data)
  if (unknown.length) {
    const problems = unknown.map((field) => ({ field, message: 'Unknown field' }))
    throw new Refusal('invalid', `Unknown field ${unknown[0]}`, problems)
  }
  return read.data
}

/** Adds a cadence from a file, as a draft. What it refers to is found here by kind and name; what is not is refused. */
export async function importCadence(viewer: Viewer, given: unknown): Promise<{ id: Id }> {
  const { references, cadence } = readFile(given)
  const here = await referable()
  const byName = new Map([...here].map(([id, { kind, name }]) => [`${kind}/${name.toLowerCase()}`, id]))
  const problems = references.flatMap(({ kind, name }, index) =>
    byName.has(`${kind}/${name.toLowerCase()}`)
      ? []
      : [{ field: `references.${index}`, message: `There is no “${name}” (${kind}) here: add it first` }],
  )
  if (problems.length) throw new Refusal('invalid', problems[0]!.message, problems)
  const ids = new Map(references.map(({ id, kind, name }) => [id, byName.get(`${kind}/${name.toLowerCase()}`)!]))
  const content = withReferences(cadence, ids)
  const steps = content.steps.map((step) => ({ ...step, attachments: [], templateId: null }))
  return addCadence(viewer, { ...content, steps: withNewIds(steps) })
}
