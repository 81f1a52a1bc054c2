import { FIGURES_OF, type StepFigure, type WaitsFor } from '#core/cadence/figures'
import { versionName, type TextVersion } from '#core/cadence/versions'
import type { StepKind } from '#core/enumerations'
import type { Id, Instant } from '#core/instant'
import { db } from '../../db/pool'
import { sql } from '../../db/sql'
import { limitedTo, visible } from '../access/access'
import { mustSeeCadence } from '../access/owned'
import { getCadence } from './cadences'
import type { Viewer } from '../access/viewer'

/**
 * What each enrollment of a cadence ($1) has come to at each step, a row for every figure that counts it: emails of the
 * step by what became of them, calls and work by what was logged, and meetings that ended it there. An opt-out belongs
 * to the last email before it.
 */
const COUNTED = sql`
  with mine as (
    select id, prospect_id, step_id, status, exit
    from enrollments
    where cadence_id = $1
  ),
  emails as (
    select m.id, m.enrollment_id, m.step_id, m.status, m.sent_at, m.opened_at, m.clicked_at
    from mine e
      join email_messages m on m.enrollment_id = e.id and m.status in ('sent', 'failed')
  ),
  texts as (
    select t.enrollment_id, t.step_id, m.status, m.prospect_id, m.at
    from mine e
      join events v on v.prospect_id = e.prospect_id and v.kind = 'textWritten'
      join tasks t on t.id = (v.payload ->> 'taskId')::uuid and t.enrollment_id = e.id
      join text_messages m on m.id = (v.payload ->> 'messageId')::uuid
  ),
  counted as (
    select enrollment_id, step_id, 'sent' as figure
    from emails
    where status = 'sent'
    union
    select m.enrollment_id, m.step_id, 'delivered'
    from emails m
      join mine e on e.id = m.enrollment_id
    where m.status = 'sent'
      and not exists (
        select from replies r where r.prospect_id = e.prospect_id and r.message_id = m.id and r.kind = 'bounce'
      )
    union
    select enrollment_id, step_id, 'opened'
    from emails
    where opened_at is not null
    union
    select enrollment_id, step_id, 'clicked'
    from emails
    where clicked_at is not null
    union
    select m.enrollment_id, m.step_id, case r.kind when 'bounce' then 'bounced' else 'replied' end
    from emails m
      join mine e on e.id = m.enrollment_id
      join replies r on r.prospect_id = e.prospect_id and r.message_id = m.id and r.kind in ('reply', 'bounce')
    union
    select enrollment_id, step_id, 'bounced'
    from emails
    where status = 'failed'
    union
    select last.enrollment_id, last.step_id, 'optedOut'
    from mine e
      join events v on v.prospect_id = e.prospect_id and v.kind = 'unsubscribed'
      join lateral (
        select m.enrollment_id, m.step_id
        from emails m
        where m.enrollment_id = e.id and m.sent_at <= v.at
        order by m.sent_at desc
        limit 1
      ) last on true
    union
    select t.enrollment_id, t.step_id, case t.kind when 'call' then 'called' else 'done' end
    from mine e
      join touches t on t.prospect_id = e.prospect_id and t.enrollment_id = e.id and t.step_id is not null
    where t.kind not in ('email', 'reply')
    union
    select enrollment_id, step_id, 'delivered'
    from texts
    where status = 'delivered'
    union
    select x.enrollment_id, x.step_id, 'replied'
    from texts x
    where exists (
      select from text_messages r where r.prospect_id = x.prospect_id and r.direction = 'in' and r.at >= x.at
    )
    union
    select t.enrollment_id, t.step_id, 'reached'
    from mine e
      join touches t on t.prospect_id = e.prospect_id and t.enrollment_id = e.id and t.step_id is not null
    where t.counts_as = 'conversation' and t.kind = 'call'
    union
    select id, step_id, 'meetings'
    from mine
    where exit = 'meeting_booked'
    union
    select id, step_id, 'here'
    from mine
    where status <> 'ended'
    union
    select id, step_id, 'left'
    from mine
    where status = 'ended' and exit <> 'finished'
  )
`

interface StepRow {
  id: Id
  kind: StepKind
  name: string
  wayId: Id | null
  archived: boolean
  earlier: boolean
  versions: TextVersion[]
}
interface FigureRow {
  stepId: Id
  figure: StepFigure | 'here' | 'left'
  count: number
}
interface VersionRow extends FigureRow {
  versionId: Id
}
interface LeftRow {
  stepId: Id
  exit: string
  count: number
}

/** What came of a cadence so far, step by step; steps that were deleted are last, where anyone was at them. */
export async function cadenceResults(viewer: Viewer, cadenceId: Id) {
  await mustSeeCadence(viewer, cadenceId)
  const { name } = await getCadence(cadenceId)
  const [{ rows: steps }, { rows: figures }, { rows: left }, { rows: exits }, { rows: ofVersions }] = await Promise.all(
    [
      db().query<StepRow>(
        sql`
        select
          id, kind, name, way_id as "wayId", archived_at is not null as archived, of_version is not null as earlier,
          versions
        from cadence_steps
        where cadence_id = $1
        order by archived_at is not null, of_version desc nulls last, position
      `,
        [cadenceId],
      ),
      db().query<FigureRow>(
        sql`
        ${COUNTED}
        select step_id as "stepId", figure, count(*)::int as count
        from counted
        where step_id is not null
        group by 1, 2
      `,
        [cadenceId],
      ),
      db().query<LeftRow>(
        sql`
        select step_id as "stepId", exit, count(*)::int as count
        from enrollments
        where cadence_id = $1 and status = 'ended' and exit <> 'finished'
        group by 1, 2
        order by 3 desc
      `,
        [cadenceId],
      ),
      db().query<{ exit: string | null; count: number }>(
        sql`
        select exit, count(*)::int as count
        from enrollments
        where cadence_id = $1
        group by 1
      `,
        [cadenceId],
      ),
      db().query<VersionRow>(
        sql`
        ${COUNTED}
        select k.step_id as "stepId", m.version_id as "versionId", k.figure, count(*)::int as count
        from counted k
          join email_messages m on m.enrollment_id = k.enrollment_id and m.step_id = k.step_id
        where m.version_id is not null and k.figure not in ('here', 'left')
        group by 1, 2, 3
      `,
        [cadenceId],
      ),
    ],
  )
  const versionsOf = ({ id: stepId, versions }: StepRow) => {
    const mine = ofVersions.filter((row) => row.stepId === stepId)
    const known = [stepId, ...versions.map(({ id }) => id)]
    const deleted = [...new Set(mine.map((row) => row.versionId))].filter((id) => !known.includes(id))
    if (!versions.length && !deleted.length) return []
    const figuresOf = (versionId: Id) =>
      Object.fromEntries(
        FIGURES_OF.email.map((figure) => [
          figure,
          mine.find((row) => row.versionId === versionId && row.figure === figure)?.count ?? 0,
        ]),
      )
    return [
      ...known.map((id, index) => ({ id, name: versionName(index), figures: figuresOf(id) })),
      ...deleted.map((id) => ({ id, name: 'deleted', figures: figuresOf(id) })),
    ]
  }
  const countOf = (stepId: Id, figure: FigureRow['figure']) =>
    figures.find((row) => row.stepId === stepId && row.figure === figure)?.count ?? 0
  const seen = steps.map((step) => ({
    ...step,
    here: countOf(step.id, 'here'),
    figures: Object.fromEntries(FIGURES_OF[step.kind].map((figure) => [figure, countOf(step.id, figure)])),
    versions: versionsOf(step),
    left: Object.fromEntries(left.filter((row) => row.stepId === step.id).map(({ exit, count }) => [exit, count])),
  }))
  const ended = Object.fromEntries(exits.flatMap(({ exit, count }) => (exit ? [[exit, count]] : [])))
  return {
    name,
    entered: exits.reduce((sum, row) => sum + row.count, 0),
    active: exits.find(({ exit }) => exit === null)?.count ?? 0,
    meetings: ended.meeting_booked ?? 0,
    exits: ended,
    steps: seen.filter(
      ({ archived, here, figures: counts, left: ended }) =>
        !archived || here > 0 || Object.values(counts).some(Boolean) || Object.keys(ended).length > 0,
    ),
  }
}

interface PersonRow {
  id: Id
  name: string
  company: string | null
  enrollmentId: Id
  status: string
  waitsFor: WaitsFor | null
  until: Instant | null
}

/** At most so many people of a figure are listed. */
const LISTED = 500

/**
 * The people whom a figure of a step counts, as far as the viewer may see them; those who are there with what they wait
 * for.
 */
export async function resultPeople(
  viewer: Viewer,
  cadenceId: Id,
  asked: { step: Id; figure: FigureRow['figure']; exit?: string | undefined; version?: Id | undefined },
): Promise<{ people: PersonRow[]; count: number }> {
  await mustSeeCadence(viewer, cadenceId)
  const { rows } = await db().query<PersonRow & { all: number }>(
    sql`
      ${COUNTED}
      select
        p.id, btrim(p.first_name || ' ' || p.last_name) as name, c.name as company, e.id as "enrollmentId", e.status,
        case
          when e.status = 'ended' then null
          when a.status = 'paused' then 'resume'
          when e.status = 'paused' then 'callBack'
          when e.intake_day > (world_now() at time zone t.time_zone)::date then 'room'
          when e.status = 'waiting' then 'time'
          when m.status = 'queued' then coalesce(m.waits_for, 'email')
          when m.status = 'held' then 'detail'
          else 'rep'
        end as "waitsFor",
        ms(coalesce(e.due_at, case when m.status = 'queued' then m.send_at end)) as until,
        count(*) over ()::int as all
      from counted k
        join enrollments e on e.id = k.enrollment_id
        join cadences a on a.id = e.cadence_id
        join prospects p on p.id = e.prospect_id
        left join companies c on c.id = p.company_id
        left join email_messages m
          on m.enrollment_id = e.id and m.step_id = e.step_id and m.status in ('queued', 'held')
        cross join team t
      where k.step_id = $2 and k.figure = $3 and ($4::text is null or e.exit = $4)
        and ($6::uuid is null or exists (
          select from email_messages v
          where v.enrollment_id = e.id and v.step_id = k.step_id and v.version_id = $6
        )) and ${visible('p', '$5')}
      order by 2, 1
      limit ${LISTED}
    `,
    [cadenceId, asked.step, asked.figure, asked.exit ?? null, limitedTo(viewer), asked.version ?? null],
  )
  return { people: rows.map(({ all: _, ...person }) => person), count: rows[0]?.all ?? 0 }
}
