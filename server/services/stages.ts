import { GATE_FIELDS, type Gate } from '#core/stage/gate'
import type { ProspectRow } from '#shared/api/prospects'
import { db, transaction } from '../db/pool'
import { currentPlaybook, playbookChanged } from '../engine/playbook'
import { notFound, Refusal } from './errors'

/** What a gate can demand to be filled in: the usual fields, then the team's own. */
async function gateFields(client = db()): Promise<{ key: string, says: string }[]> {
  const { ownFields } = await currentPlaybook(client)
  return Object.entries({ ...GATE_FIELDS, ...ownFields }).map(([key, says]) => ({ key, says: key.startsWith('company:') ? `company: ${says}` : says }))
}

/** The stages, in order, with their gates. A field that is gone is demanded no longer. */
export async function listStages() {
  const fields = await gateFields()
  const known = new Set(fields.map(field => field.key))
  const { rows } = await db().query<ProspectRow['stage'] & { gate: Gate }>('select id, name, kind, gate from stages order by position')
  return { fields, stages: rows.map(({ gate, ...stage }) => ({ ...stage, gate: { ...gate, ...(gate.fields && { fields: gate.fields.filter(key => known.has(key)) }) } })) }
}

/** Renames a stage, or changes its gate; it holds for every move from then on, whoever makes it. */
export async function editStage(id: string, edit: { name?: string, gate?: Gate }): Promise<void> {
  const known = new Set((await gateFields()).map(field => field.key))
  const unknown = edit.gate?.fields?.find(key => !known.has(key))
  if (unknown) throw new Refusal('invalid', 'There is no such field', [{ field: 'gate.fields', message: 'There is no such field' }])
  await transaction(async (client) => {
    const { rowCount } = await client.query('update stages set name = coalesce($2, name), gate = coalesce($3, gate) where id = $1', [id, edit.name ?? null, edit.gate ? JSON.stringify(edit.gate) : null])
    if (!rowCount) throw notFound('stage')
    await playbookChanged(client)
  })
}
