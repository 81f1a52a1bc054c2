/**
 * What an email that came back to us is. An answer is written by a person; everything else by a machine, and only two
 * of those change anything: a bounce marks the address, a complaint counts as an opt-out.
 */
export const INCOMING_KINDS = ['reply', 'automatic', 'bounce', 'delayed', 'receipt', 'complaint'] as const
export type IncomingKind = (typeof INCOMING_KINDS)[number]

/** An email as the mail server handed it over, read but not judged. */
export interface IncomingEmail {
  /** Header lines in order: the name in lower case, and the value in one line. */
  headers: readonly (readonly [name: string, value: string])[]
  /** The envelope's sender; empty for reports (RFC 5321, 4.5.5). */
  envelopeFrom: string
  subject: string
  /** The readable text. */
  text: string
  /** Parts that are not the text, those of reports among them, as text; lower-case content type without parameters. */
  parts: readonly { contentType: string; text: string }[]
}

/** A header's value without comments in parentheses (RFC 5322, 3.2.2), in lower case; '' where there is none. */
function header(email: IncomingEmail, name: string): string {
  const found = email.headers.find(([key]) => key === name)?.[1] ?? ''
  let value = found
  for (let before = ''; before !== value;) {
    before = value
    value = value.replace(/\([^()]*\)/g, ' ')
  }
  return value.trim().toLowerCase()
}

/**
 * The first word of a header's value, without parameters: "auto-replied" of "Auto-Replied (vacation); owner-email=x".
 */
const keyword = (email: IncomingEmail, name: string) => header(email, name).split(/[;\s]/)[0]!

const partOf = (email: IncomingEmail, contentType: string) =>
  email.parts.find((part) => part.contentType === contentType)

function reportType(email: IncomingEmail): string {
  return /report-type\s*=\s*"?([\w-]+)/.exec(header(email, 'content-type'))?.[1] ?? ''
}

/**
 * Says what an email is. RFC 3464 (delivery reports), RFC 8098 (read receipts), RFC 5965 (complaints), RFC 3834
 * (automatic answers); the rest common practice, no published source.
 */
export function kindOfIncoming(email: IncomingEmail): IncomingKind {
  const complaint = partOf(email, 'message/feedback-report')
  if (complaint || reportType(email) === 'feedback-report') {
    return /^feedback-type:\s*not-spam/im.test(complaint?.text ?? '') ? 'automatic' : 'complaint'
  }
  if (reportType(email) === 'disposition-notification' || partOf(email, 'message/disposition-notification')) {
    return 'receipt'
  }
  const delivery = partOf(email, 'message/delivery-status')
  if (delivery) return kindOfDelivery(delivery.text)
  if (isFromMailServer(email)) {
    const kind = kindOfPlainReport(email)
    if (kind) return kind
  }
  return isAutomatic(email) ? 'automatic' : 'reply'
}

/**
 * RFC 3464, 2.3.3 and 2.3.4: the action says what became of it; where it is missing, the first digit of the status
 * does.
 */
function kindOfDelivery(report: string): IncomingKind {
  const field = (name: string) =>
    [...report.matchAll(new RegExp(`^${name}:[ \\t]*([\\w.-]+)`, 'gim'))].map((match) => match[1]!.toLowerCase())
  const actions = field('action')
  if (actions.includes('failed')) return 'bounce'
  if (actions.includes('delayed')) return 'delayed'
  if (actions.length) return 'receipt'
  const status = field('status')
  if (status.some((value) => value.startsWith('5'))) return 'bounce'
  if (status.some((value) => value.startsWith('4'))) return 'delayed'
  return status.length ? 'receipt' : 'automatic'
}

function isFromMailServer(email: IncomingEmail): boolean {
  return (
    email.envelopeFrom === '' || /\b(mailer-daemon|postmaster|mail delivery (sub)?system)\b/.test(header(email, 'from'))
  )
}

const NOT_DELIVERED =
  /undeliver|delivery (has )?fail|delivery status notification \(failure\)|returned mail|mail delivery failed|delivery failure|failure notice|could not be delivered|couldn.t be delivered|wasn.t delivered|unzustellbar|non remis|échec de (la )?remise|no se (ha podido|pudo) entregar|non recapitabile|niet bezorgd/i
const STILL_TRYING =
  /delay|still being|will (keep|continue) trying|still trying|retr(y|ied) (for|until)|not (yet )?been delivered yet|verzögert|no action is required/i
const PERMANENT =
  /\b5\.\d{1,3}\.\d{1,3}\b|\b55[0-4]\b|permanent|user unknown|no such (user|mailbox|recipient|address)|mailbox (unavailable|not found|does not exist)|does not exist|unknown user|account.*(disabled|closed)/i

/** Reports of the older kinds: in plain words, or a whole report put into an ordinary email. Null where it is none. */
function kindOfPlainReport(email: IncomingEmail): IncomingKind | null {
  const wrapped = email.parts
    .filter((part) => part.contentType === 'message/rfc822' || part.contentType === 'text/plain')
    .map((part) => part.text)
    .find((text) => /^action:/im.test(text) && /^(final|original)-recipient:/im.test(text))
  if (wrapped) return kindOfDelivery(wrapped)
  if (/^action:/im.test(email.text) && /^(final|original)-recipient:/im.test(email.text)) {
    return kindOfDelivery(email.text)
  }
  const said = `${email.subject}\n${email.text.slice(0, 4_000)}`
  if (STILL_TRYING.test(email.subject) || (STILL_TRYING.test(said) && !NOT_DELIVERED.test(email.subject))) {
    return 'delayed'
  }
  return NOT_DELIVERED.test(said) && (PERMANENT.test(said) || NOT_DELIVERED.test(email.subject)) ? 'bounce' : null
}

/**
 * How automatic answers begin, in the languages of the countries a team usually works in. Common practice, no published
 * source.
 */
const AUTOMATIC_SUBJECT =
  /^\s*(?:\[[^\]]*\]\s*)?(?:out[ -]of[ -](?:the[ -])?office|ooo\b|auto(?:matic)?[- ]?(?:reply|response)|automated (?:reply|response)|on (?:vacation|leave)\b|abwesen(?:d|heit)|automatische (?:antwort|abwesenheit)|nicht im (?:haus|büro)|réponse automatique|absen(?:t|ce) du bureau|message d.absence|respuesta autom[áa]tica|fuera de (?:la )?oficina|risposta automatica|fuori (?:sede|ufficio)|automatisch (?:antwoord|bericht)|afwezig|resposta autom[áa]tica|ausência|fora do escritório|autosvar|automatiskt svar|automatisk svar|frånvar|fraværende|automaattinen vastaus|poissa|automatyczna odpowiedź|nieobecno|自動応答|自动回复)/i

/** RFC 3834, 5, and the headers in use beside it. */
function isAutomatic(email: IncomingEmail): boolean {
  const submitted = keyword(email, 'auto-submitted')
  if (submitted && submitted !== 'no') return true
  if (['bulk', 'junk', 'list', 'auto_reply', 'auto-reply'].includes(keyword(email, 'precedence'))) return true
  const suppress = header(email, 'x-auto-response-suppress')
  if (suppress && suppress !== 'none') return true
  if (
    ['x-autoreply', 'x-autorespond', 'x-autoresponder', 'x-auto-reply', 'x-autogenerated', 'list-id'].some((name) =>
      email.headers.some(([key]) => key === name),
    )
  ) {
    return true
  }
  if (email.envelopeFrom === '') return true
  return AUTOMATIC_SUBJECT.test(email.subject)
}
