import { linkId, type CustomValue, type EngineState } from '#core/engine/state/engineState'
import type { Id } from '#core/instant'
import type { Db } from '../db/pool'
import { sql } from '../db/sql'
import type { Applied } from './applied'

/** The values of custom fields as rows, from those of each prospect by the fields' keys. */
export function customValueRows(
  byProspect: Readonly<Record<Id, Readonly<Record<string, unknown>>>>,
): Record<Id, CustomValue> {
  const rows: Record<Id, CustomValue> = {}
  for (const [prospectId, values] of Object.entries(byProspect)) {
    for (const [field, value] of Object.entries(values)) {
      const id = linkId(prospectId, field)
      rows[id] = { id, prospectId, field, value }
    }
  }
  return rows
}

/** Writes the custom fields of prospects that effects have changed, as they are in the end. */
export async function writeCustomValues(client: Db, applied: readonly Applied[], after: EngineState): Promise<void> {
  const changed = new Map<Id, { prospectId: Id; field: string }>()
  for (const { effects } of applied) {
    for (const { entity, id, before, after: next } of effects) {
      if (entity !== 'customValue') continue
      const row = (after.customValue[id] ?? next ?? before) as CustomValue
      changed.set(id, row)
    }
  }
  if (!changed.size) return
  const byProspect = new Map<Id, { put: Record<string, unknown>; drop: string[] }>()
  for (const [id, { prospectId, field }] of changed) {
    const mine = byProspect.get(prospectId) ?? { put: {}, drop: [] }
    byProspect.set(prospectId, mine)
    const key = field.slice('custom:'.length)
    const row = after.customValue[id]
    if (row) mine.put[key] = row.value
    else mine.drop.push(key)
  }
  const rows = [...byProspect].map(([id, { put, drop }]) => ({ id, put, drop }))
  await client.query(
    sql`
      update prospects p
      set custom = (p.custom || r.put) - array(select jsonb_array_elements_text(r.drop)), version = version + 1
      from jsonb_to_recordset($1::jsonb) as r(id uuid, put jsonb, drop jsonb)
      where p.id = r.id
    `,
    [JSON.stringify(rows)],
  )
}
