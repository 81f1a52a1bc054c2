import { isPlain } from '../text/html'

/** An email as it is written, before anything is filled in. */
export interface WrittenEmail {
  subject: string
  /** Its plain text. */
  body: string
  /** The same with formatting; null where there is none. */
  html: string | null
  /** What its attachments and pictures come to, in bytes. */
  bytes: number
  /** Whether it answers one of theirs, so that “Re:” is what it says. */
  isAnswer?: boolean
}

/** Something about an email that may keep it from being read, with the reason. */
export interface EmailHint {
  field: 'subject' | 'body' | 'attachments'
  message: string
}

/** The most that attachments and pictures of one email may come to, in bytes: 10 MB. */
export const MOST_ATTACHED = 10_000_000

/**
 * Words and phrases of unasked-for advertising that filters count, and readers too. Common practice, no published
 * source.
 */
const SPAM_PRONE =
  /\b(?:act now|apply now|buy now|cash|cheap|click here|congratulations|dear friend|double your|earn \$|guaranteed?|limited time|no obligation|order now|prize|risk[- ]free|special promotion|this is not spam|urgent|winner|100% free|free (?:gift|trial|money))\b/gi

/** Above these, in common practice (no published source): what phones show of a subject, links, words, HTML, files. */
const LIMITS = { subject: 70, links: 3, words: 200, html: 100_000, bytes: 3_000_000 }

const megabytes = (bytes: number) => `${(bytes / 1_000_000).toFixed(1)} MB`
const count = (text: string, pattern: RegExp) => text.match(pattern)?.length ?? 0

/** For how many characters a merge field stands, about. */
const USUAL_VALUE = 10

function* subjectHints({ subject, isAnswer }: WrittenEmail): Generator<string> {
  const letters = subject.replace(/\{\{.*?\}\}/g, '').replace(/[^a-z]/gi, '')
  if (letters.length >= 6 && letters === letters.toUpperCase()) yield 'All capitals: filters take it for advertising'
  if (count(subject, /!/g) > 1) yield 'More than one exclamation mark: filters take it for advertising'
  const length = subject.replace(/\{\{.*?\}\}/g, 'a'.repeat(USUAL_VALUE)).length
  if (length > LIMITS.subject) {
    yield `${length} characters: phones show about ${LIMITS.subject}, so put what matters first`
  }
  if (!isAnswer && /^\s*(?:re|fwd?):/i.test(subject)) {
    yield '“Re:” on a first email looks like a trick; leave a follow-up’s subject empty to go on in the thread'
  }
}

/** Links whose text is an address of another host than the one they lead to. */
function* strayLinks(html: string): Generator<string> {
  for (const [, href, text] of html.matchAll(/<a\b[^>]*?href="([^"]*)"[^>]*>([\s\S]*?)<\/a>/gi)) {
    const shown = /^(?:https?:\/\/)?((?:[\w-]+\.)+[a-z]{2,})/i.exec(text!.replace(/<[^>]*>/g, '').trim())?.[1]
    const real = /^https?:\/\/([^/?#:]+)/i.exec(href!)?.[1]
    const same = (a: string, b: string) =>
      a.replace(/^www\./i, '').toLowerCase() === b.replace(/^www\./i, '').toLowerCase()
    if (shown && real && !same(shown, real)) {
      yield `A link says “${shown}” and leads to “${real}”: filters take that for fraud`
    }
  }
}

function* bodyHints({ body, html }: WrittenEmail): Generator<string> {
  const found = [...new Set((body.match(SPAM_PRONE) ?? []).map((word) => word.toLowerCase()))]
  if (found.length) yield `Filters count against it: ${found.map((word) => `“${word}”`).join(', ')}`
  if (count(body, /!/g) > 3) yield 'More than three exclamation marks: it reads like advertising'
  const links = new Set(
    [...(html ?? '').matchAll(/href="(https?:[^"]*)"/gi), ...body.matchAll(/(https?:\/\/[^\s<>")]+)/g)].map(
      (match) => match[1],
    ),
  )
  if (links.size > LIMITS.links) yield `${links.size} links: more than ${LIMITS.links} look like a mass email`
  const words = body
    .replace(/\{[{%].*?[}%]\}/g, 'x')
    .split(/\s+/)
    .filter(Boolean).length
  if (words > LIMITS.words) yield `${words} words: emails of more than ${LIMITS.words} are rarely read to the end`
  if (html && /<img\b/i.test(html) && words < 20) {
    yield 'Mostly a picture: many readers do not see pictures, and filters distrust it'
  }
  if (html && html.length > LIMITS.html) yield 'Over 100 kB of HTML: some programs cut it off'
  if (html && !isPlain(html)) yield* strayLinks(html)
}

/**
 * What about an email may keep it from arriving or from being read, each with the reason; empty where nothing does. It
 * is advice: nothing here keeps an email from being sent. Common practice, no published source.
 */
export function emailHints(email: WrittenEmail): EmailHint[] {
  const at = (field: EmailHint['field'], messages: Iterable<string>) =>
    [...messages].map((message) => ({ field, message }))
  return [
    ...at('subject', subjectHints(email)),
    ...at('body', bodyHints(email)),
    ...(email.bytes > LIMITS.bytes
      ? at('attachments', [`${megabytes(email.bytes)} of files: many first emails with large files are not delivered`])
      : []),
  ]
}

/** Why files cannot go with one email; null where they can. */
export const tooMuchAttached = (bytes: number): string | null =>
  bytes > MOST_ATTACHED
    ? `Attachments and pictures may come to ${megabytes(MOST_ATTACHED)} together; these are ${megabytes(bytes)}`
    : null
