import type { StageKind } from '#core/enumerations'
import type { Filter } from '#core/filter/filter'
import type { Id } from '#core/instant'
import { GATE_FIELDS, unreachableStages, type Gate } from '#core/stage/gate'
import { newId } from '#shared/newId'
import { breaksUnique, db, transaction, type Db } from '../../db/pool'
import { currentPlaybook, playbookChanged } from '../../engine/playbook'
import { startBulk } from '../bulk/bulk'
import { notFound, Refusal } from '../access/errors'
import type { Viewer } from '../access/viewer'
import { firstRow, sql } from '../../db/sql'

/** What a gate can demand to be filled in: the usual fields, then the team's own. */
async function gateFields(client = db()): Promise<{ key: string; label: string }[]> {
  const { customFields } = await currentPlaybook(client)
  return Object.entries({ ...GATE_FIELDS, ...customFields }).map(([key, label]) => ({
    key,
    label: key.startsWith('company:') ? `company: ${label}` : label,
  }))
}

interface StageRow {
  id: string
  name: string
  kind: StageKind
  gate: Gate
  archived: boolean
  people: number
  position: number
}

/** The stages, in order, with their gates and how many stand in each. A field that is gone is demanded no longer. */
export async function listStages(): Promise<{
  fields: { key: string; label: string }[]
  stages: (Omit<StageRow, 'position'> & { fault: string | null })[]
}> {
  const fields = await gateFields()
  const known = new Set(fields.map((field) => field.key))
  const { rows } = await db().query<StageRow>(sql`
    select
      id, name, kind, gate, position, archived_at is not null as archived,
      (
        select count(*)::int
        from (select from prospects p where p.stage_id = s.id and p.merged_into is null limit ${COUNTED}) k
      ) as people
    from stages s
    order by archived_at is not null, position
  `)
  const inUse = new Set(rows.filter((stage) => !stage.archived).map((stage) => stage.id))
  const unreachable = unreachableStages(rows)
  return {
    fields,
    stages: rows.map(({ gate, position: _position, ...stage }) => ({
      ...stage,
      gate: {
        ...gate,
        ...(gate.fields && { fields: gate.fields.filter((key) => known.has(key)) }),
        ...(gate.from && { from: gate.from.filter((id) => inUse.has(id)) }),
      },
      fault: unreachable.has(stage.id) ? 'No allowed move leads here' : null,
    })),
  }
}

/** Up to how many people in a stage are counted. */
const COUNTED = 100_000

async function checkGate(gate: Gate | undefined, of: string | null): Promise<void> {
  const refuse = (field: string, message: string) => {
    throw new Refusal('invalid', message, [{ field, message }])
  }
  const known = new Set((await gateFields()).map((field) => field.key))
  if (gate?.fields?.some((key) => !known.has(key))) refuse('gate.fields', 'There is no such field')
  if (!gate?.from?.length) return
  const { rows } = await db().query<{ id: string }>(
    sql`select id from stages where id = any($1::text[]) and archived_at is null`,
    [gate.from],
  )
  if (rows.length !== new Set(gate.from).size) refuse('gate.from', 'Choose stages that are not archived')
  if (gate.from.every((id) => id === of)) refuse('gate.from', 'Choose another stage than this one')
}

/** Changes stages in a transaction, one manager at a time; every process reads them again. */
async function change(work: (client: Db) => Promise<void>): Promise<void> {
  await transaction(async (client) => {
    await client.query(sql`select pg_advisory_xact_lock(hashtext('stages'))`)
    await work(client)
    const left = await firstRow(
      client.query<{ open: boolean }>(
        sql`select exists (select from stages where kind = 'open' and archived_at is null) as open`,
      ),
    )
    if (!left!.open) throw new Refusal('refused', 'At least one open stage is required for new prospects')
    await playbookChanged(client)
  })
}

const taken = (error: unknown) =>
  breaksUnique(error, 'stages_by_name')
    ? new Refusal('conflict', 'There is already a stage with this name', [
        { field: 'name', message: 'There is already a stage with this name' },
      ])
    : error

/** Adds a stage behind another one (`after`: null for the first place), at the end without. */
export async function addStage(stage: {
  name: string
  kind: StageKind
  gate?: Gate
  after?: string | null
}): Promise<{ id: string }> {
  await checkGate(stage.gate, null)
  const id = newId()
  await change(async (client) => {
    await client
      .query(
        sql`
          insert into stages (id, name, kind, position, gate)
          select $1, $2, $3, coalesce(max(position), -1) + 1, $4
          from stages
        `,
        [id, stage.name.trim(), stage.kind, JSON.stringify(stage.gate ?? {})],
      )
      .catch((error: unknown) => {
        throw taken(error)
      })
    if (stage.after === undefined) return
    const { rows } = await client.query<{ id: string }>(
      sql`select id from stages where archived_at is null and id <> $1 order by position`,
      [id],
    )
    const ids = rows.map((row) => row.id)
    const place = stage.after === null ? 0 : ids.indexOf(stage.after) + 1
    if (stage.after !== null && place === 0) throw notFound('stage')
    await writeOrder(client, [...ids.slice(0, place), id, ...ids.slice(place)])
  })
  return { id }
}

/**
 * Renames a stage, changes its kind or its gate, or uses it again; it holds for every move from then on.
 */
export async function editStage(
  id: string,
  edit: { name?: string; kind?: StageKind; gate?: Gate; archived?: false },
): Promise<void> {
  await checkGate(edit.gate, id)
  await change(async (client) => {
    const { rowCount } = await client
      .query(
        sql`
          update stages
          set
            name = coalesce($2, name), kind = coalesce($3, kind), gate = coalesce($4, gate),
            archived_at = case when $5 then null else archived_at end
          where id = $1
        `,
        [
          id,
          edit.name?.trim() ?? null,
          edit.kind ?? null,
          edit.gate ? JSON.stringify(edit.gate) : null,
          edit.archived === false,
        ],
      )
      .catch((error: unknown) => {
        throw taken(error)
      })
    if (!rowCount) throw notFound('stage')
  })
}

/** Puts the stages in another order: `ids` are all that are in use. */
export async function orderStages(ids: readonly string[]): Promise<void> {
  await change(async (client) => {
    const { rows } = await client.query<{ id: string }>(sql`select id from stages where archived_at is null`)
    const all = new Set(rows.map((row) => row.id))
    if (ids.length !== all.size || ids.some((one) => !all.has(one))) {
      throw new Refusal('conflict', 'Changed by someone else. Load the stages again')
    }
    await writeOrder(client, ids)
  })
}

/** Gives the stages their places; the archived ones stand behind those in use. */
async function writeOrder(client: Db, ids: readonly string[]): Promise<void> {
  await client.query(
    sql`
      update stages s
      set position = o.n
      from (
        select id, row_number() over (order by place nulls last, position) as n
        from stages
          left join unnest($1::text[]) with ordinality as wanted(id, place) using (id)
      ) o
      where s.id = o.id
    `,
    [ids],
  )
}

/** What still moves people into a stage, in words. */
async function usesOf(id: string, client: Db): Promise<string[]> {
  const { rows: outcomes } = await client.query<{ name: string }>(
    sql`
      select o.name
      from outcomes o
      where o.archived_at is null
        and exists (
          select from jsonb_array_elements(o.actions) c where c ->> 'type' = 'moveStage' and c ->> 'to' = $1
        )
      order by o.position
    `,
    [id],
  )
  const team = await firstRow(
    client.query<{ first: boolean; answered: boolean }>(
      sql`
        select coalesce(first_touch_to = $1, false) as first, coalesce(answered_stage = $1, false) as answered
        from team
      `,
      [id],
    ),
  )
  return [
    ...outcomes.map((outcome) => `the outcome “${outcome.name}”`),
    ...(team!.first ? ['the first touch'] : []),
    ...(team!.answered ? ['an answer'] : []),
  ]
}

/**
 * Archives a stage: nobody is moved there any more. Who stands there goes to `moveTo`, as a bulk action that is given
 * back; without one they stay. Throws where something still moves people into it.
 */
export async function archiveStage(
  viewer: Viewer,
  id: string,
  moveTo: string | null,
): Promise<{ bulkId: Id | null; moved: number }> {
  await change(async (client) => {
    const uses = await usesOf(id, client)
    if (uses.length) {
      throw new Refusal('refused', `Still used by ${uses.join(', ')}. Change that first`)
    }
    const { rowCount } = await client.query(
      sql`
        update stages
        set archived_at = coalesce(archived_at, world_now())
        where id = $1
      `,
      [id],
    )
    if (!rowCount) throw notFound('stage')
  })
  if (!moveTo) return { bulkId: null, moved: 0 }
  const bulkId = newId()
  const action = {
    type: 'stage' as const,
    to: moveTo,
    reason: 'Its stage was archived',
    override: 'Its stage was archived',
  }
  const filter: Filter = { all: [{ field: 'stage', test: { op: 'anyOf', values: [id] } }] }
  const { touches } = await startBulk(viewer, { id: bulkId, action, filter })
  return { bulkId, moved: touches }
}
