import { randomUUID } from 'node:crypto'
import type { ParsedMail } from 'mailparser'

/** One mail as its recipient has it. */
export interface Letter {
  id: string
  to: string
  from: string
  fromName: string
  replyTo: string
  envelopeFrom: string
  subject: string
  text: string
  html: string
  messageId: string
  at: number
  opened: boolean
  answered: boolean
  calendar: string | null
  raw: ParsedMail
}

/** What the simulated server does with mail for an address, by what stands before the @: "refuse", "later", "slow". */
export type Manner = 'take' | 'refuse' | 'later'

/** Everything the simulated mail server has taken, in memory, newest last; the oldest are forgotten after 20,000. */
export class Mailroom {
  readonly letters: Letter[] = []
  /** How often each Message-ID was taken: more than once means that someone was written to twice. */
  readonly taken = new Map<string, number>()
  /** While set, every mail is put off with a 451. */
  closed = false

  take(mail: ParsedMail, to: readonly string[], envelopeFrom: string): void {
    const messageId = mail.messageId ?? ''
    this.taken.set(messageId, (this.taken.get(messageId) ?? 0) + 1)
    const from = mail.from?.value[0]
    for (const address of to) {
      this.letters.push({
        id: randomUUID(),
        to: address.toLowerCase(),
        from: from?.address ?? '',
        fromName: from?.name || from?.address || '',
        replyTo: mail.replyTo?.value[0]?.address ?? from?.address ?? '',
        envelopeFrom,
        subject: mail.subject ?? '',
        text: mail.text ?? '',
        html: mail.html || '',
        messageId,
        at: Date.now(),
        opened: false,
        answered: false,
        calendar:
          mail.attachments.find((part) => part.contentType === 'text/calendar')?.content.toString('utf8') ?? null,
        raw: mail,
      })
    }
    if (this.letters.length > 20_000) this.letters.splice(0, this.letters.length - 20_000)
  }

  manner(address: string): Manner {
    if (this.closed) return 'later'
    const local = address.split('@')[0]!.toLowerCase()
    if (local.startsWith('gone.')) return 'refuse'
    return local.startsWith('busy.') ? 'later' : 'take'
  }

  find(id: string): Letter | undefined {
    return this.letters.find((letter) => letter.id === id)
  }
}
