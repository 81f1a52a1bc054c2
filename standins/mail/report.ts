/**
 * A report that a mail could not be delivered, as RFC 3464 writes it: multipart/report with a human and a machine part.
 */
export function deliveryReport(letter: {
  to: string
  envelopeFrom: string
  messageId: string
  subject: string
}): string {
  return [
    'From: Mail Delivery System <postmaster@mail.example>',
    `To: ${letter.envelopeFrom}`,
    'Subject: Undelivered Mail Returned to Sender',
    'Auto-Submitted: auto-replied',
    `Message-ID: <report-${letter.messageId.replace(/[<>]/g, '')}>`,
    'MIME-Version: 1.0',
    'Content-Type: multipart/report; report-type=delivery-status; boundary="report"',
    '',
    '--report',
    'Content-Type: text/plain; charset=us-ascii',
    '',
    `Your mail "${letter.subject}" to ${letter.to} could not be delivered: there is no such mailbox.`,
    '',
    '--report',
    'Content-Type: message/delivery-status',
    '',
    'Reporting-MTA: dns; mail.example',
    '',
    `Final-Recipient: rfc822; ${letter.to}`,
    'Action: failed',
    'Status: 5.1.1',
    'Diagnostic-Code: smtp; 550 5.1.1 No such mailbox',
    '',
    '--report',
    'Content-Type: text/rfc822-headers',
    '',
    `Message-ID: ${letter.messageId}`,
    `Subject: ${letter.subject}`,
    '',
    '--report--',
    '',
  ].join('\r\n')
}
