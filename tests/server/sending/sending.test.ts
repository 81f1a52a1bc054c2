import { randomUUID } from 'node:crypto'
import type { z } from 'zod'
import { beforeEach, describe, expect, it } from 'vitest'
import {
  addSendingWindow,
  cancelEmails,
  editSender,
  editSendingWindow,
  listEmailQueue,
  listSenders,
  listSendingWindows,
  removeSendingWindow,
} from '../../../shared/api/email/sending'
import { editCadence, getCadence, setCadenceState } from '../../../shared/api/cadences/cadences'
import { db } from '../../../server/db/pool'
import { sql } from '../../../server/db/sql'
import { takeDueSteps } from '../../../server/engine/dueSteps'
import { sendDueMail } from '../../../server/channels/mail/dispatch'
import type { MailChannel } from '../../../server/channels/mail/transport'
import { enroll } from '../../../server/services/cadences/enrollments'
import { addCadence, addPeople, addUser, freeze, MONDAY, rows } from '../../fixtures/people'
import { withTeam } from '../../fixtures/team'

const HOUR = 3_600_000
const DAY = 24 * HOUR
const team = withTeam()
const OFFICE = {
  days: [1, 2, 3, 4, 5],
  from: 480,
  to: 1020,
  clock: 'prospect' as const,
  holidays: 'prospect' as const,
}
const HOW: z.input<typeof editSender.body> = { cap: 100, spacing: 0, jitter: 0, domainCap: null, ramp: null }

/** A mail server that takes everything, and remembers to whom. */
const taken: string[] = []
const channel: MailChannel = {
  deliver: (mail) => {
    taken.push(String(mail.to))
    return Promise.resolve({ status: 'sent' })
  },
  wasTaken: () => Promise.resolve(null),
  close: () => {},
}
const send = async () => {
  for (let left = 1; left;) left = await sendDueMail(channel, { id: 'test' })
}
beforeEach(async () => {
  await freeze(MONDAY)
  taken.length = 0
})

/** A sender of their own with people in a cadence whose first email is due. */
async function queued(count: number, how: Partial<typeof HOW> = {}) {
  const user = await addUser('rep', `Sender ${randomUUID().slice(0, 6)}`)
  await team.asManager.ok(editSender, { params: { id: user.id }, body: { ...HOW, ...how } })
  const { ids } = await addPeople(count, user.id)
  const cadence = await addCadence([{ kind: 'email' }, { kind: 'call', amount: 2, unit: 'hours' }])
  await enroll(user, cadence.id, { prospectIds: ids }, false)
  await takeDueSteps()
  return { user, ids, cadence }
}
const queueOf = (senderId: string) => team.asManager.ok(listEmailQueue, { query: { senderId } })
const senderOf = async (id: string) =>
  (await team.asManager.ok(listSenders)).senders.find((sender) => sender.id === id)!
/** Puts a cadence on a window. */
async function useWindow(cadenceId: string, windowId: string): Promise<void> {
  const { version, ...cadence } = await team.asManager.ok(getCadence, { params: { id: cadenceId } })
  await team.asManager.ok(editCadence, { params: { id: cadenceId }, body: { ...cadence, windowId, version } })
}

describe('sending windows', () => {
  it('are kept by name, changed in one place, and not deleted while a cadence uses them', async () => {
    const { id } = await team.asManager.ok(addSendingWindow, { body: { ...OFFICE, name: 'Afternoons', from: 780 } })
    const { cadence, ids } = await queued(1)
    await useWindow(cadence.id, id)
    // 10:42 in New York: the email waits for 13:00.
    await send()
    expect(taken).toEqual([])
    const [window] = (await team.asManager.ok(listSendingWindows)).windows.filter((one) => one.id === id)
    expect(window!.cadences.map((one) => one.id)).toEqual([cadence.id])
    expect(window).toMatchObject({ name: 'Afternoons', from: 780, clock: 'prospect', isDefault: false })
    await team.asManager.refused(removeSendingWindow, 422, { params: { id } })
    // Opened earlier, it lets the email go at once.
    await team.asManager.ok(editSendingWindow, {
      params: { id },
      body: { ...OFFICE, name: 'All day', from: 600, version: window!.version },
    })
    await send()
    expect(taken).toHaveLength(1)
    expect(await rows(sql`select status from email_messages where prospect_id = $1`, [ids[0]])).toEqual([
      { status: 'sent' },
    ])
    // Saved by two at once, the second one is refused.
    await team.asManager.refused(editSendingWindow, 409, {
      params: { id },
      body: { ...OFFICE, name: 'Theirs', version: window!.version },
    })
  })
  it('hold for an email that had its moment already', async () => {
    const { id } = await team.asManager.ok(addSendingWindow, { body: { ...OFFICE, name: 'Short', to: 660 } })
    const { cadence, user } = await queued(3, { spacing: 300 })
    await useWindow(cadence.id, id)
    await send()
    expect(taken).toHaveLength(1)
    // 11:00 has come: the ones of 10:47 and 10:52 wait for tomorrow.
    await freeze(MONDAY + 20 * 60_000)
    await send()
    expect(taken).toHaveLength(1)
    expect((await queueOf(user.id)).emails.map(({ why }) => why)).toEqual(['window', 'window'])
    await freeze(Date.UTC(2026, 10, 24, 13))
    await send()
    expect(taken).toHaveLength(2)
  })
  it('open by the clock of the sender where they say so', async () => {
    const { id } = await team.asManager.ok(addSendingWindow, {
      body: { ...OFFICE, name: 'Ours', clock: 'sender', holidays: 'team' },
    })
    const { cadence, ids, user } = await queued(1)
    await db().query(
      sql`update prospects set time_zone = 'Australia/Sydney', country = 'AU', region = 'NSW' where id = $1`,
      [ids[0]],
    )
    await useWindow(cadence.id, id)
    // It is 2:42 on Tuesday in Sydney, and 10:42 here.
    await send()
    expect(taken).toHaveLength(1)
    expect((await queueOf(user.id)).total).toBe(0)
  })
  it.each([
    ['no day', { days: [] }, 'days'],
    ['an end before its start', { from: 600, to: 540 }, 'to'],
    ['no name', { name: ' ' }, 'name'],
    ['a clock of nobody', { clock: 'moon' }, 'clock'],
  ])('with %s are refused at the field', async (_, wrong, field) => {
    const { problems } = await team.asManager.refused(addSendingWindow, 400, {
      body: { name: 'Wrong', ...OFFICE, ...wrong } as never,
    })
    expect(problems.map((problem) => problem.field)).toEqual([field])
  })
  it('have names of their own, are the managers’ to change, and the default one stays', async () => {
    const { problems } = await team.asManager.refused(addSendingWindow, 409, {
      body: { ...OFFICE, name: 'BUSINESS hours' },
    })
    expect(problems.map((problem) => problem.field)).toEqual(['name'])
    await team.asRep.refused(addSendingWindow, 403, { body: { ...OFFICE, name: 'Mine' } })
    const { windows } = await team.asRep.ok(listSendingWindows)
    const [first] = windows
    expect(first).toMatchObject({ name: 'Business hours', isDefault: true })
    await team.asManager.refused(removeSendingWindow, 422, { params: { id: first!.id } })
    const { id } = await team.asManager.ok(addSendingWindow, { body: { ...OFFICE, name: 'New default' } })
    await team.asManager.ok(editSendingWindow, {
      params: { id },
      body: { ...OFFICE, name: 'New default', version: 1, isDefault: true },
    })
    expect((await team.asManager.ok(listSendingWindows)).windows.filter((one) => one.isDefault)).toMatchObject([{ id }])
    const after = (await team.asManager.ok(listSendingWindows)).windows.find((one) => one.id === first!.id)!
    await team.asManager.ok(editSendingWindow, {
      params: { id: first!.id },
      body: { ...OFFICE, name: 'Business hours', version: after.version, isDefault: true },
    })
    await team.asManager.ok(removeSendingWindow, { params: { id } })
  })
})

describe('a sender', () => {
  it('keeps to the cap for a receiving domain; what found no room goes first tomorrow', async () => {
    const { user, ids } = await queued(3, { domainCap: 2 })
    const other = await addPeople(1, user.id, 'Cold Cider Works')
    await send()
    expect(taken).toHaveLength(2)
    const { emails, reasons } = await queueOf(user.id)
    // 8:00 on Tuesday in New York.
    expect(emails).toMatchObject([{ why: 'domain', at: Date.UTC(2026, 10, 24, 13) }])
    expect(reasons).toEqual({ domain: 1 })
    // Others are not held up.
    const cadence = await addCadence([{ kind: 'email' }])
    await enroll(user, cadence.id, { prospectIds: other.ids }, false)
    await takeDueSteps()
    await send()
    expect(taken).toHaveLength(3)
    await db().query(sql`update users set daily_email_cap = 1 where id = $1`, [user.id])
    const late = await addPeople(1, user.id, 'Late Vault')
    await enroll(user, cadence.id, { prospectIds: late.ids }, false)
    await freeze(Date.UTC(2026, 10, 24, 13))
    await takeDueSteps()
    await send()
    const left = await rows<{ id: string }>(
      sql`select prospect_id as id from email_messages where sender_id = $1 and status = 'queued'`,
      [user.id],
    )
    expect(left.map(({ id }) => id)).toEqual(late.ids)
    expect(ids).not.toContain(left[0]!.id)
  })
  it('starts slowly: so many on the first day, more on each day after, until the cap', async () => {
    const { user } = await queued(6, { cap: 3, ramp: { first: 1, more: 1 } })
    for (let day = 0; day < 3; day++) {
      await freeze(MONDAY + day * DAY)
      await send()
      expect(await senderOf(user.id)).toMatchObject({ sentToday: day + 1, capToday: day + 1, daysSent: day, cap: 3 })
    }
    expect((await queueOf(user.id)).total).toBe(0)
  })
  it('is given more room by a higher cap, at once', async () => {
    const { user } = await queued(3, { cap: 1 })
    await send()
    expect(taken).toHaveLength(1)
    await team.asManager.ok(editSender, { params: { id: user.id }, body: { ...HOW, cap: 10 } })
    await send()
    expect(taken).toHaveLength(3)
  })
  it('is the managers’ to change, and a rep sees how their own email is sent', async () => {
    await team.asRep.refused(editSender, 403, { params: { id: team.rep.id }, body: HOW })
    expect((await team.asRep.ok(listSenders)).senders.map(({ id }) => id)).toEqual([team.rep.id])
    const { problems } = await team.asManager.refused(editSender, 400, {
      params: { id: team.rep.id },
      body: { ...HOW, cap: -1, domainCap: 0, ramp: { first: 0, more: 1 } },
    })
    expect(problems.map(({ field }) => field)).toEqual(['cap', 'domainCap', 'ramp.first'])
    await team.asManager.refused(editSender, 404, { params: { id: randomUUID() }, body: HOW })
  })
})

describe('the email queue', () => {
  it('says when each email will leave and why not yet, and it leaves then', async () => {
    const { user } = await queued(5, { cap: 2, spacing: 60 })
    await send()
    const before = await queueOf(user.id)
    expect(before.total).toBe(4)
    expect(before.emails.map(({ why }) => why)).toEqual(['spacing', 'cap', 'cap', 'cap'])
    const moments = before.emails.map(({ at }) => at!)
    expect(moments).toEqual([
      MONDAY + 60_000,
      Date.UTC(2026, 10, 24, 13),
      Date.UTC(2026, 10, 24, 13, 1),
      Date.UTC(2026, 10, 25, 13),
    ])
    for (const [index, { id }] of before.emails.entries()) {
      await freeze(moments[index]! - 1_000)
      await send()
      expect(await rows(sql`select status from email_messages where id = $1`, [id])).toEqual([{ status: 'queued' }])
      await freeze(moments[index]!)
      await send()
      expect(await rows(sql`select status from email_messages where id = $1`, [id])).toEqual([{ status: 'sent' }])
    }
  })
  it('names paused cadences, and is narrowed by sender, cadence and reason', async () => {
    const { user, cadence } = await queued(2)
    await team.asManager.ok(setCadenceState, { params: { id: cadence.id }, body: { to: 'paused' } })
    await send()
    expect(taken).toEqual([])
    const { emails } = await team.asManager.ok(listEmailQueue, { query: { cadenceId: cadence.id, why: 'paused' } })
    expect(emails.map(({ why, at, sender }) => [why, at, sender!.id])).toEqual([
      ['paused', null, user.id],
      ['paused', null, user.id],
    ])
    const none = await team.asManager.ok(listEmailQueue, { query: { cadenceId: cadence.id, why: 'cap' } })
    expect([none.total, none.reasons]).toEqual([0, { paused: 2 }])
    expect((await team.asManager.ok(listEmailQueue, { query: { senderId: user.id, limit: 1 } })).emails).toHaveLength(1)
    // A rep sees their own.
    const own = await team.asRep.ok(listEmailQueue, { query: { senderId: user.id } })
    expect(own.total).toBe(0)
  })
  it('lets emails be canceled, by their sender or a manager; the cadence goes on without', async () => {
    const { user, ids } = await queued(2, { cap: 0 })
    await send()
    const messageIds = (await queueOf(user.id)).emails.map(({ id }) => id)
    expect(await team.asOther.ok(cancelEmails, { body: { messageIds } })).toEqual({ cancelled: 0, left: 2 })
    expect(await team.asManager.ok(cancelEmails, { body: { messageIds: messageIds.slice(0, 1) } })).toEqual({
      cancelled: 1,
      left: 0,
    })
    expect((await queueOf(user.id)).emails.map(({ id }) => id)).toEqual(messageIds.slice(1))
    expect(
      await rows(
        sql`select e.status, ms(e.due_at) as due from enrollments e where e.prospect_id = any($1) order by 1`,
        [ids],
      ),
    ).toEqual([
      { status: 'active', due: null },
      { status: 'waiting', due: MONDAY + 2 * HOUR },
    ])
    expect(await team.asManager.ok(cancelEmails, { body: { messageIds } })).toEqual({ cancelled: 1, left: 1 })
  })
})
