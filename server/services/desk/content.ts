import type { Id } from '#core/instant'
import type { Task } from '#core/engine/state/engineState'
import { merge, templateFaults, type CustomMergeField, type MergeValues, type TemplateFormat } from '#core/text/merge'
import { allottedVersion, textOfVersion, type TextVersion } from '#core/cadence/versions'
import type { Brief } from '#shared/api/desk/desk'
import { answerTo } from '../../channels/mail/compose'
import { MERGE_COLUMNS, mergeValues, readMergeNames, type MergeRow } from '../../db/mergeFields'
import { db } from '../../db/pool'
import { firstRow, sql } from '../../db/sql'
import { SAME_VERSION } from '../../db/stepVersions'
import type { Viewer } from '../access/viewer'
import { mustSeeBlock } from '../blocks/access'

interface StepRow extends MergeRow {
  subject: string
  body: string
  html: string | null
  attachments: Id[]
  weight: number
  versions: TextVersion[]
  /** The version that the prospect had of this step before. */
  had: Id | null
  link: string
  /** The subject of the thread that a step without one goes on in. */
  thread: string | null
  /** The subject of the step that began the thread, where nothing of it has been sent. */
  before: string | null
}

const STEP_SQL = sql`
  select
    s.subject, s.body, s.html, s.attachments, s.weight, s.versions, s.link, ${MERGE_COLUMNS},
    (
      select o.subject
      from email_messages o
      where o.enrollment_id = $3 and o.status = 'sent'
      order by o.sent_at, o.id
      limit 1
    ) as thread,
    (
      select o.version_id
      from email_messages o
      where o.step_id = s.id and o.prospect_id = p.id and o.version_id is not null
      order by o.send_at
      limit 1
    ) as had,
    (
      select b.subject
      from cadence_steps b
      where b.cadence_id = s.cadence_id and b.kind = 'email' and b.subject <> '' and ${SAME_VERSION}
        and b.position < s.position
      order by b.position desc
      limit 1
    ) as before
  from cadence_steps s
    cross join team t
    join prospects p on p.id = $2
    left join companies c on c.id = p.company_id
  where s.id = $1
`

/** A template filled in, with the fields that have no value; as it is where it has a fault. */
function filled(
  template: string,
  values: MergeValues,
  customFields: ReadonlyMap<string, CustomMergeField>,
  format: TemplateFormat = 'text',
) {
  return templateFaults(template, customFields, format).length
    ? { text: template, missing: [] }
    : merge(template, values, format)
}

interface Content {
  script: string | null
  message: Brief['message']
}
const NOTHING: Content = { script: null, message: null }

/** Kinds of task that are done by sending a message. */
const isMessage = ({ kind }: Task) => kind === 'email' || kind === 'text' || kind === 'social'

interface PlannedRow extends MergeRow {
  subject: string
  body: string
  html: string | null
  attachments: Id[]
}

/** What was planned to be said by a to-do that belongs to no cadence. */
async function plannedContent(task: Task, viewer: Viewer): Promise<Content> {
  const row = await firstRow(
    db().query<PlannedRow>(
      sql`
        select n.subject, n.body, n.html, n.attachments, ${MERGE_COLUMNS}
        from tasks k
          join task_contents n on n.id = k.content_id
          cross join team t
          join prospects p on p.id = k.prospect_id
          left join companies c on c.id = p.company_id
        where k.id = $1
      `,
      [task.id],
    ),
  )
  if (!row) return NOTHING
  const customFields = await readMergeNames(db())
  const fill = (template: string, format?: TemplateFormat) =>
    filled(template, mergeValues(row, viewer, customFields), customFields, format)
  const [subject, body] = [fill(row.subject), fill(row.body)]
  if (!isMessage(task)) return { script: body.text || null, message: null }
  const message = {
    subject: subject.text,
    body: body.text,
    html: row.html === null ? null : fill(row.html, 'html').text,
    attachments: row.attachments,
    link: '',
    missing: [...new Set<string>([...subject.missing, ...body.missing])],
  }
  return { script: null, message }
}

/**
 * What a task says to this prospect, by its step or as it was planned: a script or what to do, or the message that goes
 * out.
 */
export async function contentOf(task: Task | null, prospectId: Id, viewer: Viewer): Promise<Content> {
  if (!task) return NOTHING
  if (!task.stepId) return plannedContent(task, viewer)
  const row = await firstRow(db().query<StepRow>(STEP_SQL, [task.stepId, prospectId, task.enrollmentId]))
  if (!row) return NOTHING
  const customFields = await readMergeNames(db())
  const fill = (template: string, format?: TemplateFormat) =>
    filled(template, mergeValues(row, viewer, customFields), customFields, format)
  const step = { ...row, id: task.stepId }
  const version = textOfVersion(step, row.had ?? allottedVersion(step, prospectId))
  const body = fill(version.body)
  if (!isMessage(task)) return { script: body.text || null, message: null }
  const own = fill(version.subject || (row.thread ?? row.before ?? ''))
  const subject = version.subject || !row.thread ? own : { ...own, text: answerTo(row.thread) }
  const link = fill(row.link)
  const missing = [...new Set<string>([...subject.missing, ...body.missing, ...link.missing])]
  const html = version.html === null ? null : fill(version.html, 'html').text
  const message = {
    subject: subject.text,
    body: body.text,
    html,
    attachments: row.attachments,
    link: link.text,
    missing,
  }
  return { script: null, message }
}

/** What to say to a prospect in a call block; no message goes out by it. */
export async function scriptOfBlock(blockId: Id, prospectId: Id, viewer: Viewer): Promise<Content> {
  await mustSeeBlock(viewer, blockId)
  const row = await firstRow(
    db().query<MergeRow & { body: string }>(
      sql`
        select b.script as body, ${MERGE_COLUMNS}
        from call_blocks b
          cross join team t
          join prospects p on p.id = $2
          left join companies c on c.id = p.company_id
        where b.id = $1
      `,
      [blockId, prospectId],
    ),
  )
  if (!row?.body) return NOTHING
  const customFields = await readMergeNames(db())
  return { script: filled(row.body, mergeValues(row, viewer, customFields), customFields).text, message: null }
}
