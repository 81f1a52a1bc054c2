import type { StepKind, WaitUnit } from '#core/enumerations'
import { senderPlace } from '#core/calendar/sendingWindow'
import { planAll } from '#core/cadence/plan'
import { DEFAULT_ENTRY } from '#core/cadence/entry'
import { DEFAULT_EXITS } from '#core/cadence/exits'
import { otherwise } from '#core/cadence/route'
import { allottedVersion, textOfVersion, versionName } from '#core/cadence/versions'
import type { Step, Way } from '#core/cadence/steps'
import { waysAsked } from '#core/engine/breadth'
import { fitsNow } from '#core/engine/state/facts'
import type { Playbook } from '#core/engine/state/playbook'
import { templateFaults } from '#core/text/merge'
import type { Id, Instant } from '#core/instant'
import type { Cadence, StepDraft } from '#shared/api/cadences/cadences'
import { MERGE_COLUMNS, mergeValues, readMergeNames, type MergeRow } from '../../db/mergeFields'
import { db } from '../../db/pool'
import { withFacts } from '../../engine/facts'
import { load } from '../../engine/load'
import { currentPlaybook } from '../../engine/playbook'
import { readWindow } from '../sending/windows'
import { mustSee } from '../access/access'
import { mayEdit, maySee, mustSeeCadence } from '../access/owned'
import { notFound } from '../access/errors'
import type { Viewer } from '../access/viewer'
import { fillEmail } from '../templates/templates'
import { settleTexts } from './stepTexts'
import { firstRow, sql } from '../../db/sql'

/** Cadences with how many people are at each step, and why others have left. */
export async function listCadences(viewer: Viewer) {
  interface Row {
    id: Id
    name: string
    status: string
    category: string
    description: string
    owner: string | null
    ownerId: Id | null
    shared: boolean
    open: number
    exits: Record<string, number>
    steps: {
      id: Id
      kind: StepKind
      name: string
      wait: { amount: number; unit: WaitUnit; at: number | null }
      wayId: Id | null
      here: number
    }[]
  }
  const { rows } = await db().query<Row>(sql`
    select
      c.id, c.name, c.status, c.category, c.description, c.owner_id as "ownerId", c.shared,
      case when not c.shared then u.name end as owner,
      (select count(*) from enrollments e where e.cadence_id = c.id and e.status <> 'ended') as open,
      (
        select coalesce(json_object_agg(x.exit, x.count), '{}')
        from (
          select exit, count(*) as count
          from enrollments e
          where e.cadence_id = c.id and e.status = 'ended'
          group by exit
        ) x
      ) as exits,
      (
        select coalesce(
          json_agg(
            json_build_object(
              'id', s.id, 'kind', s.kind, 'name', s.name, 'wayId', s.way_id, 'wait',
              json_build_object('amount', s.wait_amount, 'unit', s.wait_unit, 'at', s.wait_at), 'here',
              (
                select count(*)
                from enrollments e
                where e.cadence_id = c.id and e.step_id = s.id and e.status <> 'ended'
              )
            ) order by s.position
          ), '[]'
        )
        from cadence_steps s
        where s.cadence_id = c.id and s.archived_at is null
      ) as steps
    from cadences c
      left join users u on u.id = c.owner_id
    where c.status <> 'archived'
    order by c.created_at, c.id
  `)
  return { cadences: rows.filter((row) => maySee(viewer, row)) }
}

/** An earlier version that people finish: its number, and when it was replaced. */
interface EarlierVersion {
  version: number
  until: Instant
  people: number
}

/** One cadence as it is edited. */
export async function getCadence(
  id: Id,
): Promise<Cadence & { people: Record<Id, number>; earlier: EarlierVersion[]; ownerId: Id | null }> {
  const row = await firstRow(
    db().query<Cadence & { ownerId: Id | null }>(
      sql`
        select
          c.id, c.status, c.version, c.name, c.category, c.description, c.shared, c.owner_id as "ownerId", c.cold,
          c.email_type as "emailType",
          c.after_last as "afterLast",
          c.window_id as "windowId", c.exits, c.entry,
          (
            select coalesce(
              json_agg(
                json_build_object(
                  'id', s.id, 'kind', s.kind, 'wait',
                  json_build_object('amount', s.wait_amount, 'unit', s.wait_unit, 'at', s.wait_at), 'name', s.name,
                  'subject', s.subject, 'body', s.body, 'html', s.html, 'attachments', s.attachments,
                  'weight',
                  s.weight, 'versions', s.versions, 'templateId',
                  s.template_id, 'link', s.link, 'review', s.review, 'requiresPrevious',
                  s.requires_previous, 'wayId', s.way_id, 'ways', s.ways, 'endsEarly', s.ends_early
                ) order by s.position
              ), '[]'
            )
            from cadence_steps s
            where s.cadence_id = c.id and s.archived_at is null
          ) as steps
        from cadences c
        where c.id = $1
      `,
      [id],
    ),
  )
  if (!row) throw notFound('cadence')
  const { rows: here } = await db().query<{ id: Id; people: number }>(
    sql`
      select step_id as id, count(*)::int as people
      from enrollments
      where cadence_id = $1 and status <> 'ended'
      group by 1
    `,
    [id],
  )
  const { rows: earlier } = await db().query<EarlierVersion>(
    sql`
      select s.of_version as version, ms(max(s.archived_at)) as until, count(*)::int as people
      from enrollments e
        join cadence_steps s on s.id = e.step_id
      where e.cadence_id = $1 and e.status <> 'ended' and s.of_version is not null
      group by 1
      order by 1 desc
    `,
    [id],
  )
  return {
    ...row,
    earlier,
    exits: { ...DEFAULT_EXITS, ...row.exits },
    entry: { ...DEFAULT_ENTRY, ...row.entry },
    people: Object.fromEntries(here.map((step) => [step.id, step.people])),
  }
}

/** One cadence as a viewer sees it; whether they may change it. */
export async function readCadence(viewer: Viewer, id: Id) {
  await mustSeeCadence(viewer, id)
  const { ownerId, ...cadence } = await getCadence(id)
  return { ...cadence, mayEdit: mayEdit(viewer, { ownerId, shared: cadence.shared }) }
}

/** Steps as they are edited, as the engine reads them. */
export function asSteps(steps: readonly StepDraft[], cadenceId: Id): Step[] {
  return steps.map((step, position) => {
    const { subject: _subject, body: _body, html: _html, attachments: _files, templateId: _template, ...rest } = step
    const { link: _link, weight: _weight, versions: _versions, ...core } = rest
    return { ...core, cadenceId, position }
  })
}

/**
 * Which way a prospect would take at a branch, by what is known of them now. What has not happened yet fits nobody;
 * without a prospect everyone goes the last way.
 */
async function chooserFor(
  prospectId: Id | null,
  steps: readonly Step[],
  book: Playbook,
): Promise<(branch: Pick<Step, 'ways'>) => Way | null> {
  const filters = waysAsked([{ steps }])
  if (!prospectId || !filters.length) return otherwise
  const { state: loaded } = await load(db(), [prospectId], [], { colleagues: false, records: true })
  const state = await withFacts(db(), loaded, [prospectId], { filters }, book)
  return (branch) =>
    branch.ways.find(
      ({ when }) => when === null || (when.type === 'filter' && fitsNow(state, book, prospectId, when.where)),
    ) ?? null
}

/**
 * Real dates if someone started now, and each step's text as they would get it. Without a person, the team's own
 * place.
 */
export async function planCadence(
  viewer: Viewer,
  prospectId: Id | null,
  given: { windowId: Id | null; steps: readonly StepDraft[] },
) {
  if (prospectId) await mustSee(viewer, prospectId)
  const draft = { ...given, steps: await settleTexts(viewer, given.steps, false) }
  const book = await currentPlaybook(db())
  const row = await firstRow(
    db().query<
      {
        now: number
        timeZone: string
        country: string
        who: string | null
        owner: Id | null
        p_time_zone: string | null
        p_country: string | null
        p_region: string | null
      } & MergeRow
    >(
      sql`
        select
          ms(world_now()) as now, t.time_zone as "timeZone", t.country,
          btrim(p.first_name || ' ' || p.last_name) as who, coalesce(p.owner_id, $2) as owner,
          p.time_zone as p_time_zone, p.country as p_country, p.region as p_region, ${MERGE_COLUMNS}
        from team t
          left join prospects p on p.id = $1
          left join companies c on c.id = p.company_id
      `,
      [prospectId, viewer.id],
    ),
  )
  const place = {
    timeZone: row!.p_time_zone ?? row!.timeZone,
    country: row!.p_time_zone ? row!.p_country : row!.country,
    region: row!.p_region,
  }
  const cadence = { window: await readWindow(draft.windowId), steps: asSteps(draft.steps, 'draft') }
  const sender = senderPlace(book, row!.owner)
  const where = { teamHours: book.callHours, place, sender, holidays: book.holidays }
  const choose = await chooserFor(prospectId, cadence.steps, book)
  const planned = planAll(cadence, row!.now, where, choose)
  const own = await readMergeNames(db())
  const values = prospectId
    ? mergeValues(row!, viewer, own)
    : { team: row!.team, sender_name: viewer.name, signature: viewer.signature || viewer.name }
  return {
    now: row!.now,
    timeZone: place.timeZone,
    who: row!.who,
    steps: planned.map((plan) => {
      const step = draft.steps.find(({ id }) => id === plan.stepId)!
      const faults = (['subject', 'body'] as const).flatMap((field) =>
        templateFaults(step[field], own).map((fault) => ({ field, ...fault })),
      )
      const allotted = prospectId && allottedVersion(step, prospectId)
      const { missing, ...filled } = fillEmail(textOfVersion(step, allotted), values)
      return {
        stepId: plan.stepId,
        at: plan.at,
        moved: plan.moved,
        wayId: step.kind === 'branch' ? (choose({ ways: step.ways })?.id ?? null) : null,
        ...filled,
        version: allotted && versionName(1 + step.versions.findIndex(({ id }) => id === allotted)),
        missing: prospectId ? missing : [],
        faults,
      }
    }),
  }
}
