import { evolve, type Effect } from '#core/engine/state/effects'
import type { EntityName } from '#core/engine/state/engineState'
import { undoLawfully } from '#core/engine/undo'
import type { Id } from '#core/instant'
import { newId } from '#shared/newId'
import { breaksUnique, transaction, type Db } from '../db/pool'
import { apply } from './apply'
import type { UndoneEvent } from './applied'
import { selectList, TABLES } from './columns'
import { load, lock } from './load'
import { playbook } from './playbook'
import { firstRow, sql } from '../db/sql'

interface LoggedEffect {
  event_id: Id
  kind: Effect['kind']
  entity: EntityName
  entity_id: Id
  prospect_id: Id | null
  before: Effect['before']
  after: Effect['after']
  cause: Effect['cause']
}

/** Everything an event led to, newest first: its own effects, and those of all that it caused. */
const TREE_SQL = sql`
  with recursive tree as (
    select id, position
    from events
    where id = $1
    union all
    select h.id, h.position
    from events h
      join tree t on h.caused_by_event_id = t.id
  )
  select e.event_id, e.kind, e.entity, e.entity_id, e.prospect_id, e.before, e.after, e.cause
  from tree t
    join effects e on e.event_id = t.id
  where not exists (select from events u where u.kind = 'undone' and u.payload ->> 'targetId' = t.id::text)
  order by t.position desc, e.seq desc
`

/** What taking back an event came to. */
export interface UndoResult {
  effects: Effect[]
  skipped: string[]
}

/**
 * Takes back an event with all its consequences, once. Throws UndoRefused where it is unknown or taken back already.
 */
export async function undo(undoneId: Id, targetId: Id, actorId: Id | null): Promise<UndoResult> {
  try {
    return await transaction((client) => undoIn(client, undoneId, targetId, actorId))
  } catch (error) {
    if (breaksUnique(error, 'events_undone')) throw new UndoRefused('This has been taken back already')
    throw error
  }
}

async function undoIn(client: Db, undoneId: Id, targetId: Id, actorId: Id | null): Promise<UndoResult> {
  const target = await firstRow(
    client.query<{ prospect_id: Id; kind: string }>(sql`select prospect_id, kind from events where id = $1`, [
      targetId,
    ]),
  )
  if (!target) throw new UndoRefused('There is nothing to take back')
  const first = await client.query<LoggedEffect>(TREE_SQL, [targetId])
  const ids = [
    ...new Set([target.prospect_id, ...first.rows.flatMap((row) => (row.prospect_id ? [row.prospect_id] : []))]),
  ]
  // What is taken back may be the status of the company.
  await lock(client, ids, { colleagues: false }, { alone: true })
  // Read again now that nobody else can move these people on.
  const { rows } = await client.query<LoggedEffect>(TREE_SQL, [targetId])
  const messageIds = rows.filter((row) => row.entity === 'emailMessage').map((row) => row.entity_id)
  const { state, playbookVersion } = await load(client, ids, messageIds, { colleagues: false, records: true })
  const complete = await withClosedRows(client, state, rows)
  const effects = rows.map(
    (row) =>
      ({
        kind: row.kind,
        entity: row.entity,
        id: row.entity_id,
        before: row.before,
        after: row.after,
        cause: row.cause,
      }) as Effect,
  )
  const event: UndoneEvent = {
    id: undoneId,
    kind: 'undone',
    at: state.now,
    prospectId: target.prospect_id,
    actorId,
    causedByEventId: null,
    targetId,
  }
  const undoing = undoLawfully(effects, complete, await playbook(client, playbookVersion), event, newId)
  await apply(client, [{ event, effects: undoing.effects }], evolve(complete, undoing.effects))
  return undoing
}

/** Adds the rows that an engine state leaves out because they are closed, but that are to be opened again. */
async function withClosedRows(
  client: Db,
  state: Awaited<ReturnType<typeof load>>['state'],
  rows: readonly LoggedEffect[],
): Promise<typeof state> {
  const full: Record<string, Record<Id, unknown>> = {}
  for (const entity of ['enrollment', 'task', 'meeting', 'deal', 'delayedAction', 'notification', 'turn'] as const) {
    const ids = [...new Set(rows.filter((row) => row.entity === entity).map((row) => row.entity_id))].filter(
      (id) => !state[entity][id],
    )
    if (!ids.length) continue
    const { rows: found } = await client.query<{ id: Id }>(
      sql`
        select ${selectList(entity, 't')}
        from ${TABLES[entity].table} t
        where t.id = any($1::uuid[])
      `,
      [ids],
    )
    full[entity] = { ...state[entity], ...Object.fromEntries(found.map((row) => [row.id, row])) }
  }
  return { ...state, ...full }
}

/** Taking back is not possible, for the reason in the message. */
export class UndoRefused extends Error {}
