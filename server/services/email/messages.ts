import { explain } from '#core/engine/explain'
import type { Id } from '#core/instant'
import { mergeFieldsInWords } from '#core/text/mergeFields'
import { newId } from '#shared/newId'
import { readMailParts } from '../../channels/mail/mailParts'
import { db } from '../../db/pool'
import { recordEvents } from '../../engine/recordEvents'
import { weighFiles } from '../templates/files'
import { bothForms } from '../templates/richText'
import { fillEmail } from '../templates/templates'
import { readToken } from '../../channels/mail/addresses'
import { mustSee } from '../access/access'
import { byHand } from '../cadences/enrollments'
import { notFound, Refusal, refusedBy } from '../access/errors'
import { touchGoals } from '../lists/touchGoals'
import { readerOf, type Viewer } from '../access/viewer'
import { firstRow, sql } from '../../db/sql'

/** What an email says, with its formatting and its files. */
interface EmailText {
  subject: string
  body: string
  html: string | null
  attachments: Id[]
}

/** Writes a mail by hand. It goes at once; `inReplyTo` names what it answers, a reply of theirs or a mail of ours. */
export async function writeEmail(
  viewer: Viewer,
  prospectId: Id,
  given: EmailText & { id: Id; taskId: Id | null; inReplyTo: Id | null },
): Promise<{ summary: string }> {
  await mustSee(viewer, prospectId)
  const mail = bothForms(given)
  const { problems: unfit } = await weighFiles(mail)
  if (unfit.length) throw new Refusal('invalid', unfit[0]!.message, unfit)
  const messageId = newId()
  const {
    results: [done],
    before,
    after,
    playbook,
  } = await recordEvents(
    [
      {
        id: mail.id,
        kind: 'emailWritten',
        prospectId,
        actorId: viewer.id,
        causedByEventId: null,
        messageId,
        taskId: mail.taskId,
      },
    ],
    {
      touchGoals: (ids) => touchGoals(viewer, ids),
      alsoWrite: async (client, { results: [result] }) => {
        if (result!.problems.length) throw refusedBy(result!.problems)
        await client.query(
          sql`
            update email_messages
            set
              subject = $2, body = $3, html = $5, attachments = $6,
              -- What a rep sends from the Desk goes now, a step’s email too.
              written = kind = 'step', slotted = kind = 'step',
              in_reply_to = coalesce(
                (select header_id from replies where id = $4), (select header_id from email_messages where id = $4)
              )
            where id = $1
          `,
          [messageId, mail.subject, mail.body, mail.inReplyTo, mail.html, mail.attachments],
        )
      },
    },
  )
  return {
    summary: explain(done!.effects, prospectId, before, after, playbook, {
      ...readerOf(viewer, before.now),
    }),
  }
}

/** The merge fields without which an email cannot go out. */
export async function missingIn(messageId: Id): Promise<string[]> {
  const parts = (await readMailParts(db(), [messageId])).get(messageId)
  if (!parts || parts.written || (parts.kind !== 'step' && parts.kind !== 'bulk')) return []
  return fillEmail(parts, parts.values).missing
}

/** Says of held or unconfirmed mail what became of it; one that still lacks a value is not sent. */
export async function settleEmail(
  viewer: Viewer,
  id: Id,
  messageId: Id,
  wentOut: boolean,
): Promise<{ summary: string }> {
  const row = await firstRow(
    db().query<{ prospect_id: Id }>(sql`select prospect_id from email_messages where id = $1`, [messageId]),
  )
  if (!row) throw notFound('email')
  const missing = wentOut ? [] : await missingIn(messageId)
  if (missing.length) {
    const message = `Still missing: ${mergeFieldsInWords(missing, 'and')}`
    throw new Refusal(
      'refused',
      message,
      missing.map((field) => ({ field, message })),
    )
  }
  return byHand(viewer, {
    id,
    kind: 'emailSettled',
    prospectId: row.prospect_id,
    actorId: viewer.id,
    causedByEventId: null,
    messageId,
    wentOut,
  })
}

/** Notes that a mail was looked at; the token is the picture's in it. Unknown tokens change nothing. */
export async function noteOpened(token: string): Promise<void> {
  const id = readToken('open', token)
  if (!id) return
  const row = await firstRow(
    db().query<{ prospectId: Id; known: boolean }>(
      sql`
        update email_messages
        set opens = opens + 1
        where id = $1 and status = 'sent'
        returning prospect_id as "prospectId", opened_at is not null as known
      `,
      [id],
    ),
  )
  if (!row || row.known) return
  const about = { id: newId(), prospectId: row.prospectId, actorId: null, causedByEventId: null }
  await recordEvents([{ ...about, kind: 'emailOpened', messageId: id }])
}

/** Counts a click on a link of an email; the first one is an event. */
export async function noteClicked(messageId: Id, url: string): Promise<void> {
  const row = await firstRow(
    db().query<{ prospectId: Id; known: boolean }>(
      sql`
        update email_messages
        set clicks = clicks + 1, clicked_url = coalesce(clicked_url, $2)
        where id = $1 and status = 'sent'
        returning prospect_id as "prospectId", clicked_at is not null as known
      `,
      [messageId, url.slice(0, 2_000)],
    ),
  )
  if (!row || row.known) return
  const about = { id: newId(), prospectId: row.prospectId, actorId: null, causedByEventId: null }
  await recordEvents([{ ...about, kind: 'emailClicked', messageId }])
}

/** Who an opt-out token belongs to, in words; null for one we did not make. */
export async function readOptOut(token: string): Promise<{ prospectId: Id; team: string; done: boolean } | null> {
  const id = readToken('optout', token)
  if (!id) return null
  const row = await firstRow(
    db().query<{ id: Id; stop_email: boolean; team: string }>(
      sql`
        select p.id, p.stop_email, t.name as team
        from prospects p
          cross join team t
        where p.id = $1
      `,
      [id],
    ),
  )
  return row ? { prospectId: row.id, team: row.team, done: row.stop_email } : null
}

/** Carries out an opt-out, at once. Asking twice is asking once. */
export async function optOut(prospectId: Id): Promise<void> {
  await recordEvents([{ id: newId(), kind: 'unsubscribed', prospectId, actorId: null, causedByEventId: null }])
}
