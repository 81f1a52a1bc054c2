import nodemailer from 'nodemailer'
import type Mail from 'nodemailer/lib/mailer'
import { env } from '../../environment'

/** What became of handing a mail over. */
export type Delivery =
  | { status: 'sent' }
  /** Certainly not taken; worth another try. */
  | { status: 'deferred'; lastError: string }
  /** Certainly not taken, and never will be: the address is refused. */
  | { status: 'refused'; lastError: string }
  /** The connection was lost at the one moment when nobody can know. */
  | { status: 'unconfirmed'; lastError: string }

/** A way for mail to leave. */
export interface MailChannel {
  deliver(mail: Mail.Options): Promise<Delivery>
  /** Whether a mail with this Message-ID was taken; null where the server cannot tell. */
  wasTaken(headerId: string): Promise<boolean | null>
  close(): void
}

interface SmtpError extends Error {
  code?: string
  command?: string
  responseCode?: number
}

/** Reads what an error of the mail client means for the mail: RFC 5321 reply codes 4xx for now, 5xx for good. */
export function readFailure(error: SmtpError): Delivery {
  const lastError = error.message.slice(0, 300)
  if (error.responseCode && error.responseCode >= 500 && error.command === 'RCPT TO') {
    return { status: 'refused', lastError }
  }
  if (error.responseCode) return { status: 'deferred', lastError }
  const beforeData =
    ['CONN', 'EHLO', 'HELO', 'STARTTLS', 'AUTH', 'MAIL FROM', 'RCPT TO'].some((step) =>
      error.command?.startsWith(step),
    ) || ['ECONNREFUSED', 'EDNS', 'ETLS', 'EAUTH', 'EENVELOPE', 'ENOTFOUND'].includes(error.code ?? '')
  return beforeData ? { status: 'deferred', lastError } : { status: 'unconfirmed', lastError }
}

/** Mail over SMTP with a pool of connections. `proofUrl` is asked what was taken, where the server offers that. */
export function smtpChannel(smtpUrl = env().smtpUrl, proofUrl = env().mailboxUrl, connections = 8): MailChannel {
  const transport = nodemailer.createTransport({
    ...fromUrl(smtpUrl),
    pool: true,
    maxConnections: connections,
    maxMessages: 500,
    connectionTimeout: 5_000,
    greetingTimeout: 5_000,
    socketTimeout: 20_000,
  })
  return {
    async deliver(mail) {
      try {
        await transport.sendMail(mail)
        return { status: 'sent' }
      } catch (error) {
        return readFailure(error as SmtpError)
      }
    },
    async wasTaken(headerId) {
      if (!proofUrl) return null
      try {
        const response = await fetch(`${proofUrl}/taken?id=${encodeURIComponent(headerId)}`, {
          signal: AbortSignal.timeout(3_000),
        })
        return response.ok ? ((await response.json()) as { taken: boolean }).taken : null
      } catch {
        return null
      }
    },
    close: () => transport.close(),
  }
}

function fromUrl(smtpUrl: string) {
  const url = new URL(smtpUrl)
  const secure = url.protocol === 'smtps:'
  const auth = url.username
    ? { auth: { user: decodeURIComponent(url.username), pass: decodeURIComponent(url.password) } }
    : {}
  return { host: url.hostname, port: Number(url.port || (secure ? 465 : 587)), secure, ...auth }
}
