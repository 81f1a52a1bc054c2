import { createRequire } from 'node:module'
import { Worker } from 'node:worker_threads'
import type { IncomingEmail } from '#core/email/incoming'

/** A parsed email: what it is judged by, and what is kept of it. */
export interface ParsedEmail extends Omit<IncomingEmail, 'envelopeFrom'> {
  messageId: string | null
}

/** What reading one email may cost: seconds, and megabytes of memory. */
const LIMITS = { seconds: 20, megabytes: 256 }

/**
 * Runs in a thread of its own, so that an email that takes long, or too much memory, stops nothing else. Plain JavaScript,
 * handed to the thread as text: it is found from wherever the program was bundled to.
 */
const THREAD = `
const { parentPort, workerData } = require('node:worker_threads')
const { simpleParser } = require(workerData.parser)
const asText = content => content.toString('utf8').slice(0, 100000)
simpleParser(Buffer.from(workerData.raw), { skipImageLinks: true, skipTextToHtml: true, maxHtmlLengthToParse: 1000000 }).then((mail) => {
  parentPort.postMessage({
    headers: mail.headerLines.slice(0, 500).map(({ key, line }) => [key, line.slice(line.indexOf(':') + 1).replace(/\\r?\\n[ \\t]*/g, ' ').trim().slice(0, 2000)]),
    subject: (mail.subject || '').replaceAll('\\0', '').slice(0, 500),
    text: (mail.text || '').replaceAll('\\0', '').slice(0, 100000),
    parts: mail.attachments.slice(0, 20).map(part => ({ contentType: (part.contentType || '').toLowerCase(), text: /^(text|message)\\//i.test(part.contentType || '') ? asText(part.content) : '' })),
    messageId: mail.messageId || null,
  })
})`

/** Reads an email (RFC 5322, MIME). Rejects where it cannot be read within its share of time and memory. */
export function parseEmail(raw: Buffer): Promise<ParsedEmail> {
  return new Promise((resolve, reject) => {
    const thread = new Worker(THREAD, {
      eval: true,
      workerData: { raw, parser: createRequire(import.meta.url).resolve('mailparser') },
      resourceLimits: { maxOldGenerationSizeMb: LIMITS.megabytes, maxYoungGenerationSizeMb: 32 },
    })
    const timer = setTimeout(() => finish(() => reject(new Error(`Reading this email took longer than ${LIMITS.seconds} seconds`))), LIMITS.seconds * 1_000)
    const finish = (end: () => void) => {
      clearTimeout(timer)
      end()
      void thread.terminate()
    }
    thread.once('message', (email: ParsedEmail) => finish(() => resolve(email)))
    thread.once('error', error => finish(() => reject(error)))
    thread.once('exit', () => finish(() => reject(new Error('This email could not be read'))))
  })
}
