import { agendaOf } from '#core/engine/agenda'
import type { Effect } from '#core/engine/effects'
import type { Happening } from '#core/engine/happenings'
import { ENTITY_NAMES, type Entities, type EntityName, type Rows, type Situation } from '#core/engine/situation'
import type { Id, Instant } from '#core/instant'
import { nameOf } from '../db/named'
import type { Db } from '../db/pool'
import { insertSql, recordset, TABLES, updateSql, type ArrayParameter } from './columns'
import { divide, loggedCause, loggedRow } from './logged'
import { sql } from '../db/sql'

/** A happening with what it came to. */
export interface Applied {
  happening: Happening | UndoneHappening
  effects: readonly Effect[]
}

/** The taking back of another happening: journaled like any other. */
export interface UndoneHappening {
  id: Id
  kind: 'undone'
  at: Instant
  prospectId: Id
  actorId: Id | null
  causeId: Id | null
  targetId: Id
}

/**
 * Writes what a set of reactions came to: rows, agenda and journal, in one statement. `after` is the situation at the
 * end.
 */
export async function apply(client: Db, applied: readonly Applied[], after: Situation): Promise<void> {
  const parts: string[] = []
  const values: unknown[] = []
  const array: ArrayParameter = (type, given) => `$${values.push(given)}::${type}[]`
  const change = netChange(applied.flatMap((entry) => entry.effects))
  for (const entity of ENTITY_NAMES) {
    const { created, changed, removed } = change[entity]
    if (created.length) parts.push(insertSql(entity, created, array))
    for (const { fields, rows } of changed) parts.push(updateSql(entity, fields, rows, array))
    if (removed.length) parts.push(sql`delete from ${TABLES[entity].table} where id = any(${array('uuid', removed)})`)
  }
  const agenda = agendaChange(applied, after)
  if (agenda.put.length) {
    parts.push(sql`
      insert into agenda (ref_id, kind, at, prospect_id, cause_id)
      select r.ref, r.kind, from_ms(r.at), r.prospect, r.cause
      from ${recordset(agenda.put, { ref: 'uuid', kind: 'text', at: 'bigint', prospect: 'uuid', cause: 'uuid' }, array)}
      on conflict
        (ref_id) do update set kind = excluded.kind, at = excluded.at, cause_id = excluded.cause_id, failures = 0,
        crashes = 0, last_error = null, set_aside_at = null
    `)
  }
  if (agenda.drop.length) parts.push(sql`delete from agenda where ref_id = any(${array('uuid', agenda.drop)})`)
  parts.push(...journal(applied, after, array))
  const last = parts.pop()!
  const text = parts.length
    ? sql`with ${parts.map((part, index) => `p${index} as (${part})`).join(',\n')}\n${last}`
    : last
  await client.query({ name: nameOf(text), text, values })
}

type Row = Record<string, unknown>
interface NetChange {
  created: Row[]
  changed: { fields: string[]; rows: Row[] }[]
  removed: Id[]
}

/**
 * What a run of effects does to each row in the end, gathered by the fields it changes so that each group is one
 * statement.
 */
function netChange(effects: readonly Effect[]): Record<EntityName, NetChange> {
  const net = Object.fromEntries(
    ENTITY_NAMES.map((name) => [name, new Map<Id, { isNew: boolean; row: Record<string, unknown> | null }>()]),
  ) as Record<EntityName, Map<Id, { isNew: boolean; row: Record<string, unknown> | null }>>
  for (const effect of effects) {
    const known = net[effect.entity].get(effect.id)
    const isNew = known ? known.isNew : effect.before === null
    net[effect.entity].set(effect.id, { isNew, row: effect.after === null ? null : { ...known?.row, ...effect.after } })
  }
  return Object.fromEntries(
    ENTITY_NAMES.map((name) => {
      const created: Row[] = []
      const removed: Id[] = []
      const groups = new Map<string, { fields: string[]; rows: Row[] }>()
      for (const [id, { isNew, row }] of net[name]) {
        if (row === null) {
          if (!isNew) removed.push(id)
          continue
        }
        if (isNew) {
          created.push(row)
          continue
        }
        const fields = Object.keys(row)
          .filter((field) => field !== 'id')
          .sort()
        const group = groups.get(fields.join()) ?? { fields, rows: [] }
        group.rows.push({ id, ...row })
        groups.set(fields.join(), group)
      }
      return [name, { created, changed: [...groups.values()], removed }]
    }),
  ) as Record<EntityName, NetChange>
}

function agendaChange(applied: readonly Applied[], after: Situation): { put: Row[]; drop: Id[] } {
  const causes = new Map<Id, { entity: EntityName; cause: Id }>()
  for (const { happening, effects } of applied) {
    for (const effect of effects) {
      if (effect.entity === 'enrollment' || effect.entity === 'message') {
        causes.set(effect.id, { entity: effect.entity, cause: happening.id })
      }
    }
  }
  const put: Row[] = []
  const drop: Id[] = []
  for (const [ref, { entity, cause }] of causes) {
    const row = (after[entity] as Rows<typeof entity>)[ref] ?? null
    const entry = agendaOf(entity, row as Entities[typeof entity] | null)
    if (entry) {
      put.push({ ref, kind: entry.kind, at: entry.at, prospect: (row as { prospectId: Id }).prospectId, cause })
    } else drop.push(ref)
  }
  return { put, drop }
}

function journal(applied: readonly Applied[], after: Situation, array: ArrayParameter): string[] {
  const divided = applied.map(({ happening }) => {
    const { id, at, kind, prospectId, actorId, causeId, ...data } = happening
    const { logged, texts } = divide(data)
    return {
      id,
      at,
      kind,
      prospect: prospectId,
      actor: actorId,
      cause: causeId,
      data: JSON.stringify(logged),
      texts: texts && JSON.stringify(texts),
    }
  })
  const effects = applied.flatMap(({ happening, effects }) =>
    effects.map((effect, seq) => {
      const prospect = prospectOf(effect, after)
      return {
        happening: happening.id,
        seq,
        kind: effect.kind,
        entity: effect.entity,
        ref: effect.id,
        prospect,
        before: loggedRow(effect.entity, effect.before),
        after: loggedRow(effect.entity, effect.after),
        because: loggedCause(effect.because, prospect ?? happening.prospectId, after),
      }
    }),
  )
  const parts = [
    sql`
      insert into happenings (id, at, kind, prospect_id, actor_id, cause_id, data)
      select r.id, from_ms(r.at), r.kind, r.prospect, r.actor, r.cause, r.data
      from ${recordset(divided, { id: 'uuid', at: 'bigint', kind: 'text', prospect: 'uuid', actor: 'uuid', cause: 'uuid', data: 'jsonb' }, array)}
    `,
  ]
  const written = divided.filter((happening) => happening.texts)
  if (written.length) {
    parts.push(sql`
      insert into happening_texts (happening_id, prospect_id, texts)
      select r.*
      from ${recordset(written, { id: 'uuid', prospect: 'uuid', texts: 'jsonb' }, array)}
    `)
  }
  if (effects.length) {
    parts.push(sql`
      insert into effects (happening_id, seq, kind, entity, entity_id, prospect_id, before, after, because)
      select r.*
      from ${recordset(effects, { happening: 'uuid', seq: 'int', kind: 'text', entity: 'text', ref: 'uuid', prospect: 'uuid', before: 'jsonb', after: 'jsonb', because: 'jsonb' }, array)}
    `)
  }
  return parts
}

/** Whom an effect concerns; null for a change of a company. */
function prospectOf(effect: Effect, after: Situation): Id | null {
  if (effect.entity === 'company') return null
  if (effect.entity === 'prospect') return effect.id
  const row = after[effect.entity][effect.id] ?? (effect.before as { prospectId?: Id } | null)
  return row?.prospectId ?? null
}
