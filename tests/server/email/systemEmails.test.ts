import { createTransport } from 'nodemailer'
import { randomUUID } from 'node:crypto'
import type Mail from 'nodemailer/lib/mailer'
import { beforeAll, describe, expect, it } from 'vitest'
import { inviteUser } from '../../../shared/api/accounts'
import { getTestEmail, sendTestEmail, startRoundTrip } from '../../../shared/api/email/testEmails'
import { testAddress } from '../../../server/channels/mail/addresses'
import { listenForMail } from '../../../server/channels/mail/inbound'
import type { Delivery, MailChannel } from '../../../server/channels/mail/transport'
import { db } from '../../../server/db/pool'
import { forgetOldTexts, sendSystemEmail as handOver } from '../../../server/services/email/systemEmails'
import { addPeople, rows } from '../../fixtures/people'
import { withTeam } from '../../fixtures/team'
import '../database'
import { sql } from '../../../server/db/sql'

const team = withTeam()
let sent: Mail.Options[] = []
const channel = (delivery: Delivery = { status: 'sent' }): MailChannel => ({
  deliver: async (mail) => {
    sent.push(mail)
    return delivery
  },
  wasTaken: async () => null,
  close: () => {},
})
beforeAll(async () => {
  const { runMigrations, Logger } = await import('graphile-worker')
  await runMigrations({ pgPool: db(), logger: new Logger(() => () => {}) })
})

describe('a test email to oneself', () => {
  it('is filled in as for a prospect, goes to the sender only and leaves no trace on the prospect', async () => {
    sent = []
    const {
      ids: [id],
    } = await addPeople(1, team.rep.id, 'Tested Cellars')
    const body = {
      id: randomUUID(),
      subject: 'Rooms, {{ first_name }}',
      body: 'A word on {{ company }}',
      prospectId: id!,
    }
    expect(await team.asRep.ok(sendTestEmail, { body })).toMatchObject({ to: team.rep.email })
    await handOver(body.id, channel())
    expect(sent).toMatchObject([
      { to: team.rep.email, subject: 'Test: Rooms, Tomas', text: 'A word on Tested Cellars' },
    ])
    expect(await team.asRep.ok(getTestEmail, { params: { id: body.id } })).toMatchObject({
      sentAt: expect.any(Number),
      returnedAt: null,
      error: null,
    })
    expect(await rows(sql`select body from system_emails`)).toEqual([{ body: '' }])
    expect(await rows(sql`select from email_messages where prospect_id = $1`, [id])).toEqual([])
    // Sent once, however often the job runs.
    await handOver(body.id, channel())
    expect(sent).toHaveLength(1)
    await team.asRep.refused(sendTestEmail, 409, { body })
    await team.asOther.refused(getTestEmail, 404, { params: { id: body.id } })
    await team.asOther.refused(sendTestEmail, 404, { body: { ...body, id: randomUUID() } })
  })
  it('that cannot be filled in says why', async () => {
    const {
      ids: [id],
    } = await addPeople(1, team.rep.id)
    const refused = await team.asRep.refused(sendTestEmail, 400, {
      body: { id: randomUUID(), subject: 'Rooms', body: 'In {{ city }}', prospectId: id! },
    })
    expect(refused.problems).toMatchObject([{ field: 'body' }])
  })
})

describe('an invitation', () => {
  it('that cannot be sent fails where it is seen and keeps its text for another try, but no longer than a day', async () => {
    const body = {
      id: randomUUID(),
      name: 'Odd Harrow',
      email: 'odd@thornwick.example',
      role: 'rep' as const,
      timeZone: 'America/Chicago',
    }
    await team.asManager.ok(inviteUser, { body })
    await expect(handOver(body.id, channel({ status: 'deferred', lastError: '451 later' }))).rejects.toThrow(
      'The invitation to odd@thornwick.example could not be sent: 451 later',
    )
    sent = []
    await handOver(body.id, channel())
    expect(sent).toMatchObject([{ to: 'odd@thornwick.example', text: expect.stringContaining('reset-password#') }])
    await team.asManager.ok(inviteUser, { body: { ...body, id: randomUUID(), email: 'late@thornwick.example' } })
    await db().query(sql`update system_emails set asked_at = now() - interval '25 hours'`)
    await forgetOldTexts()
    expect(
      await rows(sql`
      select to_address, body, error
      from system_emails
      where to_address like 'late%'
    `),
    ).toEqual([{ to_address: 'late@thornwick.example', body: '', error: 'It was not sent within a day' }])
  })
})

describe('the round trip', () => {
  it('is known to have come back when it reaches our own address, and only with our seal', async () => {
    sent = []
    const id = randomUUID()
    await team.asRep.refused(startRoundTrip, 403, { body: { id } })
    await team.asManager.ok(startRoundTrip, { body: { id } })
    await handOver(id, channel())
    expect(sent).toMatchObject([{ to: testAddress(id) }])
    expect(await team.asManager.ok(getTestEmail, { params: { id } })).toMatchObject({ returnedAt: null })
    const inbound = await listenForMail(0)
    const smtp = createTransport({ host: '127.0.0.1', port: inbound.port, secure: false, ignoreTLS: true })
    await expect(
      smtp.sendMail({
        from: 'a@b.example',
        to: testAddress(id).replace(/\.[0-9a-f]{16}@/, '.0123456789abcdef@'),
        text: 'x',
      }),
    ).rejects.toThrow(/550/)
    await smtp.sendMail({ from: 'a@b.example', to: testAddress(id), text: 'x' })
    smtp.close()
    await inbound.close()
    expect(await team.asManager.ok(getTestEmail, { params: { id } })).toMatchObject({ returnedAt: expect.any(Number) })
  })
  it('that the mail server refuses says what it said', async () => {
    const id = randomUUID()
    await team.asManager.ok(startRoundTrip, { body: { id } })
    await handOver(id, channel({ status: 'refused', lastError: '550 relaying denied' }))
    expect(await team.asManager.ok(getTestEmail, { params: { id } })).toEqual({
      sentAt: null,
      returnedAt: null,
      error: '550 relaying denied',
    })
  })
})
