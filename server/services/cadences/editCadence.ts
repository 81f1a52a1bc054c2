import { manages } from '#core/roles'
import { stepsFrom } from '#core/cadence/route'
import type { Step } from '#core/cadence/steps'
import type { Filter } from '#core/filter/filter'
import type { Id } from '#core/instant'
import type { Cadence, StepDraft } from '#shared/api/cadences/cadences'
import { newId } from '#shared/newId'
import { transaction, type Db } from '../../db/pool'
import { recountStarts } from '../../engine/intake'
import { playbookChanged } from '../../engine/playbook'
import { startBulk } from '../bulk/bulk'
import { notFound, Refusal } from '../access/errors'
import type { Viewer } from '../access/viewer'
import { firstRow, sql } from '../../db/sql'
import { mustSeeCadence } from '../access/owned'
import { getCadence } from './cadences'
import { checkDraft, placeholdersIn, type Draft } from './checkCadence'
import { settleTexts } from './stepTexts'
import { withNewIds } from './stepDraft'

const STEPS_BEFORE_SQL = sql`
  select id, position, kind, way_id as "wayId", ways
  from cadence_steps
  where cadence_id = $1 and archived_at is null
  order by position
`

/** Notes which step follows each of some that are archived. */
const FOLLOWED_SQL = sql`
  update cadence_steps s
  set followed_by = d.next
  from unnest($1::uuid[], $2::uuid[]) as d(id, next)
  where s.id = d.id
`

/** Puts steps in the place of those a cadence has. People who are in it go on with these. */
async function writeSteps(client: Db, cadenceId: Id, steps: readonly StepDraft[]): Promise<void> {
  const taken = await client.query<{ id: Id }>(
    sql`select id from cadence_steps where id = any($1::uuid[]) and cadence_id <> $2`,
    [steps.map((step) => step.id), cadenceId],
  )
  if (taken.rows.length) {
    throw new Refusal('invalid', 'A step belongs to another cadence', [
      { field: 'steps', message: 'A step belongs to another cadence' },
    ])
  }
  // Deleted steps are kept, with the step that followed each: anyone who is on one goes on from there.
  const { rows: before } = await client.query<Step>(STEPS_BEFORE_SQL, [cadenceId])
  const stays = new Set(steps.map((step) => step.id))
  const route = { steps: before }
  const deleted = before
    .filter((step) => !stays.has(step.id))
    .map((step) => ({ id: step.id, next: stepsFrom(route, step).find(({ id }) => stays.has(id))?.id ?? null }))
  await client.query(
    sql`
      update cadence_steps
      set archived_at = now()
      where cadence_id = $1 and archived_at is null
    `,
    [cadenceId],
  )
  await client.query(
    sql`
      insert into cadence_steps (
        id, cadence_id, position, kind, wait_amount, wait_unit, wait_at, name, subject, body, html, attachments,
        weight, versions, template_id, link, review, requires_previous, way_id, ways, ends_early
      )
      select
        r.id, $1, r.position, r.kind, r.amount, r.unit, r.at, r.name, r.subject, r.body, r.html, r.attachments,
        r.weight, r.versions, r."templateId", r.link, r.review, r."requiresPrevious", r."wayId", r.ways, r."endsEarly"
      from jsonb_to_recordset($2::jsonb) as r(
        id uuid, position int, kind text, amount int, unit text, at int, name text, subject text, body text,
        html text, attachments uuid[], weight int, versions jsonb, "templateId" uuid, link text,
        review boolean, "requiresPrevious" boolean, "wayId" uuid, ways jsonb, "endsEarly" boolean
      )
      on conflict
        (id) do update set position = excluded.position, kind = excluded.kind, wait_amount = excluded.wait_amount,
        wait_unit = excluded.wait_unit, wait_at = excluded.wait_at, link = excluded.link, review = excluded.review,
        name = excluded.name, subject = excluded.subject, body = excluded.body, html = excluded.html,
        attachments = excluded.attachments, weight = excluded.weight,
        versions = excluded.versions, template_id = excluded.template_id,
        requires_previous = excluded.requires_previous, way_id = excluded.way_id, ways = excluded.ways,
        ends_early = excluded.ends_early, archived_at = null, followed_by = null
    `,
    [cadenceId, JSON.stringify(steps.map((step, position) => ({ ...step, ...step.wait, position })))],
  )
  const deletedColumns = [deleted.map((step) => step.id), deleted.map((step) => step.next)]
  await client.query(FOLLOWED_SQL, deletedColumns)
  // People who wait for a step that was deleted wait for the one after it; where there is none, they are through when
  // it falls due.
  await client.query(
    sql`
      update enrollments e
      set step_id = d.next
      from unnest($1::uuid[], $2::uuid[]) as d(id, next)
      where e.step_id = d.id and d.next is not null and e.status = 'waiting'
    `,
    deletedColumns,
  )
}

/**
 * Puts steps in the place of those a cadence has, under new ids; people who are in it finish the version (its number)
 * they are in. Each step of before is followed by the one in its place, or by the next that is left: what names it, as
 * an action does, goes there.
 */
async function writeNewVersion(client: Db, cadenceId: Id, version: number, steps: readonly StepDraft[]): Promise<void> {
  const { rows: before } = await client.query<Step>(STEPS_BEFORE_SQL, [cadenceId])
  const made = withNewIds(steps)
  const newIds = new Map(steps.map(({ id }, index) => [id, made[index]!.id]))
  await client.query(
    sql`
      update cadence_steps
      set archived_at = world_now(), of_version = $2, template_id = null
      where cadence_id = $1 and archived_at is null
    `,
    [cadenceId, version],
  )
  await writeSteps(client, cadenceId, made)
  const route = { steps: before }
  const instead = before.map((step) => stepsFrom(route, step).flatMap(({ id }) => newIds.get(id) ?? [])[0] ?? null)
  const columns = [before.map(({ id }) => id), instead]
  await client.query(FOLLOWED_SQL, columns)
  for (const [table, column] of [
    ['outcomes', 'actions'],
    ['cadences', 'after_last'],
  ] as const) {
    await client.query(
      sql`
        update ${table} t
        set ${column} = (
          select jsonb_agg(
            case when d.next is null then a.action else a.action || jsonb_build_object('stepId', d.next) end
            order by a.place
          )
          from jsonb_array_elements(t.${column}) with ordinality as a(action, place)
            left join unnest($1::uuid[], $2::uuid[]) as d(id, next) on d.id::text = a.action ->> 'stepId'
        )
        where exists (
          select from jsonb_array_elements(t.${column}) a where a ->> 'stepId' = any($1::text[])
        )
      `,
      columns,
    )
  }
}

/** Makes a cadence, as a draft: shared with everyone, but a rep’s own. */
export async function addCadence(viewer: Viewer, given: Draft): Promise<{ id: Id }> {
  const draft = { ...given, steps: await settleTexts(viewer, given.steps, given.shared && manages(viewer)) }
  await checkDraft(draft, 'draft', null)
  const id = newId()
  await transaction(async (client) => {
    await client.query(
      sql`
        insert into cadences (
          id, name, cold, window_id, exits, entry, owner_id, after_last, category,
          description, shared, email_type, created_at
        )
        values (
          $1, $2, $3, coalesce($4, default_window_id()), $5, $6, $7, $8, $9, $10, $11, $12, world_now()
        )
      `,
      [
        id,
        draft.name,
        draft.cold,
        draft.windowId,
        JSON.stringify(draft.exits),
        JSON.stringify(draft.entry),
        viewer.id,
        JSON.stringify(draft.afterLast),
        draft.category,
        draft.description,
        draft.shared && manages(viewer),
        draft.emailType,
      ],
    )
    await writeSteps(client, id, draft.steps)
    await playbookChanged(client)
  })
  return { id }
}

/**
 * Replaces a cadence. People who are in it go on with its steps as they are now, or finish the version they are in
 * (`underWay`). Throws a conflict where someone else has saved meanwhile.
 */
export async function editCadence(
  viewer: Viewer,
  id: Id,
  given: Draft & { version: number; status: Cadence['status']; underWay?: 'move' | 'finish' },
): Promise<{ version: number }> {
  await mustSeeCadence(viewer, id, true)
  const edit = { ...given, steps: await settleTexts(viewer, given.steps, given.shared) }
  await checkDraft(edit, edit.status, id)
  return transaction(async (client) => {
    const row = await firstRow(
      client.query<{ version: number; status: Cadence['status']; perDay: number | null }>(
        sql`
          select version, status, (entry ->> 'perDay')::int as "perDay"
          from cadences
          where id = $1
          for update
        `,
        [id],
      ),
    )
    if (!row) throw notFound('cadence')
    if (row.version !== edit.version) {
      throw new Refusal('conflict', 'Changed by someone else. Load it again; your changes are still here to copy', [], {
        version: row.version,
      })
    }
    await client.query(
      sql`
        update cadences
        set
          name = $2, status = $3, cold = $4, window_id = coalesce($5, window_id), exits = $6,
          entry = $7, after_last = $8, category = $9, description = $10, shared = $11,
          -- Where it has no owner, the user who stops sharing it becomes its owner.
          owner_id = case when $11 then owner_id else coalesce(owner_id, $12) end, email_type = $13,
          version = version + 1
        where id = $1
      `,
      [
        id,
        edit.name,
        edit.status,
        edit.cold,
        edit.windowId,
        JSON.stringify(edit.exits),
        JSON.stringify(edit.entry),
        JSON.stringify(edit.afterLast),
        edit.category,
        edit.description,
        edit.shared,
        viewer.id,
        edit.emailType,
      ],
    )
    if (given.underWay === 'finish') await writeNewVersion(client, id, row.version, edit.steps)
    else await writeSteps(client, id, edit.steps)
    if (row.status === 'paused' && edit.status === 'active') await makeDueAgain(client, id)
    if (row.perDay !== edit.entry.perDay) await recountStarts(client, id)
    await playbookChanged(client)
    return { version: row.version + 1 }
  })
}

/** Sets how many may start a cadence a day; null for no limit. Nothing happens where it is so already. */
export async function setPerDay(client: Db, viewer: Viewer, id: Id, perDay: number | null): Promise<void> {
  const row = await firstRow(
    client.query<{ perDay: number | null }>(
      sql`select (entry ->> 'perDay')::int as "perDay" from cadences where id = $1 for update`,
      [id],
    ),
  )
  if (row?.perDay === perDay) return
  await mustSeeCadence(viewer, id, true, client)
  await client.query(
    sql`
      update cadences
      set entry = jsonb_set(entry, '{perDay}', coalesce(to_jsonb($2::int), 'null')), version = version + 1
      where id = $1
    `,
    [id, perDay],
  )
  await recountStarts(client, id)
  await playbookChanged(client)
}

/** Puts what waited while a cadence was paused back on the calendar: steps that are due, email that is queued. */
async function makeDueAgain(client: Db, cadenceId: Id): Promise<void> {
  await client.query(
    sql`
      insert into scheduled_actions (ref_id, kind, at, prospect_id)
      select e.id, 'step', e.due_at, e.prospect_id
      from enrollments e
      where e.cadence_id = $1 and e.status = 'waiting' and e.due_at is not null
      union all
      select m.id, 'email', m.send_at, m.prospect_id
      from email_messages m
        join enrollments e on e.id = m.enrollment_id
      where e.cadence_id = $1 and m.status = 'queued'
      on conflict (ref_id) do nothing
    `,
    [cadenceId],
  )
}

/**
 * Pauses a cadence, resumes it, or archives it. Paused, it takes no steps and sends none of its email. Archived, nobody
 * can be enrolled any more; who is in it goes on to its end, or with `people: 'leave'` leaves it, by a bulk action.
 */
export async function setCadenceState(
  viewer: Viewer,
  id: Id,
  to: 'active' | 'paused' | 'archived',
  people: 'finish' | 'leave',
): Promise<{ version: number; left: number }> {
  await mustSeeCadence(viewer, id, true)
  if (to === 'active') {
    const problems = placeholdersIn((await getCadence(id)).steps)
    if (problems.length) throw new Refusal('invalid', problems[0]!.message, problems)
  }
  const version = await transaction(async (client) => {
    const row = await firstRow(
      client.query<{ version: number; status: Cadence['status']; steps: number }>(
        sql`
          select
            version, status,
            (select count(*)::int from cadence_steps s where s.cadence_id = c.id and s.archived_at is null) as steps
          from cadences c
          where id = $1
          for update
        `,
        [id],
      ),
    )
    if (!row) throw notFound('cadence')
    if (to === 'active' && !row.steps) throw new Refusal('refused', 'A cadence needs a step before it starts')
    if (to === 'paused' && row.status !== 'active') throw new Refusal('refused', 'Only an active cadence can be paused')
    await client.query(sql`update cadences set status = $2, version = version + 1 where id = $1`, [id, to])
    if (row.status === 'paused') await makeDueAgain(client, id)
    await playbookChanged(client)
    return row.version + 1
  })
  if (to !== 'archived' || people !== 'leave') return { version, left: 0 }
  const filter: Filter = { all: [{ field: 'inCadence', test: { op: 'hasAny', values: [id] } }] }
  const { touches } = await startBulk(viewer, {
    id: newId(),
    action: { type: 'leaveCadences', cadenceId: id },
    filter,
  })
  return { version, left: touches }
}

/** Copies a cadence with its steps, as a draft. */
export async function copyCadence(viewer: Viewer, id: Id): Promise<{ id: Id }> {
  await mustSeeCadence(viewer, id)
  const {
    id: _id,
    status: _state,
    version: _version,
    people: _people,
    ownerId: _owner,
    ...draft
  } = await getCadence(id)
  return addCadence(viewer, {
    ...draft,
    name: `Copy of ${draft.name}`.slice(0, 200),
    steps: withNewIds(draft.steps),
  })
}
