import type { Db } from '../../db/pool'
import type { MailParts } from './compose'
import { MERGE_COLUMNS, mergeValues, readMergeNames, type MergeRow } from '../../db/mergeFields'
import { sql } from '../../db/sql'

interface Row extends MergeRow {
  id: string
  now: number
  kind: MailParts['kind']
  prospect_id: string
  enrollment_id: string | null
  step_id: string | null
  cold: boolean | null
  subject: string | null
  body: string | null
  in_reply_to: string | null
  address: string
  sender_name: string | null
  sender_signature: string | null
  sender_address: string | null
  postal_address: string
  attempts: number
  meeting: MailParts['meeting']
}

/** Everything the mails are made of, by message id, in one statement. */
export async function readMailParts(
  client: Db,
  ids: readonly string[],
): Promise<Map<string, MailParts & { attempts: number }>> {
  const customFields = await readMergeNames(client)
  const { rows } = await client.query<Row>({
    name: 'mail-parts',
    text: sql`
      select
        m.id, ms(world_now()) as now, m.kind, m.prospect_id, m.enrollment_id, m.step_id, ca.cold, m.in_reply_to,
        m.attempts,
        case m.kind when 'step' then s.subject when 'invitation' then a.title else m.subject end as subject,
        case m.kind when 'step' then s.body when 'invitation' then '' else m.body end as body, e.address,
        ${MERGE_COLUMNS}, u.name as sender_name, u.signature as sender_signature, u.email as sender_address,
        t.postal_address,
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
        cross join team t
      where m.id = any($1::uuid[])
    `,
    values: [ids],
  })
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
        cold: row.cold ?? false,
        subject: row.subject ?? '',
        body: row.body ?? '',
        inReplyTo: row.in_reply_to,
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
        attempts: row.attempts,
        meeting: row.meeting,
      },
    ]),
  )
}
