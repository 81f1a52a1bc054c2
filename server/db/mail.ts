import type { Db } from './pool'
import type { MailParts } from '../channels/mail/compose'

interface Row {
  id: string
  kind: MailParts['kind']
  prospect_id: string
  enrollment_id: string | null
  step_id: string | null
  cold: boolean | null
  subject: string | null
  body: string | null
  in_reply_to: string | null
  address: string
  first_name: string
  last_name: string
  title: string | null
  city: string | null
  company: string | null
  sender_name: string | null
  sender_address: string | null
  team: string
  postal_address: string
  attempts: number
  appointment: MailParts['appointment']
}

/** Everything the mails are made of, by message id, in one statement. */
export async function readMailParts(client: Db, ids: readonly string[]): Promise<Map<string, MailParts & { attempts: number }>> {
  const { rows } = await client.query<Row>({
    name: 'mail-parts',
    text: `select m.id, m.kind, m.prospect_id, m.enrollment_id, m.step_id, c.cold, m.in_reply_to, m.attempts,
        case m.kind when 'step' then s.subject when 'invitation' then a.title else m.subject end as subject,
        case m.kind when 'step' then s.body when 'invitation' then '' else m.body end as body,
        e.address, p.first_name, p.last_name, p.title, p.city, co.name as company, u.name as sender_name, u.email as sender_address, t.name as team, t.postal_address,
        case when a.id is not null then json_build_object('id', a.id, 'title', a.title, 'startAt', ms(a.start_at), 'endAt', ms(a.end_at), 'zone', a.zone, 'sequence', a.sequence, 'state', a.state) end as appointment
      from messages m join emails e on e.id = m.email_id join prospects p on p.id = m.prospect_id left join companies co on co.id = p.company_id
        left join users u on u.id = m.sender_id left join cadence_steps s on s.id = m.step_id left join cadences c on c.id = s.cadence_id
        left join appointments a on a.id = m.appointment_id cross join team t
      where m.id = any($1::uuid[])`,
    values: [ids],
  })
  return new Map(rows.map((row) => {
    const filled = Object.entries({
      first_name: row.first_name, last_name: row.last_name, title: row.title, company: row.company, city: row.city,
      sender_name: row.sender_name, sender_first_name: row.sender_name?.split(' ')[0], team: row.team,
    }).filter(([, value]) => value)
    return [row.id, {
      id: row.id, kind: row.kind, prospectId: row.prospect_id, enrollmentId: row.enrollment_id, stepId: row.step_id, cold: row.cold ?? false,
      subject: row.subject ?? '', body: row.body ?? '', inReplyTo: row.in_reply_to, toAddress: row.address, values: Object.fromEntries(filled),
      senderName: row.sender_name ?? row.team, senderAddress: row.sender_address ?? 'nobody@localhost', teamName: row.team, postalAddress: row.postal_address,
      attempts: row.attempts, appointment: row.appointment,
    }]
  }))
}
