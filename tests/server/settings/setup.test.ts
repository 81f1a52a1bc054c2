import { randomUUID } from 'node:crypto'
import type Mail from 'nodemailer/lib/mailer'
import { beforeAll, describe, expect, it } from 'vitest'
import { editAccount, inviteUser, resetPassword } from '../../../shared/api/accounts'
import { editCadence, getCadence, listCadences, setCadenceState } from '../../../shared/api/cadences/cadences'
import { enroll } from '../../../shared/api/cadences/enrollments'
import { findProspects, listLists } from '../../../shared/api/lists'
import { me, signIn } from '../../../shared/api/session'
import { editTeam, getTeam } from '../../../shared/api/settings/settings'
import { getSetup, hideSetup, listStarters, takeStarters } from '../../../shared/api/settings/setup'
import { startRoundTrip } from '../../../shared/api/email/testEmails'
import { logOutcome, writeEmail } from '../../../shared/api/desk/desk'
import { sendDueMail } from '../../../server/channels/mail/dispatch'
import type { MailChannel } from '../../../server/channels/mail/transport'
import { takeDueSteps } from '../../../server/engine/dueSteps'
import { db } from '../../../server/db/pool'
import { editAccount as changeAccount } from '../../../server/services/accounts/accounts'
import { noteReturned } from '../../../server/channels/mail/roundTrip'
import { sendSystemEmail } from '../../../server/services/email/systemEmails'
import { addPeople, freeze, MONDAY, outcomeId, rows } from '../../fixtures/people'
import { withTeam } from '../../fixtures/team'
import '../database'
import { firstRow, sql } from '../../../server/db/sql'

const team = withTeam()
let sent: Mail.Options[] = []
const channel: MailChannel = {
  deliver: async (mail) => {
    sent.push(mail)
    return { status: 'sent' }
  },
  wasTaken: async () => null,
  close: () => {},
}
const open = async (as = team.asManager) =>
  (await as.ok(getSetup)).steps.filter((step) => !step.done).map((step) => step.key)
beforeAll(async () => {
  const { runMigrations, Logger } = await import('graphile-worker')
  await runMigrations({ pgPool: db(), logger: new Logger(() => () => {}) })
})

describe('setting up', () => {
  it('says what is left, and each step is done by what is there', async () => {
    expect(await open()).toEqual(['company', 'email', 'prospects', 'lists', 'cadence'])
    await team.asManager.ok(editTeam, {
      body: { ...(await team.asManager.ok(getTeam)), name: 'Thornwick Sensing', postalAddress: '' },
    })
    // Saved without a postal address it is not done, and why is said.
    expect((await team.asManager.ok(getSetup)).steps[0]).toMatchObject({
      key: 'company',
      done: false,
      detail: expect.stringContaining('postal address is missing'),
    })
    await team.asManager.ok(editTeam, {
      body: { ...(await team.asManager.ok(getTeam)), postalAddress: '1 Gorge Road, Ithaca, NY' },
    })
    const trip = randomUUID()
    await team.asManager.ok(startRoundTrip, { body: { id: trip } })
    await sendSystemEmail(trip, channel)
    expect(await open()).toContain('email')
    await noteReturned([trip])
    await addPeople(2, team.rep.id, 'Setup Cellars')
    expect(await open()).toEqual(['lists', 'cadence'])
    await team.asManager.ok(hideSetup, { body: { hidden: true } })
    expect(await team.asManager.ok(getSetup)).toMatchObject({ hidden: true })
  })
  it('brings lists and cadences, to be taken or left, once', async () => {
    await team.asRep.refused(listStarters, 403)
    const offered = await team.asManager.ok(listStarters)
    expect(
      await team.asManager.ok(takeStarters, {
        body: { lists: offered.lists.map((one) => one.key), cadences: offered.cadences.map((one) => one.key) },
      }),
    ).toMatchObject({
      lists: offered.lists.length,
      // One of them every team has from the start.
      cadences: offered.cadences.filter((one) => !one.taken).map((one) => ({ name: one.name })),
    })
    expect(offered.cadences.filter((one) => one.taken).map((one) => one.name)).toEqual(['After a voicemail'])
    expect(offered.cadences).toHaveLength(7)
    expect(await team.asManager.ok(takeStarters, { body: { lists: ['new'], cadences: ['outbound'] } })).toEqual({
      lists: 0,
      cadences: [],
    })
    await db().query(
      sql`
        delete from cadence_steps
        where cadence_id in (select id from cadences where name = 'Inbound request')
      `,
    )
    await db().query(sql`delete from cadences where name = 'Inbound request'`)
    const twice = await Promise.all(
      [1, 2].map(() => team.asManager.ok(takeStarters, { body: { lists: [], cadences: ['inbound'] } })),
    )
    expect(twice.flatMap((one) => one.cadences)).toHaveLength(1)
    expect((await team.asManager.ok(listStarters)).lists.every((one) => one.taken)).toBe(true)
    // Every list can be read as it stands, by a rep too.
    for (const list of (await team.asRep.ok(listLists)).lists) {
      await team.asRep.ok(findProspects, { body: { list: list.id, limit: 1 } })
    }
    expect(await open()).toEqual(['cadence'])
  })
  it('lets no cadence start that still says what the team has to say', async () => {
    const [draft] = (await team.asManager.ok(listCadences)).cadences.filter((one) => one.name.startsWith('Outbound'))
    const { id, version, people: _, ...cadence } = await team.asManager.ok(getCadence, { params: { id: draft!.id } })
    const refused = await team.asManager.refused(editCadence, 400, {
      params: { id },
      body: { ...cadence, version, status: 'active' },
    })
    expect(refused.problems[0]!.field).toBe('steps.0.subject')
    await team.asManager.refused(setCadenceState, 400, { params: { id }, body: { to: 'active' } })
    const steps = cadence.steps.map((step) => ({
      ...step,
      subject: step.subject.replace(/\[\[.*?\]\]/g, 'warm rooms'),
      body: step.body.replace(/\[\[.*?\]\]/g, 'warm rooms'),
    }))
    await team.asManager.ok(editCadence, { params: { id }, body: { ...cadence, steps, version, status: 'active' } })
    const { ids } = await addPeople(1, team.rep.id, 'Started Cider')
    await team.asManager.ok(enroll, { params: { id }, body: { prospectIds: ids } })
    expect(await open()).toEqual([])
  })
})

describe('an invitation', () => {
  it('goes out by email with a link that sets the first password, once; nothing of it is kept', async () => {
    sent = []
    const body = {
      id: randomUUID(),
      name: 'Wren Halloran',
      email: 'Wren@Thornwick.example',
      role: 'rep' as const,
      timeZone: 'America/Chicago',
    }
    await team.asRep.refused(inviteUser, 403, { body })
    await team.asManager.ok(inviteUser, { body })
    await team.asManager.refused(inviteUser, 409, { body: { ...body, id: randomUUID() } })
    await sendSystemEmail(body.id, channel)
    expect(sent).toMatchObject([
      { to: 'wren@thornwick.example', subject: 'You are invited to Uphill for Thornwick Sensing' },
    ])
    const token = /reset-password#(\S+)/.exec(sent[0]!.text as string)![1]!
    expect(await rows(sql`select body from system_emails where id = $1`, [body.id])).toEqual([{ body: '' }])
    await team.asRep.refused(signIn, 401, { body: { email: body.email, password: 'a guess at it' } })
    await team.asRep.ok(resetPassword, { body: { token, password: 'stone wall moss' } })
    expect(await team.asRep.ok(signIn, { body: { email: body.email, password: 'stone wall moss' } })).toMatchObject({
      user: { name: 'Wren Halloran', timeZone: 'America/Chicago', mustChangePassword: false },
    })
    await team.asRep.refused(resetPassword, 422, { body: { token, password: 'another stone wall' } })
  })
})

describe('a rep’s first day', () => {
  it('asks for a signature, which ends their email, and the first call', async () => {
    await freeze(MONDAY)
    expect(await open(team.asRep)).toEqual(['signature', 'call'])
    // A key may not change its user's account.
    await team.asRep.refused(editAccount, 403, { body: { timeZone: 'America/Denver' } })
    await changeAccount(team.rep, { timeZone: 'America/Denver', signature: ' Imani Osei\nThornwick ' })
    expect((await team.asRep.ok(me)).user).toMatchObject({
      timeZone: 'America/Denver',
      signature: 'Imani Osei\nThornwick',
    })
    const {
      ids: [id],
    } = await addPeople(1, team.rep.id, 'Signed Vault')
    await team.asRep.ok(logOutcome, {
      params: { id: id! },
      body: { id: randomUUID(), outcomeId: await outcomeId('No answer'), call: 'elsewhere' },
    })
    expect(await open(team.asRep)).toEqual([])
    // In what templates send, the signature stands where they say so; without one, the name.
    sent = []
    const [cadence] = (await team.asManager.ok(listCadences)).cadences.filter((one) => one.status === 'active')
    const { ids } = await addPeople(1, team.rep.id, 'Signed Cellars')
    await team.asManager.ok(enroll, { params: { id: cadence!.id }, body: { prospectIds: ids } })
    await freeze(MONDAY + 3_600_000)
    await takeDueSteps()
    for (let left = 1; left;) left = await sendDueMail(channel, { id: 'test' })
    const address = await firstRow(
      db().query<{ address: string }>(sql`select address from email_addresses where prospect_id = $1`, [ids[0]]),
    )
    expect(sent.find((mail) => mail.to === address!.address)!.text).toContain('today?\n\nImani Osei\nThornwick')
    // What is written by hand is sent as it is.
    await team.asRep.ok(writeEmail, {
      params: { id: id! },
      body: { id: randomUUID(), subject: 'Rooms', body: 'Hello' },
    })
  })
})
