import { merge } from '#core/text/merge'
import type { Id, Instant } from '#core/instant'
import { mergeFieldsInWords } from '#core/text/mergeFields'
import { testAddress } from '../../channels/mail/addresses'
import { asHtml } from '../../channels/mail/compose'
import { smtpChannel, type MailChannel } from '../../channels/mail/transport'
import { breaksUnique, db, type Db } from '../../db/pool'
import { MERGE_COLUMNS, mergeValues, readMergeNames, type MergeRow } from '../../db/mergeFields'
import { mustSee } from '../access/access'
import { notFound, Refusal } from '../access/errors'
import type { Viewer } from '../access/viewer'
import { firstRow, sql } from '../../db/sql'
import { bothForms } from '../templates/richText'

/** Queues an email in the viewer's name to an address of nobody whom we work. */
export async function queueSystemEmail(
  viewer: Pick<Viewer, 'id'>,
  id: Id,
  email: {
    kind: 'test' | 'round_trip' | 'invite' | 'notifications'
    to: string
    subject: string
    body: string
    html?: string | null
  },
  on: Db = db(),
): Promise<void> {
  try {
    await on.query(
      sql`
        with made as (
          insert into system_emails (id, user_id, kind, to_address, subject, body, html)
          values ($1, $2, $3, $4, $5, $6, $7)
        )
        select graphile_worker.add_job(
          'sendSystemEmail', json_build_object('id', $1::uuid), job_key => 'system email ' || $1::text,
          max_attempts => 3
        )
      `,
      [id, viewer.id, email.kind, email.to, email.subject, email.body, email.html ?? null],
    )
  } catch (error) {
    if (breaksUnique(error, 'system_emails_pkey')) throw new Refusal('already_done', 'Already sent')
    throw error
  }
}

/** Sends the viewer an email filled in as it would be for a person. Throws where it cannot be filled in. */
export async function sendToSelf(
  viewer: Viewer,
  { id, prospectId, ...given }: { id: Id; subject: string; body: string; html: string | null; prospectId: Id },
): Promise<{ id: Id; to: string }> {
  await mustSee(viewer, prospectId)
  const person = await firstRow(
    db().query<MergeRow & { to: string }>(
      sql`
        select ${MERGE_COLUMNS}, u.email as to
        from prospects p
          left join companies c on c.id = p.company_id
          cross join team t
          join users u on u.id = $2
        where p.id = $1
      `,
      [prospectId, viewer.id],
    ),
  )
  const values = mergeValues(person!, viewer, await readMergeNames(db()))
  const { subject, body, html } = bothForms(given)
  const filled = { subject: merge(subject, values), body: merge(body, values) }
  const formatted = html === null ? null : merge(html, values, 'html')
  for (const field of ['subject', 'body'] as const) {
    const { error, missing } = filled[field]
    const unknown = missing.length ? `Nothing is known for ${mergeFieldsInWords(missing)}` : null
    const message = error ? `Line ${error.line}: ${error.message}` : unknown
    if (message) throw new Refusal('invalid', message, [{ field, message }])
  }
  await queueSystemEmail(viewer, id, {
    kind: 'test',
    to: person!.to,
    subject: `Test: ${filled.subject.text}`,
    body: filled.body.text,
    html: formatted?.text ?? null,
  })
  return { id, to: person!.to }
}

/** Sends an email to an address of our own, which has to come back the way replies do. */
export async function startRoundTrip(viewer: Viewer, { id }: { id: Id }): Promise<{ id: Id }> {
  await queueSystemEmail(viewer, id, {
    kind: 'round_trip',
    to: testAddress(id),
    subject: 'Uphill test email',
    body: 'This email was sent by Uphill to itself. When it comes back, email out and in both work.',
  })
  return { id }
}

/** What became of one of the viewer's test emails. */
export async function getTestEmail(
  viewer: Viewer,
  id: Id,
): Promise<{ sentAt: Instant | null; returnedAt: Instant | null; error: string | null }> {
  const row = await firstRow(
    db().query<{ sentAt: Instant | null; returnedAt: Instant | null; error: string | null }>(
      sql`
        select ms(sent_at) as "sentAt", ms(returned_at) as "returnedAt", error
        from system_emails
        where id = $1 and user_id = $2
      `,
      [id, viewer.id],
    ),
  )
  if (!row) throw notFound('test email')
  return row
}

interface SystemEmailRow {
  kind: string
  subject: string
  body: string
  html: string | null
  to: string
  name: string
  address: string
}

/**
 * Hands a system email over; its text is kept no longer than that. What the mail server says against a test is kept,
 * for who waits for it; an invitation is tried again, and throws, so that it ends up where what fails is seen.
 */
export async function sendSystemEmail(id: Id, channel: MailChannel = smtpChannel(undefined, null, 1)): Promise<void> {
  const email = await firstRow(
    db().query<SystemEmailRow>(
      sql`
        select t.kind, t.subject, t.body, t.html, t.to_address as to, u.name, u.email as address
        from system_emails t
          join users u on u.id = t.user_id
        where t.id = $1 and t.sent_at is null and t.error is null
      `,
      [id],
    ),
  )
  if (!email) return
  const from = { name: email.name, address: email.address }
  try {
    const delivery = await channel.deliver({
      from,
      to: email.to,
      subject: email.subject,
      text: email.body,
      html: email.html ?? asHtml(email.body),
    })
    const error = delivery.status === 'sent' ? null : delivery.lastError
    if (error !== null && email.kind === 'invite') {
      throw new Error(`The invitation to ${email.to} could not be sent: ${error}`)
    }
    await db().query(
      sql`
        update system_emails
        set sent_at = case when $2::text is null then now() end, error = $2, body = $3, html = null
        where id = $1
      `,
      [id, error, ''],
    )
  } finally {
    channel.close()
  }
}

/** Deletes the texts of what could not be sent within a day: an invitation holds a link. */
export async function forgetOldTexts(): Promise<void> {
  await db().query(sql`
    update system_emails
    set body = '', html = null, error = coalesce(error, 'It was not sent within a day')
    where sent_at is null and body <> '' and asked_at < now() - interval '1 day'
  `)
}
