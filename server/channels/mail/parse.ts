import type { IncomingEmail } from '#core/email/incoming'
import { runInThread } from '../../thread'

/** A parsed email: what it is judged by, and what is kept of it. */
export interface ParsedEmail extends Omit<IncomingEmail, 'envelopeFrom'> {
  messageId: string | null
}

const SCRIPT = `
const { simpleParser } = await load('mailparser')
const asText = content => content.toString('utf8').slice(0, 100000)
const mail = await simpleParser(Buffer.from(data), {
  skipImageLinks: true, skipTextToHtml: true, maxHtmlLengthToParse: 1000000,
})
const header = ({ key, line }) => [
  key, line.slice(line.indexOf(':') + 1).replace(/\\r?\\n[ \\t]*/g, ' ').trim().slice(0, 2000),
]
const part = ({ contentType, content }) => ({
  contentType: (contentType || '').toLowerCase(),
  text: /^(text|message)\\//i.test(contentType || '') ? asText(content) : '',
})
return {
  headers: mail.headerLines.slice(0, 500).map(header),
  subject: (mail.subject || '').replaceAll('\\0', '').slice(0, 500),
  text: (mail.text || '').replaceAll('\\0', '').slice(0, 100000),
  parts: mail.attachments.slice(0, 20).map(part),
  messageId: mail.messageId || null,
}`

/** Reads an email (RFC 5322, MIME). Rejects where it cannot be read within its share of time and memory. */
export function parseEmail(raw: Buffer): Promise<ParsedEmail> {
  return runInThread<ParsedEmail>(SCRIPT, raw, ['mailparser'], { seconds: 20, megabytes: 256 })
}
