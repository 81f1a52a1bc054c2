import { simpleParser, type ParsedMail } from 'mailparser'
import nodemailer from 'nodemailer'
import { SMTPServer } from 'smtp-server'
import type { Mailroom } from './mailroom'

/** Where mail for one domain goes on to, as a mail server in front of Uphill forwards it. */
export interface Forwarding {
  domain: string
  port: number
}

/**
 * Takes mail over SMTP (RFC 5321) on loopback: refuses some recipients for good (550), puts others off (451), forwards
 * one domain.
 */
export function takeMail(room: Mailroom, port: number, forwarding: Forwarding | null = null): Promise<SMTPServer> {
  const server = new SMTPServer({
    disabledCommands: ['AUTH', 'STARTTLS'],
    logger: false,
    size: 20_000_000,
    onRcptTo(address, _session, done) {
      const manner = room.manner(address.address)
      if (manner === 'refuse') return done(Object.assign(new Error('No such mailbox'), { responseCode: 550 }))
      if (manner === 'later') {
        return done(Object.assign(new Error('Mailbox busy, try again later'), { responseCode: 451 }))
      }
      done()
    },
    onData(stream, session, done) {
      const sender = session.envelope.mailFrom
      simpleParser(stream).then((mail) => {
        const to = session.envelope.rcptTo.map((one) => one.address)
        const ours = forwarding ? to.filter((address) => address.toLowerCase().endsWith(`@${forwarding.domain}`)) : []
        room.take(
          mail,
          to.filter((address) => !ours.includes(address)),
          sender ? sender.address : '',
        )
        if (ours.length) void forward(mail, ours, sender ? sender.address : '', forwarding!.port)
        done()
      }, done)
    },
  })
  server.on('error', (error) => console.error('Mail server:', error.message))
  return new Promise((resolve) => server.listen(port, '127.0.0.1', () => resolve(server)))
}

async function forward(mail: ParsedMail, to: string[], from: string, port: number): Promise<void> {
  const transport = nodemailer.createTransport({ host: '127.0.0.1', port, ignoreTLS: true })
  await transport
    .sendMail({
      envelope: { from, to },
      from: mail.from?.text ?? from,
      to,
      subject: mail.subject ?? '',
      text: mail.text ?? '',
      messageId: mail.messageId,
    })
    .catch((error: Error) => console.error('Mail server, forwarding:', error.message))
  transport.close()
}
