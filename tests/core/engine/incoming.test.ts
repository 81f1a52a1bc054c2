import { describe, expect, it } from 'vitest'
import { kindOfIncoming, type IncomingEmail } from '../../../core/email/incoming'

type Given = Omit<Partial<IncomingEmail>, 'headers'> & { headers?: Record<string, string> }
const email = ({ headers = {}, ...given }: Given): IncomingEmail => ({
  envelopeFrom: 'ana@oxbow.example',
  subject: 'Re: Your aging rooms',
  text: 'Who is asking?',
  parts: [],
  ...given,
  headers: Object.entries({ from: 'Ana <ana@oxbow.example>', 'content-type': 'text/plain', ...headers }),
})
const report = (status: string, type = 'delivery-status') =>
  email({
    envelopeFrom: '',
    headers: {
      'content-type': `Multipart/Report; Report-Type="${type}"; boundary=x`,
      'auto-submitted': 'auto-replied',
    },
    parts: [{ contentType: `message/${type}`, text: status }],
  })
const fromServer = (subject: string, text: string, given: Given = {}) =>
  email({
    envelopeFrom: '',
    headers: { from: 'Mail Delivery Subsystem <MAILER-DAEMON@mx.example>' },
    subject,
    text,
    ...given,
  })

describe('an email that comes back', () => {
  it.each<[string, string, IncomingEmail]>([
    ['reply', 'an answer by a person', email({})],
    [
      'reply',
      'an answer about an outage',
      email({ subject: 'Re: delivery failed?', text: 'Our delivery has failed permanently, so call me.' }),
    ],
    ['reply', 'a reply to an out-of-office', email({ subject: 'Re: Out of office' })],
    ['reply', 'Auto-Submitted: no (RFC 3834, 5)', email({ headers: { 'auto-submitted': 'No (a person)' } })],
    // RFC 3464, 2.3.3: what the action says.
    ['bounce', 'Action: failed', report('Final-Recipient: rfc822; a@x.example\r\nAction: failed\r\nStatus: 5.1.1')],
    ['bounce', 'Action: Failed of a temporary cause, given up', report('Action: Failed\r\nStatus: 4.4.7')],
    [
      'delayed',
      'Action: delayed',
      report(
        'Reporting-MTA: dns; mx.example\r\n\r\nFinal-Recipient: rfc822; a@x.example\r\nAction: delayed\r\nStatus: 4.4.1\r\nWill-Retry-Until: Fri, 27 Nov 2026 10:00:00 +0000',
      ),
    ],
    ['receipt', 'Action: delivered', report('Action: delivered\r\nStatus: 2.0.0')],
    ['receipt', 'Action: relayed', report('Action: relayed (to a gateway)\r\nStatus: 2.0.0')],
    ['bounce', 'no action, status 5', report('Final-Recipient: rfc822; a@x.example\r\nStatus: 5.1.1')],
    ['delayed', 'no action, status 4', report('Status: 4.2.0')],
    // RFC 8098.
    [
      'receipt',
      'a read receipt',
      report('Disposition: manual-action/MDN-sent-manually; displayed', 'disposition-notification'),
    ],
    // RFC 5965.
    [
      'complaint',
      'a complaint',
      report('Feedback-Type: abuse\r\nUser-Agent: Feedback/1.0\r\nVersion: 1', 'feedback-report'),
    ],
    ['automatic', 'the taking back of a complaint', report('Feedback-Type: not-spam\r\nVersion: 1', 'feedback-report')],
    [
      'bounce',
      'an older report in plain words',
      fromServer(
        'Undelivered Mail Returned to Sender',
        'I could not deliver your message.\n<ana@oxbow.example>: 550 5.1.1 User unknown',
      ),
    ],
    ['bounce', 'a failure notice', fromServer('failure notice', 'Sorry, no mailbox here by that name. (#5.1.1)')],
    [
      'bounce',
      'a report wrapped in an ordinary email',
      fromServer('Mail delivery', 'See attached.', {
        parts: [
          {
            contentType: 'message/rfc822',
            text: 'Final-Recipient: rfc822; a@x.example\nAction: failed\nStatus: 5.0.0',
          },
        ],
      }),
    ],
    [
      'delayed',
      'an older warning in plain words',
      fromServer('Warning: message delayed 4 hours', 'The server will keep trying for 2 days. No action is required.'),
    ],
    // RFC 3834, and the headers in use beside it.
    [
      'automatic',
      'Auto-Submitted with a comment',
      email({ headers: { 'auto-submitted': 'Auto-Replied (vacation); owner-email="a@x.example"' } }),
    ],
    ['automatic', 'Precedence', email({ headers: { precedence: 'Bulk' } })],
    ['automatic', 'X-Auto-Response-Suppress', email({ headers: { 'x-auto-response-suppress': 'All' } })],
    ['automatic', 'X-Autorespond', email({ headers: { 'x-autorespond': 'Thank you' } })],
    ['automatic', 'an empty envelope sender', email({ envelopeFrom: '' })],
    ['automatic', 'English', email({ subject: 'Automatic reply: Your aging rooms' })],
    ['automatic', 'English', email({ subject: 'Out of the Office until Monday' })],
    ['automatic', 'German', email({ subject: 'Abwesenheitsnotiz: Ihre Reiferäume' })],
    ['automatic', 'French', email({ subject: 'Réponse automatique : vos caves' })],
    ['automatic', 'Spanish', email({ subject: 'Respuesta automática: sus cámaras' })],
    ['automatic', 'Dutch', email({ subject: 'Automatisch antwoord: uw kelders' })],
  ])('is a %s: %s', (kind, _, given) => expect(kindOfIncoming(given)).toBe(kind))
})
