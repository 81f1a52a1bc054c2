import { linkId, type CustomValue, type EngineState } from '#core/engine/state/engineState'
import { isSettable, SETTABLE_FIELDS } from '#core/engine/state/settableFields'
import type { Id } from '#core/instant'
import type { Db } from '../db/pool'
import { sql } from '../db/sql'
import type { Applied } from './applied'

/** The columns of the fields beside the custom ones. */
const COLUMNS = {
  title: 'title',
  source: 'source',
  city: 'city',
  postalCode: 'postal_code',
} as const satisfies Record<keyof typeof SETTABLE_FIELDS, string>

/** What the engine knows of a prospect's own columns, as an SQL expression of jsonb over `prospects p`. */
export const OWN_VALUES_SQL = `jsonb_strip_nulls(jsonb_build_object(${Object.entries(COLUMNS)
  .map(([key, column]) => `'${key}', nullif(p.${column}, '')`)
  .join(', ')}))`

/** The values of fields as rows, from those of each prospect by the fields' keys. */
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

/** Writes the fields of prospects that effects have changed, as they are in the end. */
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
  const byProspect = new Map<Id, { put: Record<string, unknown>; drop: string[]; own: Record<string, unknown> }>()
  for (const [id, { prospectId, field }] of changed) {
    const mine = byProspect.get(prospectId) ?? { put: {}, drop: [], own: {} }
    byProspect.set(prospectId, mine)
    const key = field.slice('custom:'.length)
    const row = after.customValue[id]
    if (isSettable(field)) mine.own[COLUMNS[field]] = row?.value ?? null
    else if (row) mine.put[key] = row.value
    else mine.drop.push(key)
  }
  const rows = [...byProspect].map(([id, changes]) => ({ id, ...changes }))
  const columns = Object.values(COLUMNS).filter((column) => rows.some(({ own }) => column in own))
  await client.query(
    sql`
      update prospects p
      set
        custom = (p.custom || r.put) - array(select jsonb_array_elements_text(r.drop)),
        ${columns
          .map((column) => `${column} = case when r.own ? '${column}' then r.own ->> '${column}' else p.${column} end,`)
          .join('')}
        version = version + 1
      from jsonb_to_recordset($1::jsonb) as r(id uuid, put jsonb, drop jsonb, own jsonb)
      where p.id = r.id
    `,
    [JSON.stringify(rows)],
  )
}
