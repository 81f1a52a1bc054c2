import type Mail from 'nodemailer/lib/mailer'
import type { EmailKind } from '#core/enumerations'
import { escapeHtml, picturesIn, withPictures } from '#core/text/html'
import { merge, type MergeValues } from '#core/text/merge'
import { env } from '../../environment'
import { withLinks } from '#core/email/links'
import { mergeFieldsInWords } from '#core/text/mergeFields'
import { clickAddress } from './clicks'
import { headerId, replyAddress, signedToken } from './addresses'
import { invitation, invitationSubject, invitationText } from './invitation'

/** A file that goes with an email. */
export interface EmailFile {
  id: string
  name: string
  mediaType: string
  content: Buffer
}

/** Everything a mail is made of, read for a batch in one statement. */
export interface MailParts {
  id: string
  /** The moment it is composed, in the world's time. */
  now: number
  kind: EmailKind
  prospectId: string
  enrollmentId: string | null
  stepId: string | null
  /** Whether it needs the postal address and the opt-out: to many, of a cold cadence, or marketing. */
  commercial: boolean
  /** Written text for personal mail; the step's template otherwise. */
  subject: string
  body: string
  /** The text with its formatting; null where it has none. */
  html: string | null
  /** Which version of its step it is; null where the step has one text only. */
  versionId: string | null
  /** Its attachments and the pictures in its text; `lostFiles` says whether one of them is not there any more. */
  files: readonly EmailFile[]
  lostFiles: boolean
  inReplyTo: string | null
  /** Whether subject and text are what they are, with nothing to be filled in, though it is a step. */
  written: boolean
  /** The emails that a step without a subject follows, by their Message-IDs; null where it begins a thread. */
  thread: { ids: readonly string[]; subject: string } | null
  toAddress: string
  values: MergeValues
  senderName: string
  senderAddress: string
  teamName: string
  postalAddress: string
  /** Whether clicks on links are counted. */
  countClicks: boolean
  meeting: {
    id: string
    title: string
    startAt: number
    endAt: number
    timeZone: string
    sequence: number
    status: string
    place: string | null
  } | null
}

/**
 * An address in running text: up to white space, less the punctuation that ends the sentence or closes a bracket or a
 * quote around it.
 */
const LINK = /https?:\/\/[^\s<>"]+/g

function linkTo(url: string): string {
  let end = url.length
  for (let last = url[end - 1]!; end > 0; last = url[--end - 1]!) {
    const opens = { ')': '(', ']': '[', '}': '{' }[last]
    const unopened = opens !== undefined && url.slice(0, end).split(opens).length < url.slice(0, end).split(last).length
    if (!unopened && !".,;:!?'’”»".includes(last)) break
  }
  const address = escapeHtml(url.slice(0, end))
  return `<a href="${address}">${address}</a>${escapeHtml(url.slice(end))}`
}

/** Text as simple HTML: paragraphs, line breaks, addresses as links. */
export function asHtml(text: string): string {
  const plain = text.replace(/\r\n?/g, '\n')
  let linked = ''
  let at = 0
  for (const match of plain.matchAll(LINK)) {
    linked += escapeHtml(plain.slice(at, match.index)) + linkTo(match[0])
    at = match.index + match[0].length
  }
  linked += escapeHtml(plain.slice(at))
  return linked
    .split(/\n{2,}/)
    .map((paragraph) => `<p>${paragraph.replace(/\n/g, '<br>')}</p>`)
    .join('')
}

/** An email ready to leave, or why it cannot. */
export type Composed =
  | {
      mail: Mail.Options
      subject: string
      /** The text as it was filled in, without what every email carries at its end; the same with formatting. */
      body: string
      html: string | null
      headerId: string
    }
  | { blocked: string }

const asWritten = (text: string) => ({ text, missing: [] as string[], error: null })

/** Where a picture of an email is found within it (RFC 2392). */
const pictureId = (fileId: string) => `${fileId}@uphill`
const pictureAddress = (fileId: string) => `cid:${pictureId(fileId)}`

/** The files of an email: pictures that its text shows, and what is attached to it. */
function attached({ files, html }: MailParts): Pick<Mail.Options, 'attachments'> {
  if (!files.length) return {}
  const shown = new Set(picturesIn(html ?? ''))
  return {
    attachments: files.map(({ id, name, mediaType, content }) => ({
      filename: name,
      contentType: mediaType,
      content,
      ...(shown.has(id) && { cid: pictureId(id), contentDisposition: 'inline' as const }),
    })),
  }
}

/** The subject of an answer to an email, or of a follow-up to it (RFC 5322, 3.6.5). */
export const answerTo = (subject: string): string => (/^re:/i.test(subject) ? subject : `Re: ${subject}`)

function subjectOf(parts: MailParts, template: boolean) {
  if (parts.meeting) return asWritten(invitationSubject(parts.meeting))
  if (parts.thread && !parts.written) return asWritten(answerTo(parts.thread.subject))
  return template ? merge(parts.subject, parts.values) : asWritten(parts.subject)
}

/**
 * Fills in a mail. Cold mail and mail to many carry the team's postal address and a working opt-out (15 USC
 * 7704(a)(5)), in the text and as List-Unsubscribe with one-click POST (RFC 2369, RFC 8058).
 */
export function compose(parts: MailParts): Composed {
  const template = (parts.kind === 'step' || parts.kind === 'bulk') && !parts.written
  const { meeting, thread } = parts
  const subject = subjectOf(parts, template)
  const body = template
    ? merge(parts.body, parts.values)
    : asWritten(meeting ? invitationText(meeting, parts) : parts.body)
  const html = template && parts.html ? merge(parts.html, parts.values, 'html') : asWritten(parts.html ?? '')
  const fault = subject.error ?? body.error ?? html.error
  if (fault) return { blocked: `The template cannot be filled in. Line ${fault.line}: ${fault.message}` }
  if (parts.lostFiles) return { blocked: 'A file of this email has been deleted' }
  const missing = [...new Set([...subject.missing, ...body.missing, ...html.missing])]
  if (missing.length) {
    return { blocked: `No ${mergeFieldsInWords(missing)} on record, and the template has no fallback` }
  }
  const id = headerId(parts)
  const optOut = `${env().url}/u/${signedToken('optout', parts.prospectId)}`
  const { commercial } = parts
  const foot = commercial
    ? `\n\n--\n${[parts.teamName, parts.postalAddress].filter(Boolean).join(', ')}\nNo more mail from us: ${optOut}`
    : ''
  const text = body.text + foot
  const pixel = `<img src="${env().url}/o/${signedToken('open', parts.id)}" width="1" height="1" alt="">`
  const shown = html.text ? withPictures(html.text, pictureAddress) + (foot && asHtml(foot.trim())) : asHtml(text)
  const countedAt = (url: string) => clickAddress(parts.id, url)
  const ours = (url: string) => url.startsWith(`${env().url}/`)
  const line = subject.text.replace(/[\r\n]+/g, ' ').trim()
  return {
    subject: line,
    body: body.text,
    html: html.text || null,
    headerId: id,
    mail: {
      from: { name: parts.senderName, address: parts.senderAddress },
      to: parts.toAddress,
      replyTo: { name: parts.senderName, address: replyAddress(parts.id) },
      subject: line,
      text,
      html: (parts.countClicks ? withLinks(shown, countedAt, ours) : shown) + pixel,
      ...attached(parts),
      messageId: id,
      ...(parts.inReplyTo && { inReplyTo: parts.inReplyTo, references: parts.inReplyTo }),
      ...(thread && { inReplyTo: thread.ids.at(-1)!, references: [...thread.ids] }),
      ...(commercial && {
        headers: { 'List-Unsubscribe': `<${optOut}>`, 'List-Unsubscribe-Post': 'List-Unsubscribe=One-Click' },
      }),
      ...(parts.meeting && {
        icalEvent: {
          method: parts.meeting.status === 'cancelled' ? 'CANCEL' : 'REQUEST',
          content: invitation(
            parts.meeting,
            { name: parts.senderName, address: parts.senderAddress },
            {
              name: `${parts.values.first_name ?? ''} ${parts.values.last_name ?? ''}`.trim(),
              address: parts.toAddress,
            },
            parts.now,
          ),
        },
      }),
      // Bounces come back to where replies come back to (RFC 3464 reports go to the envelope's sender).
      envelope: { from: replyAddress(parts.id), to: parts.toAddress },
    },
  }
}
