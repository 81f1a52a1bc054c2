import { randomUUID } from 'node:crypto'
import { simpleParser, type ParsedMail } from 'mailparser'
import { SMTPServer } from 'smtp-server'
import { breaksUnique, db } from '../../db/pool'
import { happen, type Told } from '../../engine/happen'
import { env } from '../../environment'
import { messageOfAddress } from './addresses'

/** What a mail that came back to us is: an answer, an automatic one (RFC 3834), or a report of failed delivery (RFC 3464). */
export function kindOfInbound(mail: ParsedMail): 'reply' | 'automatic' | 'bounce' {
  const type = String((mail.headers.get('content-type') as { value?: string } | undefined)?.value ?? '')
  const header = (name: string) => String(mail.headers.get(name) ?? '').toLowerCase()
  if (type === 'multipart/report' || mail.attachments.some(part => part.contentType === 'message/delivery-status')) return 'bounce'
  const auto = header('auto-submitted')
  if ((auto && auto !== 'no') || ['bulk', 'junk', 'auto_reply'].includes(header('precedence')) || header('x-autoreply')) return 'automatic'
  return 'reply'
}

/** Takes in one mail for one of our signed addresses. Told twice (by Message-ID), it counts once. */
export async function takeIn(mail: ParsedMail, messageId: string): Promise<void> {
  const { rows: [message] } = await db().query<{ prospect_id: string }>('select prospect_id from messages where id = $1', [messageId])
  if (!message) return
  const kind = kindOfInbound(mail)
  const replyId = randomUUID()
  const about = { id: randomUUID(), prospectId: message.prospect_id, actorId: null, causeId: null, messageId }
  const told: Told[] = kind === 'reply' ? [{ ...about, kind: 'emailReplied' }] : kind === 'bounce' ? [{ ...about, kind: 'emailBounced' }] : []
  const keep = `insert into replies (id, prospect_id, message_id, header_id, subject, body, received_at, automatic) values ($1, $2, $3, $4, $5, $6, world_now(), $7)`
  const text = (mail.text ?? '').replaceAll('\0', '').slice(0, 100_000)
  const values = [replyId, message.prospect_id, messageId, mail.messageId ?? null, (mail.subject ?? '').replaceAll('\0', '').slice(0, 500), text, kind !== 'reply']
  try {
    if (told.length) await happen(told, { inside: async (client) => { await client.query(keep, values) } })
    else await db().query(keep, values)
  }
  catch (error) {
    if (!breaksUnique(error, 'replies_header_id_key')) throw error
  }
}

/** Listens for what comes back, on loopback; a mail server in front of it forwards our domain here. Unknown recipients are refused. */
export function listenForMail(port = env().mailInPort, complain: (error: Error) => void = () => {}): Promise<{ close(): Promise<void>, port: number }> {
  const server = new SMTPServer({
    disabledCommands: ['AUTH', 'STARTTLS'], size: 10_000_000, logger: false,
    onRcptTo(address, _session, done) {
      done(messageOfAddress(address.address) ? null : Object.assign(new Error('No such recipient here'), { responseCode: 550 }))
    },
    onData(stream, session, done) {
      const to = session.envelope.rcptTo.map(address => messageOfAddress(address.address)).filter(id => id !== null)
      simpleParser(stream)
        .then(async (mail) => { for (const id of to) await takeIn(mail, id) })
        .then(() => done(), (error: Error) => {
          complain(error)
          done(Object.assign(new Error('Try again later'), { responseCode: 451 }))
        })
    },
  })
  server.on('error', complain)
  return new Promise((resolve, reject) => {
    server.once('error', reject)
    server.listen(port, '127.0.0.1', () => {
      const address = server.server.address()
      resolve({ port: typeof address === 'object' && address ? address.port : port, close: () => new Promise(ended => server.close(ended)) })
    })
  })
}
