import { exitWithParent } from '../process'
import { Mailroom } from './mailroom'
import { serveMailbox } from './pages'
import { takeMail } from './smtp'

/**
 * The mail server stand-in. SMTP_PORT and HTTP_PORT say where it listens, MAIL_DOMAIN and MAIL_IN_PORT where mail for
 * our own domain goes.
 */
const smtpPort = Number(process.env.SMTP_PORT ?? 4126)
const httpPort = Number(process.env.HTTP_PORT ?? 4127)
const room = new Mailroom()
const mailInPort = Number(process.env.MAIL_IN_PORT ?? 4125)
await takeMail(room, smtpPort, process.env.MAIL_DOMAIN ? { domain: process.env.MAIL_DOMAIN, port: mailInPort } : null)
await serveMailbox(room, httpPort, mailInPort)
console.log(`The mail server takes mail on ${smtpPort} and shows it on ${httpPort}`)
exitWithParent()
