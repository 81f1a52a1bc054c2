import { randomUUID } from 'node:crypto'
import { ACTIONS } from '#core/actions/registry'
import { circleOfCadences } from '#core/engine/afterLast'
import { routeFaults, stepsFrom, stepsTo } from '#core/cadence/route'
import type { Step } from '#core/cadence/steps'
import { conditionFault } from '#core/filter/problems'
import { templateFaults, type CustomMergeField } from '#core/text/merge'
import { MOST_PARTS, textLength } from '#core/text/textMessage'
import type { Filter } from '#core/filter/filter'
import type { Id } from '#core/instant'
import type { Cadence, StepDraft, WayDraft } from '#shared/api/cadences'
import { readMergeNames } from '../../db/mergeFields'
import { EVERYTHING, readFilterWorld } from '../../db/filterWorld'
import { db, transaction, type Db } from '../../db/pool'
import { recountStarts } from '../../engine/intake'
import { currentPlaybook, playbookChanged } from '../../engine/playbook'
import { startBulk } from '../bulk/bulk'
import { actionFaults } from '../settings/outcomes'
import { notFound, Refusal } from '../access/errors'
import type { Viewer } from '../access/viewer'
import { firstRow, sql } from '../../db/sql'
import { mustSeeCadence } from '../access/cadences'
import { asSteps, getCadence } from './cadences'
import { withNewIds } from './stepDraft'

type Draft = Omit<Cadence, 'id' | 'status' | 'version'>

/** What keeps steps from being used: broken templates, an email without subject or text. Each at its field. */
function stepProblems(
  steps: readonly StepDraft[],
  customFields: ReadonlyMap<string, CustomMergeField>,
): { field: string; message: string }[] {
  const route = { steps: asSteps(steps, '') }
  const bySubject = new Set(steps.filter(({ kind, subject }) => kind === 'email' && subject.trim()).map(({ id }) => id))
  return steps.flatMap((step, index) => {
    const at = (field: string, message: string) => ({ field: `steps.${index}.${field}`, message })
    const faults = (['subject', 'body', 'link'] as const).flatMap((field) =>
      templateFaults(step[field], customFields).map((fault) => at(field, `Line ${fault.line}: ${fault.message}`)),
    )
    // Without a subject it goes on in the thread of an email that comes before it on every way there.
    if (step.kind === 'email' && !stepsTo(route, route.steps[index]!).some(({ id }) => bySubject.has(id))) {
      faults.push(at('subject', 'The first email needs a subject'))
    }
    if (step.kind === 'email' && !step.body.trim()) faults.push(at('body', 'An email needs a text'))
    if (step.kind === 'text' && !step.body.trim()) faults.push(at('body', 'Enter what to text'))
    const { parts } = textLength(step.kind === 'text' ? step.body : '')
    if (parts > MOST_PARTS) faults.push(at('body', `Too long: ${parts} messages, at most ${MOST_PARTS}`))
    return faults
  })
}

/** What a starter text leaves to the team: it must be replaced before anyone gets it. */
function placeholdersIn(steps: readonly StepDraft[]): { field: string; message: string }[] {
  return steps.flatMap((step, index) =>
    (['subject', 'body', 'link'] as const).flatMap((field) => {
      const found = /\[\[(.*?)\]\]/s.exec(step[field])
      return found
        ? [
            {
              field: `steps.${index}.${field}`,
              message: `${step.name}: replace “[[${found[1]}]]” with your own words first`,
            },
          ]
        : []
    }),
  )
}

/** What is wrong with the order of steps, and with what their ways ask; each at its field. */
async function branchProblems(steps: readonly StepDraft[]): Promise<{ field: string; message: string }[]> {
  const faults = routeFaults(asSteps(steps, '')).map(({ index, field, message }) => ({
    field: `steps.${index}.${field}`,
    message,
  }))
  if (!steps.some((step) => step.ways.length)) return faults
  const { fields } = await readFilterWorld(db(), EVERYTHING)
  const outcomes = new Set(fields.get('outcomes')!.choices!.map(({ id }) => id))
  const faultOf = (when: WayDraft['when']): string | undefined => {
    if (when?.type === 'outcome') {
      return when.outcomeIds.every((id) => outcomes.has(id)) ? undefined : 'Choose outcomes that are there'
    }
    return when?.type === 'filter' ? conditionFault(when.where, fields) : undefined
  }
  const asked = steps.flatMap((step, index) =>
    step.ways.flatMap(({ when }, place) => {
      const message = faultOf(when)
      return message ? [{ field: `steps.${index}.ways.${place}`, message }] : []
    }),
  )
  return [...faults, ...asked]
}

/** What is wrong with what follows the last step; each at its action. */
async function afterProblems(
  actions: Draft['afterLast'],
  id: Id | null,
): Promise<{ field: string; message: string }[]> {
  if (!actions.length) return []
  const at = (index: number, message: string) => ({ field: `afterLast.${index}`, message })
  const faults = (await actionFaults(actions)).flatMap((message, index) => {
    const mayFollow = ACTIONS[actions[index]!.type]!.mayWait
    const fault = mayFollow ? message : 'This action belongs to a call: choose another'
    return fault ? [at(index, fault)] : []
  })
  const { cadences, afterLast } = await currentPlaybook(db())
  const circle = id && circleOfCadences({ ...afterLast, [id]: actions })
  if (!circle) return faults
  const names = circle.map((one) => `“${cadences[one]?.name ?? 'a cadence'}”`).join(', then ')
  const index = actions.findIndex(({ type }) => type === 'startCadence')
  return [...faults, at(index, `This would never end: ${names}`)]
}

/** What is wrong with who may enter and what ends it; each at its field. */
async function ruleProblems({ entry, exits }: Draft): Promise<{ field: string; message: string }[]> {
  const problems: { field: string; message: string }[] = []
  if (entry.where) {
    const { fields } = await readFilterWorld(db(), EVERYTHING)
    const message = conditionFault(entry.where, fields)
    if (message) problems.push({ field: 'entry.where', message })
  }
  const { stages } = await currentPlaybook(db())
  if (exits.stages.ids.some((id) => !stages[id])) {
    problems.push({ field: 'exits.stages.ids', message: 'Choose stages that are there' })
  }
  return problems
}

async function checkDraft(draft: Draft, status: Cadence['status'], id: Id | null): Promise<void> {
  const problems = stepProblems(draft.steps, await readMergeNames(db()))
  problems.push(...(await branchProblems(draft.steps)), ...(await afterProblems(draft.afterLast, id)))
  problems.push(...(await ruleProblems(draft)))
  if (new Set(draft.steps.map((step) => step.id)).size !== draft.steps.length) {
    problems.push({ field: 'steps', message: 'Two steps have the same id' })
  }
  if (status === 'active') problems.push(...placeholdersIn(draft.steps))
  if (status === 'active' && !draft.steps.length) {
    problems.push({ field: 'steps', message: 'An active cadence needs a step' })
  }
  if (problems.length) throw new Refusal('invalid', problems[0]!.message, problems)
}

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
  const { rows: before } = await client.query<Step>(
    sql`
      select id, position, kind, way_id as "wayId", ways
      from cadence_steps
      where cadence_id = $1 and archived_at is null
      order by position
    `,
    [cadenceId],
  )
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
        id, cadence_id, position, kind, wait_amount, wait_unit, wait_at, name, subject, body, link, review,
        requires_previous, way_id, ways, ends_early
      )
      select
        r.id, $1, r.position, r.kind, r.amount, r.unit, r.at, r.name, r.subject, r.body, r.link, r.review,
        r."requiresPrevious", r."wayId", r.ways, r."endsEarly"
      from jsonb_to_recordset($2::jsonb) as r(
        id uuid, position int, kind text, amount int, unit text, at int, name text, subject text, body text,
        link text, review boolean, "requiresPrevious" boolean, "wayId" uuid, ways jsonb, "endsEarly" boolean
      )
      on conflict
        (id) do update set position = excluded.position, kind = excluded.kind, wait_amount = excluded.wait_amount,
        wait_unit = excluded.wait_unit, wait_at = excluded.wait_at, link = excluded.link, review = excluded.review,
        name = excluded.name, subject = excluded.subject, body = excluded.body,
        requires_previous = excluded.requires_previous, way_id = excluded.way_id, ways = excluded.ways,
        ends_early = excluded.ends_early, archived_at = null, followed_by = null
    `,
    [cadenceId, JSON.stringify(steps.map((step, position) => ({ ...step, ...step.wait, position })))],
  )
  const deletedColumns = [deleted.map((step) => step.id), deleted.map((step) => step.next)]
  await client.query(
    sql`
      update cadence_steps s
      set followed_by = d.next
      from unnest($1::uuid[], $2::uuid[]) as d(id, next)
      where s.id = d.id
    `,
    deletedColumns,
  )
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

/** Makes a cadence, as a draft: shared with everyone, but a rep’s own. */
export async function addCadence(viewer: Viewer, draft: Draft): Promise<{ id: Id }> {
  await checkDraft(draft, 'draft', null)
  const id = randomUUID()
  await transaction(async (client) => {
    await client.query(
      sql`
        insert into cadences (
          id, name, cold, window_days, window_from, window_to, exits, entry, owner_id, after_last, category,
          description, shared, created_at
        )
        values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13, world_now())
      `,
      [
        id,
        draft.name,
        draft.cold,
        draft.window.days,
        draft.window.from,
        draft.window.to,
        JSON.stringify(draft.exits),
        JSON.stringify(draft.entry),
        viewer.id,
        JSON.stringify(draft.afterLast),
        draft.category,
        draft.description,
        draft.shared && viewer.role !== 'rep',
      ],
    )
    await writeSteps(client, id, draft.steps)
    await playbookChanged(client)
  })
  return { id }
}

/** Replaces a cadence. Throws a conflict where someone else has saved meanwhile. */
export async function editCadence(
  viewer: Viewer,
  id: Id,
  edit: Draft & { version: number; status: Cadence['status'] },
): Promise<{ version: number }> {
  await mustSeeCadence(viewer, id, true)
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
          name = $2, status = $3, cold = $4, window_days = $5, window_from = $6, window_to = $7, exits = $8,
          entry = $9, after_last = $10, category = $11, description = $12, shared = $13, version = version + 1
        where id = $1
      `,
      [
        id,
        edit.name,
        edit.status,
        edit.cold,
        edit.window.days,
        edit.window.from,
        edit.window.to,
        JSON.stringify(edit.exits),
        JSON.stringify(edit.entry),
        JSON.stringify(edit.afterLast),
        edit.category,
        edit.description,
        edit.shared,
      ],
    )
    await writeSteps(client, id, edit.steps)
    if (row.status === 'paused' && edit.status === 'active') await makeDueAgain(client, id)
    if (row.perDay !== edit.entry.perDay) await recountStarts(client, id)
    await playbookChanged(client)
    return { version: row.version + 1 }
  })
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
    id: randomUUID(),
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
