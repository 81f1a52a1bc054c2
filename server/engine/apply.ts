import { scheduledActionOf } from '#core/engine/state/scheduledActions'
import type { Effect } from '#core/engine/state/effects'
import {
  ENTITY_NAMES,
  type Entities,
  type EntityName,
  type Rows,
  type EngineState,
} from '#core/engine/state/engineState'
import type { Id } from '#core/instant'
import { nameOf } from '../db/named'
import type { Applied } from './applied'
import { eventStatements } from './eventLog'
import type { Db } from '../db/pool'
import { sayProspectsChanged, sayUserChanged } from '../db/userChanges'
import { deleteSql, insertSql, recordset, updateSql, type ArrayParameter } from './columns'
import { prospectOf } from './logged'
import { writeCustomValues } from './customValues'
import { sql } from '../db/sql'

/**
 * Writes what a set of reactions came to: rows, scheduled actions and event log, in one statement. `after` is the state
 * at the end.
 */
export async function apply(client: Db, applied: readonly Applied[], after: EngineState): Promise<void> {
  const parts: string[] = []
  const values: unknown[] = []
  const array: ArrayParameter = (type, given) => `$${values.push(given)}::${type}[]`
  const change = netChange(applied.flatMap((entry) => entry.effects))
  for (const entity of ENTITY_NAMES) {
    if (entity === 'customValue') continue
    const { created, changed, removed } = change[entity]
    if (created.length) parts.push(insertSql(entity, created, array))
    for (const { fields, rows } of changed) parts.push(updateSql(entity, fields, rows, array))
    if (removed.length) parts.push(deleteSql(entity, removed, array))
  }
  const scheduled = scheduledActionChange(applied, after)
  if (scheduled.put.length) {
    parts.push(sql`
      insert into scheduled_actions (ref_id, kind, at, prospect_id, caused_by_event_id)
      select r.ref, r.kind, from_ms(r.at), r.prospect, r.cause
      from ${recordset(scheduled.put, { ref: 'uuid', kind: 'text', at: 'bigint', prospect: 'uuid', cause: 'uuid' }, array)}
      on conflict (ref_id) do update
      set
        kind = excluded.kind, at = excluded.at, caused_by_event_id = excluded.caused_by_event_id, failures = 0,
        crashes = 0, last_error = null, set_aside_at = null
    `)
  }
  if (scheduled.drop.length) {
    parts.push(sql`delete from scheduled_actions where ref_id = any(${array('uuid', scheduled.drop)})`)
  }
  parts.push(...eventStatements(applied, after, array))
  const last = parts.pop()!
  const text = parts.length
    ? sql`with ${parts.map((part, index) => `p${index} as (${part})`).join(',\n')}\n${last}`
    : last
  await client.query({ name: nameOf(text), text, values })
  sayUserChanged(client, 'queue', ownersOf(applied, after))
  const changed = prospectsOf(applied, after)
  if (changed.size <= MOST_SAID) sayProspectsChanged(client, changed)
  // A row is changed once in a statement: its custom fields come after.
  await writeCustomValues(client, applied, after)
}

/** Of how many prospects at once it is said that they have changed: of more, nobody looks at all. */
const MOST_SAID = 50

/** To whom something happened, by way of others too. */
function prospectsOf(applied: readonly Applied[], after: EngineState): Set<Id> {
  const changed = applied.flatMap(({ event, effects }) => [
    event.prospectId,
    ...effects.flatMap((effect) => prospectOf(effect, after) ?? []),
  ])
  return new Set(changed)
}

/** Whose queue is another now: those of the tasks that changed, and of their prospects. */
function ownersOf(applied: readonly Applied[], after: EngineState): Set<Id> {
  const owners = new Set<Id>()
  for (const { effects } of applied) {
    for (const effect of effects) {
      if (effect.entity !== 'task') continue
      const task = after.task[effect.id]
      const of = [effect.before?.ownerId, task?.ownerId, task && after.prospect[task.prospectId]?.ownerId]
      for (const owner of of) if (owner) owners.add(owner)
    }
  }
  return owners
}

type Row = Record<string, unknown>
/** What becomes of a row: null where it goes; `before` is what the last effect found. */
interface Net {
  isNew: boolean
  row: Row | null
  before: object | null
}
interface NetChange {
  created: Row[]
  changed: { fields: string[]; rows: Row[] }[]
  removed: Row[]
}

/**
 * What a run of effects does to each row in the end, gathered by the fields it changes so that each group is one
 * statement.
 */
function netChange(effects: readonly Effect[]): Record<EntityName, NetChange> {
  const net = Object.fromEntries(ENTITY_NAMES.map((name) => [name, new Map<Id, Net>()])) as Record<
    EntityName,
    Map<Id, Net>
  >
  for (const effect of effects) {
    const known = net[effect.entity].get(effect.id)
    const isNew = known ? known.isNew : effect.before === null
    const row = effect.after === null ? null : { ...known?.row, ...effect.after }
    net[effect.entity].set(effect.id, { isNew, row, before: effect.before })
  }
  return Object.fromEntries(
    ENTITY_NAMES.map((name) => {
      const created: Row[] = []
      const removed: Row[] = []
      const groups = new Map<string, { fields: string[]; rows: Row[] }>()
      for (const [id, { isNew, row, before }] of net[name]) {
        if (row === null) {
          if (!isNew) removed.push({ ...before, id })
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

/** Rows that may wait for their time. */
const SCHEDULED: ReadonlySet<EntityName> = new Set(['enrollment', 'emailMessage', 'delayedAction'])

function scheduledActionChange(applied: readonly Applied[], after: EngineState): { put: Row[]; drop: Id[] } {
  const causes = new Map<Id, { entity: EntityName; cause: Id }>()
  for (const { event, effects } of applied) {
    for (const effect of effects) {
      if (SCHEDULED.has(effect.entity)) {
        causes.set(effect.id, { entity: effect.entity, cause: event.id })
      }
    }
  }
  const put: Row[] = []
  const drop: Id[] = []
  for (const [ref, { entity, cause }] of causes) {
    const row = (after[entity] as Rows<typeof entity>)[ref] ?? null
    const entry = scheduledActionOf(entity, row as Entities[typeof entity] | null)
    if (entry) {
      put.push({ ref, kind: entry.kind, at: entry.at, prospect: (row as { prospectId: Id }).prospectId, cause })
    } else drop.push(ref)
  }
  return { put, drop }
}
