import { randomUUID } from 'node:crypto'
import { Secret, TOTP } from 'otpauth'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import {
  addKey,
  changePassword,
  deactivateUser,
  endSession,
  getAccount,
  getUserWork,
  makeResetLink,
  resetPassword,
  startSecondFactor,
} from '../../../shared/api/accounts'
import { queue } from '../../../shared/api/desk/queue'
import { countProspects } from '../../../shared/api/lists'
import { me, signIn } from '../../../shared/api/session'
import {
  addUser as addUserEndpoint,
  editTeam,
  editUser,
  getTeam,
  listUsers,
} from '../../../shared/api/settings/settings'
import type { Endpoint } from '../../../shared/api/endpoint'
import { db } from '../../../server/db/pool'
import { runBulk } from '../../../server/services/bulk/runBulk'
import { periodOfCode } from '../../../server/services/access/secondFactor'
import type { Viewer } from '../../../server/services/access/viewer'
import { addCadence, addPeople, addUser, rows, startWorld } from '../../fixtures/people'
import { serve } from '../../fixtures/server'
import { sql } from '../../../server/db/sql'

const PASSWORD = 'climb-the-hill'
const NEXT = 'a stone wall in rain'
let server: Awaited<ReturnType<typeof serve>>
let rep: Viewer
let manager: Viewer
let admin: Viewer
let asManager: Session

type Given = { params?: Record<string, string>; query?: Record<string, unknown>; body?: unknown }
type Session = Awaited<ReturnType<typeof browser>>

/** Someone at a browser: calls with a session cookie, from our own pages. */
async function browser(viewer: Viewer, password = PASSWORD, code?: string) {
  const signed = await raw(signIn, { body: { email: viewer.email, password, ...(code && { code }) } }, {})
  const cookie = signed.headers.get('set-cookie')?.split(';')[0] ?? ''
  return async (
    endpoint: Endpoint,
    given: Given = {},
  ): Promise<{
    status: number
    body: Record<string, never> & { error?: { code: string; message: string; problems: { field: string }[] } }
  }> => {
    const response = await raw(endpoint, given, { cookie })
    return { status: response.status, body: (await response.json()) as never }
  }
}
function raw(endpoint: Endpoint, given: Given, headers: Record<string, string>): Promise<Response> {
  const path = endpoint.path.replace(/\{(\w+)\}/g, (_, name: string) => given.params?.[name] ?? '')
  return fetch(`${server.url}${path}`, {
    method: endpoint.method.toUpperCase(),
    headers: {
      'content-type': 'application/json',
      origin: server.url,
      'x-forwarded-for': `203.0.113.${Math.ceil(Math.random() * 250)}`,
      ...headers,
    },
    ...(endpoint.method !== 'get' && { body: JSON.stringify(given.body ?? {}) }),
  })
}
const status = async (endpoint: Endpoint, given: Given, headers: Record<string, string> = {}) =>
  (await raw(endpoint, given, headers)).status

beforeAll(async () => {
  await startWorld()
  server = await serve()
  rep = await addUser('rep', 'Imani Osei', PASSWORD)
  manager = await addUser('manager', 'Maren Holloway', PASSWORD)
  admin = await addUser('admin', 'Ada Quill', PASSWORD)
  asManager = await browser(manager)
})
afterAll(() => server.close())

describe('a password', () => {
  it('is changed by its user, who says the current one; other sessions end', async () => {
    const user = await addUser('rep', 'Pella Quist', PASSWORD)
    const [here, there] = [await browser(user), await browser(user)]
    expect(await here(changePassword, { body: { current: 'wrong', next: NEXT } })).toMatchObject({
      status: 400,
      body: { error: { problems: [{ field: 'current' }] } },
    })
    expect((await here(changePassword, { body: { current: PASSWORD, next: NEXT } })).status).toBe(200)
    expect((await here(queue)).status).toBe(200)
    expect((await there(queue)).status).toBe(401)
    expect((await (await browser(user, NEXT))(queue)).status).toBe(200)
    expect((await (await browser(user))(queue)).status).toBe(401)
  })
  it.each([
    ['password123', 'too common'],
    ['qwertyuiop', 'too common'],
    ['abcabcabcabc', 'too common'],
    ['Osei2026!!', 'your name'],
    ['imani.osei1', 'your name'],
    ['imaniosei99', 'your name'],
  ])('like %s is refused: %s', async (next, why) => {
    const { body } = await (await browser(rep))(changePassword, { body: { current: PASSWORD, next } })
    expect(body.error).toMatchObject({ code: 'invalid', message: expect.stringContaining(why) as string })
  })
  it('that is temporary must be changed before anything else', async () => {
    const email = `new.${randomUUID().slice(0, 6)}@thornwick.example`
    const { id } = (
      await asManager(addUserEndpoint, {
        body: { name: 'Tova Lind', email, role: 'rep', timeZone: 'America/Chicago', password: NEXT },
      })
    ).body as unknown as { id: string }
    const session = await browser({ ...rep, id, email }, NEXT)
    expect((await session(queue)).body.error).toMatchObject({ code: 'password_change_needed' })
    expect((await session(me)).body).toMatchObject({ user: { mustChangePassword: true } })
    await session(changePassword, { body: { current: NEXT, next: 'another stone wall' } })
    expect((await session(queue)).status).toBe(200)
  })
  it('is reset with a link that works once, and ends every session', async () => {
    const user = await addUser('rep', 'Forgot It', PASSWORD)
    const before = await browser(user)
    const old = (
      (await asManager(makeResetLink, { params: { id: user.id } })).body as unknown as { url: string }
    ).url.split('#')[1]!
    const link = ((await asManager(makeResetLink, { params: { id: user.id } })).body as unknown as { url: string }).url
    expect(link).toMatch(/\/reset-password#[\w-]{43}$/)
    const token = link.split('#')[1]!
    expect(await status(resetPassword, { body: { token: old, password: NEXT } })).toBe(422)
    expect(await status(resetPassword, { body: { token, password: 'password123' } })).toBe(400)
    const both = await Promise.all([
      status(resetPassword, { body: { token, password: NEXT } }),
      status(resetPassword, { body: { token, password: NEXT } }),
    ])
    expect(both.sort()).toEqual([200, 422])
    expect((await before(queue)).status).toBe(401)
    expect((await (await browser(user, NEXT))(queue)).status).toBe(200)
    expect(JSON.stringify(await rows(sql`select * from password_resets`))).not.toContain(token)
  })
  it('of an admin is reset by admins only', async () => {
    expect((await asManager(makeResetLink, { params: { id: admin.id } })).status).toBe(403)
    expect((await (await browser(rep))(makeResetLink, { params: { id: manager.id } })).status).toBe(403)
  })
})

describe('sessions', () => {
  it('are listed and ended one by one, each only by its user', async () => {
    const user = await addUser('rep', 'Many Screens', PASSWORD)
    const [here, there] = [await browser(user), await browser(user)]
    const { sessions } = (await here(getAccount)).body as unknown as { sessions: { id: string; current: boolean }[] }
    expect(sessions).toHaveLength(2)
    const other = sessions.find((session) => !session.current)!
    expect((await (await browser(rep))(endSession, { params: { id: other.id } })).status).toBe(404)
    await here(endSession, { params: { id: other.id } })
    expect((await there(queue)).status).toBe(401)
    expect((await here(queue)).status).toBe(200)
  })
  it('end when nothing has been done for the team’s idle time', async () => {
    const session = await browser(await addUser('rep', 'Gone Home', PASSWORD))
    const team = (await asManager(getTeam)).body
    await asManager(editTeam, { body: { ...(team as object), idleMinutes: 30 } })
    await db().query(
      sql`
        update sessions
        set last_seen_at = now() - interval '29 minutes'
        where user_id = (select id from users where name = 'Gone Home')
      `,
    )
    expect((await session(queue)).status).toBe(200)
    await db().query(
      sql`
        update sessions
        set last_seen_at = now() - interval '31 minutes'
        where user_id = (select id from users where name = 'Gone Home')
      `,
    )
    expect((await session(queue)).status).toBe(401)
    await asManager(editTeam, { body: team })
  })
})

describe('a second factor', () => {
  // RFC 6238, appendix B: the secret "12345678901234567890", SHA-1, eight digits shortened to six.
  it.each([
    [59, '287082'],
    [1_111_111_109, '081804'],
    [1_111_111_111, '050471'],
    [1_234_567_890, '005924'],
    [2_000_000_000, '279037'],
    [20_000_000_000, '353130'],
  ])('has the code of the standard at %i s', (seconds, code) => {
    const secret = Secret.fromUTF8('12345678901234567890').base32
    expect(periodOfCode(secret, code, seconds * 1_000)).toBe(Math.floor(seconds / 30))
    expect(periodOfCode(secret, code, seconds * 1_000 + 30_000)).toBe(Math.floor(seconds / 30))
    expect(periodOfCode(secret, code, seconds * 1_000 + 90_000)).toBeNull()
  })
  it('is asked for once it has been confirmed; no code works twice', async () => {
    const user = await addUser('rep', 'Two Locks', PASSWORD)
    const session = await browser(user)
    expect((await session(startSecondFactor, { body: { password: 'wrong' } })).status).toBe(400)
    const { secret, uri, picture } = (await session(startSecondFactor, { body: { password: PASSWORD } }))
      .body as unknown as Record<'secret' | 'uri' | 'picture', string>
    expect(uri).toMatch(/^otpauth:\/\/totp\/Uphill:/)
    expect(picture).toMatch(/^<svg /)
    const app = new TOTP({ secret: Secret.fromBase32(secret) })
    const confirm = await import('../../../shared/api/accounts').then((api) => api.confirmSecondFactor)
    expect((await session(confirm, { body: { secret, code: '000000' } })).status).toBe(400)
    expect(await status(signIn, { body: { email: user.email, password: PASSWORD } })).toBe(200)
    // Codes of one moment, so that no new period begins between them.
    const at = Date.now()
    const used = app.generate({ timestamp: at })
    expect((await session(confirm, { body: { secret, code: used } })).status).toBe(200)
    const tried = await raw(signIn, { body: { email: user.email, password: PASSWORD } }, {})
    expect(await tried.json()).toMatchObject({
      error: { code: 'second_factor' },
    })
    // The code that confirmed it is used up; the next one is good once.
    expect(await status(signIn, { body: { email: user.email, password: PASSWORD, code: used } })).toBe(401)
    const next = app.generate({ timestamp: at + 30_000 })
    expect(await status(signIn, { body: { email: user.email, password: PASSWORD, code: next } })).toBe(200)
    expect(await status(signIn, { body: { email: user.email, password: PASSWORD, code: next } })).toBe(401)
    // The secret is not kept as it is.
    expect(JSON.stringify(await rows(sql`select second_factor from users where id = $1`, [user.id]))).not.toContain(
      secret,
    )
    const remove = await import('../../../shared/api/accounts').then((api) => api.removeSecondFactor)
    await session(remove, { body: { password: PASSWORD } })
    expect(await status(signIn, { body: { email: user.email, password: PASSWORD } })).toBe(200)
  })
})

describe('an API key', () => {
  const withKey = async (session: Session, body: object) => ({
    authorization: `Bearer ${((await session(addKey, { body })).body as unknown as { key: string }).key}`,
  })
  it('does no more than its rights', async () => {
    const read = await withKey(asManager, { name: 'reports', rights: 'read' })
    expect(await status(queue, {}, read)).toBe(200)
    expect(await status(countProspects, { body: {} }, read)).toBe(200)
    expect(await status(addKey, { body: { name: 'more' } }, read)).toBe(403)
    const write = await withKey(asManager, { name: 'sync', rights: 'write' })
    expect(await status(editUser, { params: { id: rep.id }, body: { team: null } }, write)).toBe(403)
    expect(await status(getAccount, {}, write)).toBe(403)
    const manage = await withKey(asManager, { name: 'admin', rights: 'manage' })
    expect(await status(editUser, { params: { id: rep.id }, body: { team: null } }, manage)).toBe(200)
    // A rep's key manages no more than the rep does.
    expect(
      await status(
        editUser,
        { params: { id: rep.id }, body: { team: null } },
        await withKey(await browser(rep), { name: 'x', rights: 'manage' }),
      ),
    ).toBe(403)
  })
  it('ends on its day, and says when it was last used', async () => {
    const key = await withKey(asManager, { name: 'short', rights: 'read', days: 1 })
    expect(await status(queue, {}, key)).toBe(200)
    expect(await rows(sql`select last_used_at is not null as used from api_keys where name = 'short'`)).toEqual([
      { used: true },
    ])
    await db().query(sql`update api_keys set expires_at = now() where name = 'short'`)
    expect(await status(queue, {}, key)).toBe(401)
  })
})

describe('a user who leaves', () => {
  it('hands over people, tasks and email; sessions and keys end', async () => {
    const leaving = await addUser('rep', 'Lea Ving', PASSWORD)
    const heir = await addUser('rep', 'Hei Ress', PASSWORD)
    const session = await browser(leaving)
    const key = {
      authorization: `Bearer ${((await session(addKey, { body: { name: 'mine' } })).body as unknown as { key: string }).key}`,
    }
    const { ids } = await addPeople(3, leaving.id)
    await db().query(
      sql`
        insert into tasks (id, prospect_id, owner_id, kind, priority, title, due_at, status, time_zone)
        select gen_random_uuid(), id, $2, 'call', 2, 'Ring', world_now(), 'open', 'America/New_York'
        from unnest($1::uuid[]) id
      `,
      [ids, leaving.id],
    )
    await addCadence([{ kind: 'email' }])
    expect((await asManager(getUserWork, { params: { id: leaving.id } })).body).toMatchObject({
      people: 3,
      openTasks: 3,
      keys: 1,
    })
    expect(
      (await asManager(deactivateUser, { params: { id: leaving.id }, body: { id: randomUUID(), handOverTo: null } }))
        .body.error,
    ).toMatchObject({ problems: [{ field: 'handOverTo' }] })
    const bulk = randomUUID()
    expect(
      (await asManager(deactivateUser, { params: { id: leaving.id }, body: { id: bulk, handOverTo: heir.id } })).body,
    ).toEqual({ handedOver: 3 })
    await runBulk(bulk)
    expect(await rows(sql`select distinct owner_id from prospects where id = any($1::uuid[])`, [ids])).toEqual([
      { owner_id: heir.id },
    ])
    expect(
      await rows(
        sql`
        select distinct owner_id
        from tasks
        where prospect_id = any($1::uuid[]) and status = 'open'
      `,
        [ids],
      ),
    ).toEqual([{ owner_id: heir.id }])
    expect((await session(queue)).status).toBe(401)
    expect(await status(queue, {}, key)).toBe(401)
    expect((await asManager(listUsers)).body).toMatchObject({
      users: expect.arrayContaining([expect.objectContaining({ id: leaving.id, active: false })]) as object,
    })
  })
  it('changes role, and the last manager stays one', async () => {
    const user = await addUser('rep', 'Pro Moted', PASSWORD)
    const asAdmin = await browser(admin)
    await asManager(editUser, { params: { id: user.id }, body: { role: 'manager' } })
    expect(await rows(sql`select role from users where id = $1`, [user.id])).toEqual([{ role: 'manager' }])
    await db().query(sql`update users set active = false where role <> 'rep' and id <> $1`, [admin.id])
    expect((await asAdmin(editUser, { params: { id: admin.id }, body: { role: 'rep' } })).body.error).toMatchObject({
      message: 'At least one active manager is required',
    })
  })
})
