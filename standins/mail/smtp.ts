import { simpleParser } from 'mailparser'
import { SMTPServer } from 'smtp-server'
import type { Mailroom } from './mailroom'

/** Takes mail over SMTP (RFC 5321) on loopback: refuses some recipients for good (550), puts others off (451). */
export function takeMail(room: Mailroom, port: number): Promise<SMTPServer> {
  const server = new SMTPServer({
    disabledCommands: ['AUTH', 'STARTTLS'], logger: false, size: 20_000_000,
    onRcptTo(address, _session, done) {
      const manner = room.manner(address.address)
      if (manner === 'refuse') return done(Object.assign(new Error('No such mailbox'), { responseCode: 550 }))
      if (manner === 'later') return done(Object.assign(new Error('Mailbox busy, try again later'), { responseCode: 451 }))
      done()
    },
    onData(stream, session, done) {
      const sender = session.envelope.mailFrom
      simpleParser(stream).then((mail) => {
        room.take(mail, session.envelope.rcptTo.map(to => to.address), sender ? sender.address : '')
        done()
      }, done)
    },
  })
  server.on('error', error => console.error('Mail server:', error.message))
  return new Promise(resolve => server.listen(port, '127.0.0.1', () => resolve(server)))
}
