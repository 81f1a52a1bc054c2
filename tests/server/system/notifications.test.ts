import { randomUUID } from 'node:crypto'
import { describe, expect, it } from 'vitest'
import type { Action } from '../../../core/actions/registry'
import { startBulk } from '../../../shared/api/bulk'
import { logOutcome } from '../../../shared/api/desk/desk'
import { listNotifications, markNotifications } from '../../../shared/api/notifications'
import { editProspect, getProspect } from '../../../shared/api/prospects'
import { undo } from '../../../shared/api/events/history'
import { me } from '../../../shared/api/session'
import { addOutcome } from '../../../shared/api/settings/outcomes'
import { db } from '../../../server/db/pool'
import { recordEvents } from '../../../server/engine/recordEvents'
import { runBulk } from '../../../server/services/bulk/runBulk'
import { emailNotifications } from '../../../server/services/email/notificationEmails'
import type { Caller } from '../../fixtures/caller'
import { addPeople, freeze, MONDAY, rows } from '../../fixtures/people'
import { withTeam } from '../../fixtures/team'
import { sql } from '../../../server/db/sql'

const team = withTeam()
const listOf = async (who: Caller) => (await who.ok(listNotifications)).notifications
const sentences = async (who: Caller) => (await listOf(who)).map((one) => one.sentence)
const unread = async (who: Caller) => (await who.ok(me)).unread
const reply = (prospectId: string) =>
  recordEvents([
    { id: randomUUID(), kind: 'emailReplied', prospectId, actorId: null, causedByEventId: null, messageId: null },
  ])

describe('a user is notified', () => {
  it('of a reply of theirs, and nobody else is; read and unread are counted', async () => {
    const { ids } = await addPeople(1, team.rep.id)
    await reply(ids[0]!)
    const [one] = await listOf(team.asRep)
    expect(one).toMatchObject({ kind: 'reply', to: `/prospects/${ids[0]}`, at: MONDAY, read: false })
    expect(one!.sentence).toMatch(/^Tomas Bellweather 1 replied$/)
    expect([await sentences(team.asOther), await unread(team.asOther)]).toEqual([[], 0])
    expect(await unread(team.asRep)).toBe(1)
    // Nobody marks another user's.
    await team.asOther.ok(markNotifications, { body: { ids: one!.ids } })
    expect(await unread(team.asRep)).toBe(1)
    await team.asRep.ok(markNotifications, { body: { ids: one!.ids } })
    expect([(await listOf(team.asRep))[0]!.read, await unread(team.asRep)]).toEqual([true, 0])
    await team.asRep.ok(markNotifications, { body: { ids: one!.ids, read: false } })
    await team.asRep.ok(markNotifications, { body: { ids: null } })
    expect(await unread(team.asRep)).toBe(0)
  })
  it('of prospects that are assigned to them: one by hand, many by a bulk action, but not by themselves', async () => {
    const { ids } = await addPeople(3, team.rep.id)
    const { version } = await team.asManager.ok(getProspect, { params: { id: ids[0]! } })
    await team.asManager.ok(editProspect, { params: { id: ids[0]! }, body: { version, ownerId: team.other.id } })
    const bulk = randomUUID()
    await team.asManager.ok(startBulk, {
      body: { id: bulk, prospectIds: ids.slice(1), action: { type: 'assign', to: [team.other.id] } },
    })
    await runBulk(bulk)
    expect(await sentences(team.asOther)).toEqual([
      'Maren Holloway assigned 2 prospects to you',
      'Maren Holloway assigned Tomas Bellweather 1 to you',
    ])
    const before = await sentences(team.asOther)
    const now = await team.asOther.ok(getProspect, { params: { id: ids[0]! } })
    await team.asOther.ok(editProspect, { params: { id: ids[0]! }, body: { version: now.version, title: 'Buyer' } })
    expect(await sentences(team.asOther)).toEqual(before)
  })
  it('where an outcome says so, once each, and not of what they logged themselves; undo takes it back', async () => {
    const { ids } = await addPeople(1, team.rep.id)
    const actions: Action[] = [{ type: 'notifyUsers', users: ['owner', team.other.id, team.other.id] }]
    const { id: outcomeId } = await team.asManager.ok(addOutcome, {
      body: { name: 'Wants the price list', countsAs: 'conversation', requiredInputs: [], reasons: [], actions },
    })
    const before = await listOf(team.asRep)
    const id = randomUUID()
    await team.asRep.ok(logOutcome, { params: { id: ids[0]! }, body: { id, outcomeId } })
    expect((await sentences(team.asOther))[0]).toBe('Imani Osei logged “Wants the price list” with a prospect')
    expect((await sentences(team.asOther)).filter((one) => one.includes('price list'))).toHaveLength(1)
    expect(await listOf(team.asRep)).toEqual(before)
    await team.asRep.ok(undo, { params: { id }, body: { id: randomUUID() } })
    expect((await sentences(team.asOther)).filter((one) => one.includes('price list'))).toEqual([])
  })
})

describe('notifications by email', () => {
  it('go once, five minutes later, to who wants them and has not read them', async () => {
    const emails = () =>
      rows<{ subject: string; body: string; to: string }>(
        sql`select subject, body, to_address as to from system_emails where kind = 'notifications' order by asked_at`,
      )
    const { ids } = await addPeople(2, team.rep.id)
    await team.asRep.ok(markNotifications, { body: { ids: null } })
    for (const id of ids) await reply(id)
    await freeze(MONDAY + 4 * 60_000)
    expect(await emailNotifications()).toBe(0)
    await freeze(MONDAY + 6 * 60_000)
    expect(await emailNotifications()).toBe(0)
    await db().query(sql`update users set notify_by_email = true where id = $1`, [team.rep.id])
    expect((await team.asRep.ok(me)).user).toMatchObject({ notifyByEmail: true })
    expect((await Promise.all([emailNotifications(), emailNotifications()])).sort()).toEqual([0, 1])
    expect(await emails()).toMatchObject([{ subject: '2 new notifications', to: team.rep.email }])
    const [first] = await emails()
    expect(first!.body).toContain(`/prospects/${ids[0]}`)
    expect(await emailNotifications()).toBe(0)
    await team.asRep.ok(markNotifications, { body: { ids: null } })
    await reply(ids[1]!)
    await freeze(MONDAY + 12 * 60_000)
    expect(await emailNotifications()).toBe(1)
    expect((await emails()).at(-1)!.subject).toMatch(/replied$/)
    await freeze(MONDAY)
  })
})
