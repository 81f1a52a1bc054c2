import { randomUUID } from 'node:crypto'
import ICAL from 'ical.js'
import nodemailer from 'nodemailer'
import { SMTPServer } from 'smtp-server'
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest'
import { messageOfAddress, readToken, replyAddress, signedToken } from '../../../server/channels/mail/addresses'
import { sendDueMail } from '../../../server/channels/mail/dispatch'
import { LARGEST_INCOMING, listenForMail } from '../../../server/channels/mail/inbound'
import { readIncoming } from '../../../server/channels/mail/readIncoming'
import { recoverMail } from '../../../server/channels/mail/recover'
import { asHtml } from '../../../server/channels/mail/compose'
import { invitation } from '../../../server/channels/mail/invitation'
import { readFailure, smtpChannel, type MailChannel } from '../../../server/channels/mail/transport'
import { db } from '../../../server/db/pool'
import { takeDueSteps } from '../../../server/engine/dueSteps'
import { brief } from '../../../server/services/desk/brief'
import { enroll } from '../../../server/services/cadences/enrollments'
import { history, undo } from '../../../server/services/activity/history'
import { cancelMeeting, moveMeeting, settleMeeting } from '../../../server/services/desk/meetings'
import { noteOpened, optOut, readOptOut, settleEmail, writeEmail } from '../../../server/services/email/messages'
import { logOutcome } from '../../../server/services/desk/outcomes'
import type { Viewer } from '../../../server/services/access/viewer'
import { Mailroom } from '../../../standins/mail/mailroom'
import { deliveryReport } from '../../../standins/mail/report'
import { takeMail } from '../../../standins/mail/smtp'
import { addCadence, addPeople, addUser, freeze, MONDAY, outcomeId, rows, startWorld } from '../../fixtures/people'
import { firstRow, sql } from '../../../server/db/sql'

const HOUR = 3_600_000
const room = new Mailroom()
let rep: Viewer
let server: SMTPServer
let inbound: Awaited<ReturnType<typeof listenForMail>>
let channel: MailChannel

beforeAll(async () => {
  await startWorld()
  rep = await addUser()
  server = await takeMail(room, 0)
  inbound = await listenForMail(0)
  const address = server.server.address()
  channel = smtpChannel(`smtp://127.0.0.1:${typeof address === 'object' ? address!.port : 0}`, null)
})
beforeEach(async () => {
  await freeze(MONDAY)
  room.letters.length = 0
  room.taken.clear()
  room.closed = false
})
afterAll(async () => {
  channel.close()
  await inbound.close()
  await new Promise<void>((ended) => server.close(() => ended()))
})

async function enrolled(count = 1, given: Parameters<typeof addCadence>[1] = {}, body?: string) {
  const { ids, companyId } = await addPeople(count, rep.id)
  const cadence = await addCadence(
    [
      { kind: 'email', ...(body && { body }) },
      { kind: 'call', amount: 2, unit: 'hours' },
    ],
    given,
  )
  await enroll(rep, cadence.id, { prospectIds: ids }, false)
  await takeDueSteps()
  return { ids, id: ids[0]!, cadence, companyId }
}
const send = async () => {
  for (let left = 1; left;) left = await sendDueMail(channel, { id: 'test' })
}
const stateOf = async (id: string) =>
  (await rows<{ status: string }>(sql`select status from email_messages where prospect_id = $1`, [id]))[0]!.status

describe('a cadence’s email', () => {
  it('goes by SMTP, filled in, with opt-out, postal address and our signed reply address; then the next step waits', async () => {
    await db().query(sql`update team set name = 'Thornwick Sensing', postal_address = '14 Kiln Lane'`)
    const { id } = await enrolled()
    await send()
    const [letter] = room.letters
    expect(letter).toMatchObject({ subject: 'Your aging rooms', fromName: 'Imani Osei' })
    expect(letter!.text).toContain('Hello Tomas.')
    // 15 USC 7704(a)(5): postal address and opt-out. RFC 2369 and RFC 8058: List-Unsubscribe and its one-click POST.
    expect(letter!.text).toContain('Thornwick Sensing, 14 Kiln Lane')
    const headers = letter!.raw.headerLines.map((header) => header.line.replace(/\r?\n\s+/g, ' ')).join('\n')
    expect(headers).toMatch(/^List-Unsubscribe: <http:\/\/127\.0\.0\.1:4100\/u\/[^>]+>$/m)
    expect(headers).toMatch(/^List-Unsubscribe-Post: List-Unsubscribe=One-Click$/m)
    expect(messageOfAddress(letter!.replyTo)).toBe(
      (await rows<{ id: string }>(sql`select id from email_messages where prospect_id = $1`, [id]))[0]!.id,
    )
    expect(await rows(sql`select status, ms(due_at) as due from enrollments where prospect_id = $1`, [id])).toEqual([
      { status: 'waiting', due: MONDAY + 2 * HOUR },
    ])
  })
  it('waits for the sending window where the recipient is', async () => {
    const {
      ids: [id],
    } = await addPeople(1, rep.id)
    await db().query(
      sql`
      update prospects
      set time_zone = 'Australia/Sydney', country = 'AU', region = 'NSW'
      where id = $1
    `,
      [id],
    )
    await enroll(rep, (await addCadence([{ kind: 'email' }])).id, { prospectIds: [id!] }, false)
    await takeDueSteps()
    await send()
    expect(room.letters).toEqual([])
    // 8:00 on Tuesday in Sydney (UTC+11 in November) is 21:00 UTC on Monday.
    expect(await rows(sql`select ms(send_at) as at from email_messages where prospect_id = $1`, [id])).toEqual([
      { at: Date.UTC(2026, 10, 23, 21) },
    ])
    await freeze(Date.UTC(2026, 10, 23, 21))
    await send()
    expect(room.letters).toHaveLength(1)
  })
  it('keeps to the sender’s spacing and daily cap', async () => {
    const slow = await addUser('rep', 'Slow Sender')
    await db().query(sql`update users set email_spacing_seconds = 60, daily_email_cap = 2 where id = $1`, [slow.id])
    const { ids } = await addPeople(3, slow.id)
    await enroll(slow, (await addCadence([{ kind: 'email' }])).id, { prospectIds: ids }, false)
    await takeDueSteps()
    await send()
    expect(room.letters).toHaveLength(1)
    await freeze(MONDAY + 61_000)
    await send()
    expect(room.letters).toHaveLength(2)
    await freeze(MONDAY + 5 * HOUR)
    await send()
    expect(room.letters).toHaveLength(2)
    await freeze(MONDAY + 24 * HOUR)
    await send()
    expect(room.letters).toHaveLength(3)
  })
  it('is checked again at the moment of sending: a stop that came meanwhile holds', async () => {
    const { id, companyId } = await enrolled()
    await db().query(sql`update companies set status = 'in_deal' where id = $1`, [companyId])
    await send()
    expect(room.letters).toEqual([])
    expect(await stateOf(id)).toBe('cancelled')
    expect(await rows(sql`select exit from enrollments where prospect_id = $1`, [id])).toEqual([{ exit: 'stopped' }])
  })
  it('respects email preferences: cold email is one to one, what was asked for is requested', async () => {
    const takes = (id: string, kinds: string[]) =>
      db().query(sql`update prospects set email_types = $2 where id = $1`, [id, kinds])
    const { id } = await enrolled()
    await takes(id, ['requested'])
    await send()
    expect(room.letters).toHaveLength(0)
    expect(await stateOf(id)).toBe('cancelled')
    expect(
      (await history(rep, id, 20)).flatMap((entry) => entry.changes.map((change) => change.cause)).join(),
    ).toContain('takes no one to one email')
    const {
      ids: [other],
    } = await addPeople(1, rep.id)
    await takes(other!, ['marketing'])
    const cadence = await addCadence([{ kind: 'email' }, { kind: 'call', amount: 2, unit: 'hours' }])
    expect(await enroll(rep, cadence.id, { prospectIds: [other!] }, false)).toMatchObject({
      enrolled: 0,
      refused: [{ why: 'Starts with an email: takes no one to one email' }],
    })
    const asked = await addCadence([{ kind: 'email' }], { cold: false })
    await takes(other!, ['requested'])
    expect(await enroll(rep, asked.id, { prospectIds: [other!] }, false)).toMatchObject({ enrolled: 1 })
    await takeDueSteps()
    await send()
    expect(room.letters).toHaveLength(1)
  })
  it('is blocked where a value is missing, with a task; then sent when a user says so', async () => {
    const { id } = await enrolled(1, {}, 'Hello {{ first_name }}, how is {{ city }}?')
    await send()
    expect(room.letters).toEqual([])
    const shown = await brief(
      rep,
      id,
      (await rows<{ id: string }>(sql`select id from tasks where prospect_id = $1 and status = 'open'`, [id]))[0]!.id,
    )
    expect(shown.held).toMatchObject({ status: 'held', lastError: expect.stringContaining('No city') as string })
    expect(shown.held!.missing).toEqual([{ name: 'city', label: 'City', field: 'city' }])
    // While it lacks that, it does not go, whatever is pressed; nor is it lost by a call that is logged meanwhile.
    await expect(settleEmail(rep, randomUUID(), shown.held!.id, false)).rejects.toMatchObject({ code: 'refused' })
    await logOutcome(rep, id, {
      id: randomUUID(),
      outcomeId: await outcomeId('No answer'),
      taskId: shown.task!.id,
      phoneId: null,
      fingerprint: null,
      details: {},
    })
    expect(await rows(sql`select status from email_messages where prospect_id = $1`, [id])).toEqual([
      { status: 'held' },
    ])
    await db().query(sql`update prospects set city = 'Ithaca' where id = $1`, [id])
    await settleEmail(rep, randomUUID(), shown.held!.id, false)
    await send()
    expect(room.letters[0]!.text).toContain('how is Ithaca?')
  })
})

describe('a mail server that will not', () => {
  it('refuses an address for good: it is marked, the cadence ends, a task is made', async () => {
    const { id } = await enrolled()
    await db().query(sql`update email_addresses set address = 'gone.' || address where prospect_id = $1`, [id])
    await send()
    expect(
      await rows(
        sql`
          select e.status, n.exit
          from email_addresses e
            join enrollments n on n.prospect_id = e.prospect_id
          where e.prospect_id = $1
        `,
        [id],
      ),
    ).toEqual([{ status: 'bounced', exit: 'bounced' }])
    expect(await rows(sql`select kind from tasks where prospect_id = $1 and status = 'open'`, [id])).toEqual([
      { kind: 'first_contact' },
    ])
  })
  it('puts it off: tried again later, not lost, not twice', async () => {
    room.closed = true
    const { id } = await enrolled()
    await send()
    expect(await stateOf(id)).toBe('queued')
    room.closed = false
    await freeze(MONDAY + 2 * 60_000)
    await send()
    expect(await stateOf(id)).toBe('sent')
    expect([...room.taken.values()]).toEqual([1])
  })
  it('is gone altogether: the mail waits', async () => {
    const nobody = smtpChannel('smtp://127.0.0.1:1', null)
    const { id } = await enrolled()
    await sendDueMail(nobody, { id: 'test' })
    nobody.close()
    expect(await stateOf(id)).toBe('queued')
  })
  it('says what an error means', () => {
    const error = (given: object) => Object.assign(new Error('x'), given)
    expect(readFailure(error({ responseCode: 550, command: 'RCPT TO' })).status).toBe('refused')
    expect(readFailure(error({ responseCode: 550, command: 'MAIL FROM' })).status).toBe('deferred')
    expect(readFailure(error({ responseCode: 451, command: 'DATA' })).status).toBe('deferred')
    expect(readFailure(error({ code: 'ECONNECTION', command: 'CONN' })).status).toBe('deferred')
    expect(readFailure(error({ code: 'ECONNRESET', command: 'DATA' })).status).toBe('unconfirmed')
    expect(readFailure(error({ code: 'ETIMEDOUT' })).status).toBe('unconfirmed')
  })
})

describe('a process that died while sending', () => {
  const dying: MailChannel = { deliver: () => new Promise(() => {}), wasTaken: async () => null, close() {} }
  async function dead() {
    const { id } = await enrolled()
    void sendDueMail(dying, { id: 'dead worker' })
    for (let tries = 0; (await stateOf(id)) !== 'sending' && tries < 100; tries++) {
      await new Promise((resolve) => setTimeout(resolve, 20))
    }
    return id
  }
  it.each([
    [false, 'queued'],
    [true, 'sent'],
    [null, 'unconfirmed'],
  ] as const)('where the server says %s the mail is %s', async (taken, status) => {
    const id = await dead()
    expect(await recoverMail({ ...dying, wasTaken: async () => taken }, 'dead worker')).toBe(1)
    expect(await stateOf(id)).toBe(status)
    if (status === 'unconfirmed') {
      expect(await rows(sql`select title from tasks where prospect_id = $1 and status = 'open'`, [id])).toEqual([
        { title: 'An email may have gone out' },
      ])
    }
    await send()
    expect(room.letters).toHaveLength(taken === false ? 1 : 0)
  })
})

describe('what comes back', () => {
  const deliver = async (mail: object) => {
    await nodemailer.createTransport({ host: '127.0.0.1', port: inbound.port, ignoreTLS: true }).sendMail(mail)
    while (await readIncoming());
  }
  const answer = (to: string, mail: object) =>
    deliver({ from: 'tomas@marlpit.example', to, subject: 'Re: Your aging rooms', text: 'Who is asking?', ...mail })
  it('a reply ends the enrollment and is first on the Desk; delivered twice it counts once', async () => {
    const { id } = await enrolled(2)
    await send()
    const to = room.letters.find((letter) => letter.to.startsWith('tomas1@'))!.replyTo
    await answer(to, { messageId: `<one-${id}@marlpit.example>` })
    await answer(to, { messageId: `<one-${id}@marlpit.example>` })
    expect(await rows(sql`select exit from enrollments where prospect_id = $1`, [id])).toEqual([{ exit: 'replied' }])
    expect(await rows(sql`select kind, priority from tasks where prospect_id = $1 and status = 'open'`, [id])).toEqual([
      { kind: 'reply', priority: 0 },
    ])
    expect(await rows(sql`select stage_id from prospects where id = $1`, [id])).toEqual([
      { stage_id: 'in_conversation' },
    ])
    expect(await rows(sql`select body from replies where prospect_id = $1`, [id])).toEqual([
      { body: expect.stringContaining('Who is asking?') as string },
    ])
    await writeEmail(rep, id, {
      id: randomUUID(),
      subject: 'Re: Your aging rooms',
      body: 'Thornwick, we make loggers.',
      html: null,
      attachments: [],
      taskId: (
        await rows<{ id: string }>(sql`select id from tasks where prospect_id = $1 and status = 'open'`, [id])
      )[0]!.id,
      inReplyTo: (await rows<{ id: string }>(sql`select id from replies where prospect_id = $1`, [id]))[0]!.id,
    })
    await send()
    // RFC 5322 3.6.4: an answer names what it answers.
    expect(room.letters.at(-1)!.raw).toMatchObject({ inReplyTo: `<one-${id}@marlpit.example>` })
  })
  it('company-wide, where the cadence says so', async () => {
    const { ids } = await enrolled(3, { replied: 'company' })
    await send()
    await answer(room.letters[0]!.replyTo, {})
    expect(
      await rows(
        sql`
          select exit, count(*)::int as people
          from enrollments
          where prospect_id = any($1::uuid[])
          group by 1
          order by 2
        `,
        [ids],
      ),
    ).toEqual([
      { exit: 'replied', people: 1 },
      { exit: 'colleague_replied', people: 2 },
    ])
  })
  it('an automatic answer is not one (RFC 3834)', async () => {
    const { id } = await enrolled()
    await send()
    await answer(room.letters[0]!.replyTo, { headers: { 'Auto-Submitted': 'auto-replied' } })
    expect(await rows(sql`select status from enrollments where prospect_id = $1`, [id])).toEqual([
      { status: 'waiting' },
    ])
    expect(await rows(sql`select automatic from replies where prospect_id = $1`, [id])).toEqual([{ automatic: true }])
  })
  it('a report of failed delivery marks the address (RFC 3464)', async () => {
    const { id } = await enrolled()
    await send()
    await deliver({
      envelope: { from: '', to: [room.letters[0]!.envelopeFrom] },
      raw: deliveryReport(room.letters[0]!),
    })
    expect(await rows(sql`select status from email_addresses where prospect_id = $1`, [id])).toEqual([
      { status: 'bounced' },
    ])
  })
  it('a warning that an email is delayed changes nothing (RFC 3464)', async () => {
    const { id } = await enrolled()
    await send()
    await deliver({
      envelope: { from: '', to: [room.letters[0]!.envelopeFrom] },
      raw: deliveryReport(room.letters[0]!).replace('Action: failed', 'Action: delayed').replaceAll('5.1.1', '4.4.1'),
    })
    expect(await rows(sql`select status from email_addresses where prospect_id = $1`, [id])).toEqual([{ status: 'ok' }])
    expect(await rows(sql`select status from enrollments where prospect_id = $1`, [id])).toEqual([
      { status: 'waiting' },
    ])
    expect(await rows(sql`select kind from replies where prospect_id = $1`, [id])).toEqual([{ kind: 'delayed' }])
  })
  it('a complaint is an opt-out (RFC 5965)', async () => {
    const { id } = await enrolled()
    await send()
    await deliver({
      envelope: { from: '', to: [room.letters[0]!.envelopeFrom] },
      raw: deliveryReport(room.letters[0]!)
        .replace('report-type=delivery-status', 'report-type=feedback-report')
        .replace('message/delivery-status', 'message/feedback-report')
        .replace('Reporting-MTA: dns; mail.example', 'Feedback-Type: abuse'),
    })
    expect(await rows(sql`select stop_email from prospects where id = $1`, [id])).toEqual([{ stop_email: true }])
  })
  it('an email over the limit is refused while it is being sent, and not kept', async () => {
    const { id } = await enrolled()
    await send()
    await expect(
      deliver({
        envelope: { from: 'a@x.example', to: [room.letters[0]!.envelopeFrom] },
        raw: Buffer.concat([Buffer.from('Subject: big\r\n\r\n'), Buffer.alloc(LARGEST_INCOMING * 3, 'x\r\n')]),
      }),
    ).rejects.toThrow()
    expect(await rows(sql`select id from incoming_email`)).toEqual([])
    expect(await rows(sql`select id from replies where prospect_id = $1`, [id])).toEqual([])
  })
  it('an email that ends the reading three times is set aside; the next is read', async () => {
    const {
      ids: [id, other],
    } = await enrolled(2)
    await send()
    const to = (number: number) => room.letters.find((letter) => letter.to.startsWith(`tomas${number}@`))!.replyTo
    const [poisoned] = await rows<{ id: string }>(
      sql`
        insert into incoming_email (id, message_ids, raw, attempts)
        values (gen_random_uuid(), $1, $2, 3)
        returning id
      `,
      [[messageOfAddress(to(1))], Buffer.from('Subject: x\r\n\r\nx')],
    )
    await answer(to(2), {})
    expect(await rows(sql`select exit from enrollments where prospect_id = $1`, [other])).toEqual([{ exit: 'replied' }])
    expect(await rows(sql`select status from enrollments where prospect_id = $1`, [id])).toEqual([
      { status: 'waiting' },
    ])
    expect(await rows(sql`select id, last_error from incoming_email where set_aside_at is not null`)).toEqual([
      { id: poisoned!.id, last_error: 'The program ended while it was reading this email' },
    ])
    await db().query(sql`delete from incoming_email`)
  })
  it('anything for an address we did not sign is refused', async () => {
    const forged = replyAddress(randomUUID()).replace(/\.[0-9a-f]{16}@/, '.0123456789abcdef@')
    await expect(answer(forged, {})).rejects.toThrow('No such recipient here')
  })
  it('an opt-out is honored at once, and looking at it changes nothing', async () => {
    const { id } = await enrolled()
    const token = signedToken('optout', id)
    expect(await readOptOut(token)).toMatchObject({ prospectId: id, done: false })
    expect(readToken('open', token)).toBeNull()
    await optOut(id)
    await optOut(id)
    expect(await stateOf(id)).toBe('cancelled')
    expect(await rows(sql`select stop_email from prospects where id = $1`, [id])).toEqual([{ stop_email: true }])
    // Email steps are left out; the call that follows is not.
    expect(await rows(sql`select status from enrollments where prospect_id = $1`, [id])).toEqual([
      { status: 'waiting' },
    ])
  })
  it('a look at the mail is noted', async () => {
    const { id } = await enrolled()
    await send()
    const [message] = await rows<{ id: string }>(sql`select id from email_messages where prospect_id = $1`, [id])
    await noteOpened(signedToken('open', message!.id))
    await noteOpened('nonsense')
    expect(await rows(sql`select opens from email_messages where id = $1`, [message!.id])).toEqual([{ opens: 1 }])
  })
})

describe('an email as HTML', () => {
  it.each([
    ['See https://x.example/a.', '<p>See <a href="https://x.example/a">https://x.example/a</a>.</p>'],
    ['(https://x.example/a_(b))', '<p>(<a href="https://x.example/a_(b)">https://x.example/a_(b)</a>)</p>'],
    [
      '"https://x.example/?a=1&b=2", yes',
      '<p>&quot;<a href="https://x.example/?a=1&amp;b=2">https://x.example/?a=1&amp;b=2</a>&quot;, yes</p>',
    ],
    ['One\r\ntwo\r\n\r\nthree', '<p>One<br>two</p><p>three</p>'],
  ])('%j becomes %s', (text, html) => expect(asHtml(text)).toBe(html))
})

describe('an invitation', () => {
  it('holds names with quotes, which a calendar reads back', () => {
    const text = invitation(
      {
        id: 'x',
        title: 'A "look"',
        startAt: MONDAY,
        endAt: MONDAY + HOUR,
        sequence: 0,
        status: 'booked',
        timeZone: 'America/New_York',
        place: null,
      },
      { name: 'Imani "Im" Osei', address: 'a@x.example' },
      { name: 'Tom\n"T"', address: 'b@x.example' },
      MONDAY,
    )
    const event = new ICAL.Component(ICAL.parse(text) as [string, unknown[], unknown[]]).getFirstSubcomponent('vevent')!
    expect(event.getFirstProperty('organizer')!.getParameter('cn')).toBe('Imani ’Im’ Osei')
    expect(event.getFirstPropertyValue('summary')).toBe('A "look"')
  })
  it('is iCalendar that a calendar reads (RFC 5545, RFC 5546): request, times in UTC, organizer, attendee', async () => {
    const { id } = await enrolled()
    const startAt = MONDAY + 48 * HOUR
    await logOutcome(rep, id, {
      id: randomUUID(),
      outcomeId: await outcomeId('Meeting booked'),
      taskId: null,
      phoneId: null,
      fingerprint: null,
      details: { meeting: { title: 'A look at your rooms', startAt, minutes: 45, timeZone: 'America/Chicago' } },
    })
    await send()
    const letter = room.letters.find((one) => one.calendar)!
    const calendar = new ICAL.Component(ICAL.parse(letter.calendar!) as [string, unknown[], unknown[]])
    const event = new ICAL.Event(calendar.getFirstSubcomponent('vevent')!)
    expect(calendar.getFirstPropertyValue('method')).toBe('REQUEST')
    expect([event.startDate.toJSDate().getTime(), event.endDate.toJSDate().getTime()]).toEqual([
      startAt,
      startAt + 45 * 60_000,
    ])
    expect(event.summary).toBe('A look at your rooms')
    // RFC 5545, 3.8.7.2: DTSTAMP is when it was written.
    expect(calendar.getFirstSubcomponent('vevent')!.getFirstPropertyValue('dtstamp')!.toString()).toBe(
      '2026-11-23T15:42:00Z',
    )
    expect(event.organizer).toBe(`mailto:${rep.email}`)
    expect(String(event.attendees[0]!.getFirstValue()).toLowerCase()).toBe(`mailto:${letter.to}`)
  })
  it('says who, when by their clock and where in words; is moved, cancelled and undone with an update each (RFC 5546)', async () => {
    const {
      ids: [id],
    } = await addPeople(1, rep.id)
    const startAt = MONDAY + 48 * HOUR
    const asked = {
      title: 'A look',
      startAt,
      minutes: 45,
      timeZone: 'America/Chicago',
      place: 'We call (212) 555-0100',
    }
    const logged = await logOutcome(rep, id!, {
      id: randomUUID(),
      outcomeId: await outcomeId('Meeting booked'),
      taskId: null,
      phoneId: null,
      fingerprint: null,
      details: { meeting: asked },
    })
    const meeting = await firstRow(
      db().query<{ id: string }>(sql`select id from meetings where prospect_id = $1`, [id]),
    )
    const sent = async () => {
      room.letters.length = 0
      await send()
      const letter = room.letters.find((one) => one.calendar)
      if (!letter) return null
      const calendar = new ICAL.Component(ICAL.parse(letter.calendar!) as [string, unknown[], unknown[]])
      const event = calendar.getFirstSubcomponent('vevent')!
      return {
        subject: letter.subject,
        text: letter.text,
        method: calendar.getFirstPropertyValue('method'),
        uid: event.getFirstPropertyValue('uid'),
        sequence: event.getFirstPropertyValue('sequence'),
        start: new ICAL.Event(event).startDate.toJSDate().getTime(),
        place: event.getFirstPropertyValue('location'),
      }
    }
    const first = await sent()
    expect(first).toMatchObject({
      subject: 'A look',
      method: 'REQUEST',
      sequence: 0,
      start: startAt,
      place: 'We call (212) 555-0100',
    })
    expect(first!.text).toContain('Wednesday, November 25, 2026, 9:42 AM to 10:27 AM (Chicago time)')
    expect(first!.text).toContain('We call (212) 555-0100')
    // RFC 5546, 3.2.2 and 3.2.5: the same UID, a higher SEQUENCE.
    const moved = randomUUID()
    expect(
      (
        await moveMeeting(rep, meeting!.id, {
          id: moved,
          startAt: startAt + HOUR,
          minutes: 30,
          timeZone: 'America/Chicago',
        })
      ).summary,
    ).toBe('Meeting: Wed, Nov 25, 11:42 AM. They get an email.')
    expect(await sent()).toMatchObject({
      subject: 'New time: A look',
      method: 'REQUEST',
      sequence: 1,
      uid: first!.uid,
      start: startAt + HOUR,
    })
    expect(
      await rows(
        sql`
          select ms(due_at) as due
          from tasks
          where prospect_id = $1 and kind = 'meeting_result' and status = 'open'
        `,
        [id],
      ),
    ).toEqual([{ due: startAt + 1.5 * HOUR }])
    await undo(rep, randomUUID(), moved)
    expect(await sent()).toMatchObject({ method: 'REQUEST', sequence: 2, start: startAt })
    // The booking is undone after its invitation has left: the meeting is cancelled, not forgotten.
    expect((await undo(rep, randomUUID(), logged.id)).unchanged).toContain(
      'The invitation has gone out: a cancellation follows',
    )
    expect(await sent()).toMatchObject({ subject: 'Canceled: A look', method: 'CANCEL', sequence: 3, uid: first!.uid })
    expect(await rows(sql`select status from meetings where prospect_id = $1`, [id])).toEqual([{ status: 'cancelled' }])
    await expect(cancelMeeting(rep, meeting!.id, randomUUID())).rejects.toThrow('no longer booked')
  })
  it('that has not left when the meeting is cancelled never leaves', async () => {
    const {
      ids: [id],
    } = await addPeople(1, rep.id)
    await logOutcome(rep, id!, {
      id: randomUUID(),
      outcomeId: await outcomeId('Meeting booked'),
      taskId: null,
      phoneId: null,
      fingerprint: null,
      details: { meeting: { title: 'A look', startAt: MONDAY + 48 * HOUR, minutes: 30, timeZone: 'UTC' } },
    })
    const meeting = await firstRow(
      db().query<{ id: string }>(sql`select id from meetings where prospect_id = $1`, [id]),
    )
    expect((await cancelMeeting(rep, meeting!.id, randomUUID())).summary).toContain('The meeting is canceled.')
    await send()
    expect(room.letters.filter((letter) => letter.calendar)).toEqual([])
    expect(await rows(sql`select kind from tasks where prospect_id = $1 and status = 'open'`, [id])).toEqual([
      { kind: 'follow_up' },
    ])
  })
})

describe('a meeting that has taken place', () => {
  const booked = async () => {
    await freeze(MONDAY)
    const {
      ids: [id],
    } = await addPeople(1, rep.id)
    await logOutcome(rep, id!, {
      id: randomUUID(),
      outcomeId: await outcomeId('Meeting booked'),
      taskId: null,
      phoneId: null,
      fingerprint: null,
      details: { meeting: { title: 'A look', startAt: MONDAY + HOUR, minutes: 30, timeZone: 'UTC' } },
    })
    const meeting = await firstRow(
      db().query<{ id: string }>(sql`select id from meetings where prospect_id = $1`, [id]),
    )
    await send()
    await freeze(MONDAY + 2 * HOUR)
    const read = await brief(
      rep,
      id!,
      (
        await rows<{ id: string }>(sql`select id from tasks where prospect_id = $1 and kind = 'meeting_result'`, [id])
      )[0]!.id,
    )
    return { id: id!, meeting: meeting!.id, results: read.meeting!.results }
  }
  it('is held, qualified or a no-show: each says what it does before it does it, and counts as a meeting', async () => {
    const held = await booked()
    expect(held.results.map((one) => one.label)).toEqual(['Held', 'Held, and qualified', 'No-show'])
    expect((await settleMeeting(rep, held.meeting, { id: randomUUID(), result: 'held' })).summary).toBe(
      held.results[0]!.summary,
    )
    expect(
      await rows(
        sql`
        select kind, counts_as
        from touches
        where prospect_id = $1 and kind <> 'email'
        order by at, kind
      `,
        [held.id],
      ),
    ).toEqual([
      { kind: 'call', counts_as: 'conversation' },
      { kind: 'meeting', counts_as: 'conversation' },
    ])
    expect(await rows(sql`select kind from tasks where prospect_id = $1 and status = 'open'`, [held.id])).toEqual([
      { kind: 'follow_up' },
    ])
    const qualified = await booked()
    expect((await settleMeeting(rep, qualified.meeting, { id: randomUUID(), result: 'qualified' })).summary).toContain(
      'The deal is 40% likely.',
    )
    expect(await rows(sql`select likelihood, status from deals where prospect_id = $1`, [qualified.id])).toEqual([
      { likelihood: 40, status: 'open' },
    ])
    const missed = await booked()
    expect(
      (await settleMeeting(rep, missed.meeting, { id: randomUUID(), result: 'no_show', note: 'Nobody there' })).summary,
    ).toContain('Back on the Desk tomorrow')
    expect(
      await rows(
        sql`
          select a.status, n.body
          from meetings a
            join notes n on n.prospect_id = a.prospect_id
          where a.id = $1
        `,
        [missed.meeting],
      ),
    ).toEqual([{ status: 'no_show', body: 'Nobody there' }])
  })
  it('has no result before its time', async () => {
    const { meeting } = await booked()
    await freeze(MONDAY)
    await expect(settleMeeting(rep, meeting, { id: randomUUID(), result: 'held' })).rejects.toThrow(
      'has not taken place yet',
    )
  })
})
