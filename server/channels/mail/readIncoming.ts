import { kindOfIncoming, type IncomingKind } from '#core/email/incoming'
import type { Id } from '#core/instant'
import { newId } from '#shared/newId'
import { breaksUnique, db, isTransient } from '../../db/pool'
import { ALLOWED_FAILURES, describeError } from '../../engine/dueWork'
import { recordEvents, type NewEvent } from '../../engine/recordEvents'
import { parseEmail, type ParsedEmail } from './parse'
import { firstRow, sql } from '../../db/sql'

interface Kept {
  id: Id
  message_ids: Id[]
  envelope_from: string
  raw: Buffer
  attempts: number
}

// The attempt is counted before the email is read, so that one that ends the program counts as well.
const TAKE_SQL = sql`
  update incoming_email
  set attempts = attempts + 1, retry_at = now() + interval '1 minute'
  where id = (
      select id
      from incoming_email
      where set_aside_at is null and retry_at <= now() and attempts < $1
      order by retry_at, id
      limit 1
      for update skip locked
    )
  returning id, message_ids, envelope_from, raw, attempts
`

const SET_ASIDE_SQL = sql`
  update incoming_email
  set
    last_error = coalesce($2, last_error, 'The program ended while it was reading this email'),
    set_aside_at = case when attempts >= $3 then now() end
  where id = $1
`

/**
 * Reads one email that came in; gives whether there was one. What it is decides what happens: an answer and a bounce go
 * to the engine, a complaint counts as an opt-out, everything else is only kept. One that cannot be read is tried again
 * and set aside after the third failure.
 */
export async function readIncoming(): Promise<boolean> {
  const email = await firstRow(db().query<Kept>(TAKE_SQL, [ALLOWED_FAILURES]))
  if (!email) return setEndedAside()
  try {
    const parsed = await parseEmail(email.raw)
    for (const messageId of email.message_ids) await takeIn(parsed, email.envelope_from, messageId)
    await db().query(sql`delete from incoming_email where id = $1`, [email.id])
  } catch (error) {
    if (isTransient(error)) {
      await db()
        .query(sql`update incoming_email set attempts = attempts - 1 where id = $1`, [email.id])
        .catch(() => {})
      throw error
    }
    await db().query(SET_ASIDE_SQL, [email.id, describeError(error), ALLOWED_FAILURES])
  }
  return true
}

/** Sets aside what has been tried as often as is allowed and never came back: its reading ended the program. */
async function setEndedAside(): Promise<boolean> {
  const { rowCount } = await db().query(
    sql`
      update incoming_email
      set
        set_aside_at = now(), last_error = coalesce(last_error, 'The program ended while it was reading this email')
      where set_aside_at is null and attempts >= $1 and retry_at <= now()
    `,
    [ALLOWED_FAILURES],
  )
  return Boolean(rowCount)
}

function eventsOf(
  kind: IncomingKind,
  about: { id: Id; prospectId: Id; actorId: null; causedByEventId: null },
  messageId: Id,
): NewEvent[] {
  if (kind === 'reply') return [{ ...about, kind: 'emailReplied', messageId }]
  if (kind === 'bounce') return [{ ...about, kind: 'emailBounced', messageId }]
  return kind === 'complaint' ? [{ ...about, kind: 'unsubscribed' }] : []
}

/** Takes in one email for one of our signed addresses. Received twice (by Message-ID), it counts once. */
async function takeIn(email: ParsedEmail, envelopeFrom: string, messageId: Id): Promise<void> {
  const message = await firstRow(
    db().query<{ prospect_id: Id }>(sql`select prospect_id from email_messages where id = $1`, [messageId]),
  )
  if (!message) return
  const kind = kindOfIncoming({ ...email, envelopeFrom })
  const events = eventsOf(
    kind,
    { id: newId(), prospectId: message.prospect_id, actorId: null, causedByEventId: null },
    messageId,
  )
  const keep = sql`
    insert into replies (id, prospect_id, message_id, header_id, subject, body, received_at, automatic, kind)
    values ($1, $2, $3, $4, $5, $6, world_now(), $7, $8)
  `
  const values = [
    newId(),
    message.prospect_id,
    messageId,
    email.messageId,
    email.subject,
    email.text,
    kind !== 'reply',
    kind,
  ]
  try {
    if (events.length) {
      await recordEvents(events, {
        alsoWrite: async (client) => {
          await client.query(keep, values)
        },
      })
    } else await db().query(keep, values)
  } catch (error) {
    if (!breaksUnique(error, 'replies_header_id_key')) throw error
  }
}
