import { newId } from '#shared/newId'
import { SMTPServer, type SMTPServerDataStream, type SMTPServerSession } from 'smtp-server'
import { db } from '../../db/pool'
import { env } from '../../environment'
import { noteReturned } from './roundTrip'
import { messageOfAddress, testOfAddress } from './addresses'
import { sql } from '../../db/sql'

/** The largest email that is taken in, in bytes. */
export const LARGEST_INCOMING = 10_000_000
/** How many emails may wait to be read before others are asked to come again later. */
const MOST_WAITING = 5_000

const refusal = (responseCode: number, message: string) => Object.assign(new Error(message), { responseCode })

/** The connection of a session, as far as it is needed to refuse an email before it has been sent to its end. */
interface Connection {
  session: SMTPServerSession
  send(code: number, message: string): void
  close(): void
}

/**
 * Listens for what comes back, on loopback; a mail server in front of it forwards our domain here. Unknown recipients
 * are refused, and an email over the limit as soon as it exceeds it. What is taken is kept as it came before it is
 * acknowledged, and read later (readIncoming), so that nothing is lost and nothing here depends on what is in it.
 */
export function listenForMail(
  port = env().mailInPort,
  complain: (error: Error) => void = () => {},
): Promise<{ close(): Promise<void>; port: number }> {
  const server = new SMTPServer({
    disabledCommands: ['AUTH', 'STARTTLS'],
    size: LARGEST_INCOMING,
    logger: false,
    maxClients: 50,
    socketTimeout: 60_000,
    closeTimeout: 2_000,
    onRcptTo(address, _session, done) {
      done(
        (messageOfAddress(address.address) ?? testOfAddress(address.address))
          ? null
          : refusal(550, 'No such recipient here'),
      )
    },
    onData(stream, session, done) {
      receive(server, stream, session)
        .then((raw) => keep(raw, session))
        .then(
          () => done(),
          (error: Error & { responseCode?: number }) => {
            if (!error.responseCode) complain(error)
            done(error.responseCode ? error : refusal(451, 'Try again later'))
          },
        )
    },
  })
  server.on('error', complain)
  return new Promise((resolve, reject) => {
    server.once('error', reject)
    server.listen(port, '127.0.0.1', () => {
      const address = server.server.address()
      resolve({
        port: typeof address === 'object' && address ? address.port : port,
        close: () => new Promise((ended) => server.close(ended)),
      })
    })
  })
}

/** Collects an email. One that exceeds the limit is answered 552 at once, and its connection is closed. */
function receive(server: SMTPServer, stream: SMTPServerDataStream, session: SMTPServerSession): Promise<Buffer> {
  return new Promise((resolve, reject) => {
    let chunks: Buffer[] = []
    let refused = false
    stream.on('data', (chunk: Buffer) => {
      if (refused) return
      chunks.push(chunk)
      if (!stream.sizeExceeded) return
      refused = true
      chunks = []
      const connection = ([...server.connections] as unknown as Connection[]).find(
        (one) => one.session.id === session.id,
      )
      connection?.send(552, `Message exceeds the limit of ${LARGEST_INCOMING} bytes`)
      connection?.close()
      reject(refusal(552, 'Message too large'))
    })
    stream.once('end', () => resolve(Buffer.concat(chunks)))
    stream.once('error', reject)
  })
}

async function keep(raw: Buffer, session: SMTPServerSession): Promise<void> {
  const messageIds = [
    ...new Set(session.envelope.rcptTo.map((address) => messageOfAddress(address.address)).filter((id) => id !== null)),
  ]
  const tests = session.envelope.rcptTo.map((address) => testOfAddress(address.address)).filter((id) => id !== null)
  if (tests.length) await noteReturned(tests)
  if (!messageIds.length) return
  const sender = session.envelope.mailFrom
  const { rowCount } = await db().query(
    sql`
      insert into incoming_email (id, message_ids, envelope_from, raw)
      select $1, $2, $3, $4
      where (select count(*) from (select from incoming_email where set_aside_at is null limit $5) waiting) < $5
    `,
    [newId(), messageIds, sender ? sender.address.slice(0, 320) : '', raw, MOST_WAITING],
  )
  if (!rowCount) throw refusal(451, 'Too much email is waiting, try again later')
}
