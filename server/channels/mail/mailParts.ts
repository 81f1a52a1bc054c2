import type { Db } from '../../db/pool'
import type { EmailType } from '#core/enumerations'
import { picturesIn } from '#core/text/html'
import type { EmailFile, MailParts } from './compose'
import { allottedVersion, textOfVersion, type TextVersion } from '#core/cadence/versions'
import { MERGE_COLUMNS, mergeValues, readMergeNames, type MergeRow } from '../../db/mergeFields'
import { sql } from '../../db/sql'
import { SAME_VERSION } from '../../db/stepVersions'

interface Row extends MergeRow {
  id: string
  now: number
  kind: MailParts['kind']
  prospect_id: string
  enrollment_id: string | null
  step_id: string | null
  cold: boolean | null
  email_type: EmailType | null
  subject: string | null
  body: string | null
  html: string | null
  attachments: string[]
  in_reply_to: string | null
  written: boolean
  thread: { ids: string[]; subject: string } | null
  address: string
  sender_name: string | null
  sender_signature: string | null
  sender_address: string | null
  postal_address: string
  count_clicks: boolean
  attempts: number
  weight: number | null
  versions: TextVersion[] | null
  /** The version this email was allotted, and the one the prospect had of this step before. */
  version: string | null
  before: string | null
  meeting: MailParts['meeting']
}

const fileIdsOf = (row: Row) => [...new Set([...row.attachments, ...picturesIn(allotted(row).html ?? '')])]

/** The files of a batch, each once: many emails of one step share them. */
async function readFiles(client: Db, rows: readonly Row[]): Promise<Map<string, EmailFile>> {
  const ids = [...new Set(rows.flatMap(fileIdsOf))]
  if (!ids.length) return new Map()
  const found = await client.query<EmailFile>(
    sql`select id, name, media_type as "mediaType", content from files where id = any($1::uuid[])`,
    [ids],
  )
  return new Map(found.rows.map((file) => [file.id, file]))
}

function filesOf(row: Row, files: ReadonlyMap<string, EmailFile>): Pick<MailParts, 'files' | 'lostFiles'> {
  const ids = fileIdsOf(row)
  const there = ids.flatMap((id) => files.get(id) ?? [])
  return { files: there, lostFiles: there.length < ids.length }
}

/** What an email says, as the version that its prospect gets. */
function allotted(row: Row): Pick<MailParts, 'subject' | 'body' | 'html' | 'versionId'> {
  const own = { subject: row.subject ?? '', body: row.body ?? '', html: row.html }
  if (row.kind !== 'step' || !row.versions?.length) return { ...own, versionId: row.version }
  const step = { id: row.step_id!, weight: row.weight!, versions: row.versions }
  const versionId = row.version ?? row.before ?? allottedVersion(step, row.prospect_id)
  if (row.written) return { ...own, versionId }
  const { subject, body, html } = textOfVersion({ ...own, ...step }, versionId)
  // Without a subject it goes on in the thread: then all versions do.
  return { subject: subject || own.subject, body, html, versionId }
}

/** Everything the mails are made of, by message id: one statement, and one for their files. */
export async function readMailParts(
  client: Db,
  ids: readonly string[],
): Promise<Map<string, MailParts & { attempts: number }>> {
  const customFields = await readMergeNames(client)
  const { rows } = await client.query<Row>({
    name: 'mail-parts',
    text: sql`
      select
        m.id, ms(world_now()) as now, m.kind, m.prospect_id, m.enrollment_id, m.step_id, ca.cold,
        ca.email_type, m.in_reply_to,
        m.attempts, m.written, th.thread, s.weight, s.versions, m.version_id as version,
        (
          select o.version_id
          from email_messages o
          where o.step_id = m.step_id and o.prospect_id = m.prospect_id and o.version_id is not null and o.id <> m.id
          order by o.send_at
          limit 1
        ) as before,
        case
          when m.kind = 'invitation' then a.title
          when m.kind <> 'step' or m.written then m.subject
          when s.subject <> '' then s.subject
          else (
            select b.subject
            from cadence_steps b
            where b.cadence_id = s.cadence_id and b.kind = 'email' and b.subject <> '' and ${SAME_VERSION}
              and b.position < s.position
            order by b.position desc
            limit 1
          )
        end as subject,
        case
          when m.kind = 'invitation' then ''
          when m.kind <> 'step' or m.written then m.body
          else s.body
        end as body,
        case when m.kind <> 'step' or m.written then m.html else s.html end as html,
        case when m.kind <> 'step' or m.written then m.attachments else s.attachments end as attachments,
        e.address,
        ${MERGE_COLUMNS}, u.name as sender_name, u.signature as sender_signature, u.email as sender_address,
        t.postal_address, t.count_clicks,
        case
          when a.id is not null then json_build_object(
            'id', a.id, 'title', a.title, 'startAt', ms(a.start_at), 'endAt', ms(a.end_at), 'timeZone', a.time_zone,
            'sequence', a.sequence, 'status', a.status, 'place', a.place
          )
        end as meeting
      from email_messages m
        join email_addresses e on e.id = m.email_address_id
        join prospects p on p.id = m.prospect_id
        left join companies c on c.id = p.company_id
        left join users u on u.id = m.sender_id
        left join cadence_steps s on s.id = m.step_id
        left join cadences ca on ca.id = s.cadence_id
        left join meetings a on a.id = m.meeting_id
        -- A step without a subject goes on in the thread of the emails before it.
        left join lateral (
          select
            json_build_object(
              'ids', json_agg(o.header_id order by o.sent_at, o.id),
              'subject', (array_agg(o.subject order by o.sent_at, o.id))[1]
            ) as thread
          from email_messages o
          where s.subject = '' and o.enrollment_id = m.enrollment_id and o.status = 'sent' and o.header_id is not null
            and o.id <> m.id
          having count(*) > 0
        ) th on true
        cross join team t
      where m.id = any($1::uuid[])
    `,
    values: [ids],
  })
  const files = await readFiles(client, rows)
  return new Map(
    rows.map((row) => [
      row.id,
      {
        id: row.id,
        now: row.now,
        kind: row.kind,
        prospectId: row.prospect_id,
        enrollmentId: row.enrollment_id,
        stepId: row.step_id,
        commercial: row.kind === 'bulk' || (row.kind === 'step' && (row.cold || row.email_type === 'marketing')),
        ...allotted(row),
        ...filesOf(row, files),
        inReplyTo: row.in_reply_to,
        written: row.written,
        thread: row.thread,
        toAddress: row.address,
        values: mergeValues(
          row,
          row.sender_name ? { name: row.sender_name, signature: row.sender_signature ?? '' } : null,
          customFields,
        ),
        senderName: row.sender_name ?? row.team,
        senderAddress: row.sender_address ?? 'nobody@localhost',
        teamName: row.team,
        postalAddress: row.postal_address,
        countClicks: row.count_clicks,
        attempts: row.attempts,
        meeting: row.meeting,
      },
    ]),
  )
}
