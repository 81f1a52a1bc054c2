import { randomUUID } from 'node:crypto'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { errorSchema } from '../../../shared/api/endpoint'
import { ENDPOINTS } from '../../../shared/endpoints'
import { cadenceSchema } from '../../../shared/api/cadences/cadences'
import { briefSchema } from '../../../shared/api/desk/desk'
import { queue } from '../../../shared/api/desk/queue'
import { prospectSchema } from '../../../shared/api/prospects'
import { db } from '../../../server/db/pool'
import { takeDueSteps } from '../../../server/engine/dueSteps'
import { enroll } from '../../../server/services/cadences/enrollments'
import type { Viewer } from '../../../server/services/access/viewer'
import { addCadence, addPeople, addUser, rows, startWorld } from '../../fixtures/people'
import { routeFiles, serve } from '../../fixtures/server'
import { sql } from '../../../server/db/sql'

let server: Awaited<ReturnType<typeof serve>>
let rep: Viewer
let other: Viewer
let manager: Viewer
const PASSWORD = 'climb-the-hill'

beforeAll(async () => {
  await startWorld()
  rep = await addUser('rep', 'Imani Osei', PASSWORD)
  other = await addUser('rep', 'Joaquin Pell', PASSWORD)
  manager = await addUser('manager', 'Maren Holloway', PASSWORD)
  server = await serve()
})
afterAll(() => server.close())

const send = (
  path: string,
  given: { method?: string; body?: unknown; cookie?: string; headers?: Record<string, string> } = {},
) =>
  fetch(`${server.url}${path}`, {
    method: given.method ?? 'GET',
    redirect: 'manual',
    ...(given.body !== undefined && { body: typeof given.body === 'string' ? given.body : JSON.stringify(given.body) }),
    headers: {
      ...(given.body !== undefined && { 'content-type': 'application/json' }),
      ...(given.cookie && { cookie: given.cookie, origin: server.url }),
      ...given.headers,
    },
  })
async function signedIn(viewer: Viewer): Promise<string> {
  const response = await send('/api/session', { method: 'POST', body: { email: viewer.email, password: PASSWORD } })
  expect(response.status).toBe(200)
  return response.headers.get('set-cookie')!.split(';')[0]!
}
async function refused(response: Response, status: number, code: string) {
  expect(response.status).toBe(status)
  const { error } = errorSchema.parse(await response.json())
  expect(error.code).toBe(code)
  return error
}

describe('the API’s description', () => {
  it('names exactly the routes there are', () => {
    const described = Object.values(ENDPOINTS)
      .map((endpoint) => `${endpoint.method} ${endpoint.path}`)
      .sort()
    const served = routeFiles()
      .filter((route) => route.path.startsWith('/api/') && !route.path.includes('**'))
      .map((route) => `${route.method} ${route.path}`)
      .sort()
    expect(served).toEqual(described)
  })
  it('is OpenAPI 3.1 with every operation, its parameters and its answer', async () => {
    const document = (await (await send('/api/openapi.json')).json()) as {
      openapi: string
      paths: Record<
        string,
        Record<string, { operationId: string; responses: object; parameters?: { name: string; in: string }[] }>
      >
    }
    expect(document.openapi).toBe('3.1.0')
    const operations = Object.entries(document.paths).flatMap(([path, methods]) =>
      Object.entries(methods).map(([, operation]) => ({ path, ...operation })),
    )
    expect(operations.map((operation) => operation.operationId).sort()).toEqual(Object.keys(ENDPOINTS).sort())
    for (const operation of operations) {
      expect(Object.keys(operation.responses)).toEqual(['200', 'default'])
      for (const [, name] of operation.path.matchAll(/\{(\w+)\}/g)) {
        expect(operation.parameters).toContainEqual(expect.objectContaining({ name, in: 'path' }))
      }
    }
  })
})

describe('signing in', () => {
  it('gives a cookie that scripts cannot read and only we can have set', async () => {
    const response = await send('/api/session', {
      method: 'POST',
      body: { email: rep.email.toUpperCase(), password: PASSWORD },
    })
    expect(response.headers.get('set-cookie')).toMatch(
      /^__Host-uphill=[\w-]{43}; .*Path=\/; HttpOnly; Secure; SameSite=Lax$/,
    )
    const stored = await rows<{ token_hash: Buffer }>(sql`select token_hash from sessions where user_id = $1`, [rep.id])
    expect(stored.every((row) => row.token_hash.length === 32)).toBe(true)
  })
  it('gives one answer for a wrong password, an unknown address and a deactivated user', async () => {
    const deactivated = await addUser('rep', 'Gone Person', PASSWORD)
    await db().query(sql`update users set active = false where id = $1`, [deactivated.id])
    for (const body of [
      { email: rep.email, password: 'wrong' },
      { email: 'nobody@x.example', password: 'wrong' },
      { email: deactivated.email, password: PASSWORD },
    ]) {
      expect((await refused(await send('/api/session', { method: 'POST', body }), 401, 'not_signed_in')).message).toBe(
        'The email address or the password is wrong',
      )
    }
  })
  it('is throttled from an address after ten tries, and says for how long (RFC 6585, RFC 9110)', async () => {
    const slow = await addUser('rep', 'Slow Typist', PASSWORD)
    const from = { headers: { 'x-forwarded-for': '203.0.113.7' } }
    await db().query(
      sql`
        insert into sign_in_attempts (email, address)
        select $1, '203.0.113.7'
        from generate_series(1, 10)
      `,
      [slow.email],
    )
    const response = await send('/api/session', {
      method: 'POST',
      body: { email: slow.email, password: PASSWORD },
      ...from,
    })
    expect(Number(response.headers.get('retry-after'))).toBeGreaterThan(0)
    await refused(response, 429, 'throttled')
    // Nobody else can lock the owner out: from elsewhere it works, only slower.
    expect(
      (
        await send('/api/session', {
          method: 'POST',
          body: { email: slow.email, password: PASSWORD },
          headers: { 'x-forwarded-for': '203.0.113.8' },
        })
      ).status,
    ).toBe(200)
  })
  it('counts tries before they are judged, so that many at once are counted too', async () => {
    const target = await addUser('rep', 'Guessed At', PASSWORD)
    const statuses = await Promise.all(
      Array.from({ length: 30 }, (_, n) =>
        send('/api/session', {
          method: 'POST',
          body: { email: target.email, password: `guess number ${n}` },
          headers: { 'x-forwarded-for': '203.0.113.9' },
        }).then((response) => response.status),
      ),
    )
    expect(statuses.filter((status) => status === 401).length).toBeLessThanOrEqual(10)
    expect(statuses.filter((status) => status === 429).length).toBeGreaterThanOrEqual(20)
  })
  it('ends where it is ended: here, elsewhere, and with the account', async () => {
    const [here, there] = [await signedIn(rep), await signedIn(rep)]
    expect(await (await send('/api/session/others', { method: 'DELETE', cookie: here })).json()).toMatchObject({
      ended: expect.any(Number) as number,
    })
    await refused(await send('/api/desk/queue', { cookie: there }), 401, 'not_signed_in')
    expect((await send('/api/desk/queue', { cookie: here })).status).toBe(200)
    await send('/api/session', { method: 'DELETE', cookie: here })
    await refused(await send('/api/desk/queue', { cookie: here }), 401, 'not_signed_in')
    const fired = await addUser('rep', 'Leaving Soon', PASSWORD)
    const cookie = await signedIn(fired)
    await send(`/api/users/${fired.id}`, { method: 'PATCH', body: { active: false }, cookie: await signedIn(manager) })
    await refused(await send('/api/desk/queue', { cookie }), 401, 'not_signed_in')
  })
  it('works for programs with a key, until it is revoked', async () => {
    const cookie = await signedIn(rep)
    const { id, key } = (await (
      await send('/api/keys', { method: 'POST', body: { name: 'reports' }, cookie })
    ).json()) as { id: string; key: string }
    const headers = { authorization: `Bearer ${key}` }
    expect((await send('/api/desk/queue', { headers })).status).toBe(200)
    expect(JSON.stringify(await (await send('/api/keys', { cookie })).json())).not.toContain(key)
    await send(`/api/keys/${id}`, { method: 'DELETE', cookie })
    await refused(await send('/api/desk/queue', { headers }), 401, 'not_signed_in')
  })
})

describe('who may do what', () => {
  it('only the sign-in routes answer without a session', async () => {
    for (const [name, endpoint] of Object.entries(ENDPOINTS)) {
      if (endpoint.access === 'anyone') continue
      const response = await send(endpoint.path.replace(/\{\w+\}/g, randomUUID()), {
        method: endpoint.method.toUpperCase(),
        ...(endpoint.method !== 'get' && { body: {} }),
      })
      expect(`${name} ${response.status}`).toBe(`${name} 401`)
    }
  })
  it('reps do not manage', async () => {
    const cookie = await signedIn(rep)
    for (const [name, endpoint] of Object.entries(ENDPOINTS)) {
      if (endpoint.access !== 'manager') continue
      const response = await send(endpoint.path.replace(/\{\w+\}/g, randomUUID()), {
        method: endpoint.method.toUpperCase(),
        ...(endpoint.method !== 'get' && { body: {} }),
        cookie,
      })
      expect(`${name} ${response.status}`).toBe(`${name} 403`)
    }
  })
  it('reps see their own people and those nobody owns, unless the team shares all', async () => {
    const [
      {
        ids: [mine],
      },
      {
        ids: [theirs],
      },
      {
        ids: [free],
      },
    ] = [await addPeople(1, rep.id), await addPeople(1, other.id), await addPeople(1, null)]
    const cookie = await signedIn(rep)
    const sees = async (id: string) => (await send(`/api/prospects/${id}`, { cookie })).status
    expect([await sees(mine!), await sees(theirs!), await sees(free!)]).toEqual([200, 404, 200])
    const list = (await (await send('/api/prospects?limit=500', { cookie })).json()) as { prospects: { id: string }[] }
    expect(list.prospects.some((row) => row.id === theirs)).toBe(false)
    for (const path of ['brief', 'history']) {
      await refused(await send(`/api/prospects/${theirs}/${path}`, { cookie }), 404, 'not_found')
    }
    await refused(
      await send(`/api/prospects/${theirs}/outcomes`, {
        method: 'POST',
        body: { id: randomUUID(), outcomeId: randomUUID() },
        cookie,
      }),
      404,
      'not_found',
    )
    await db().query(sql`update team set shares_all = true`)
    expect(await sees(theirs!)).toBe(200)
    await db().query(sql`update team set shares_all = false`)
  })
  it('writes come from our own pages only', async () => {
    const cookie = await signedIn(rep)
    await refused(
      await send('/api/prospects', {
        method: 'POST',
        body: { name: 'A' },
        cookie,
        headers: { origin: 'https://evil.example' },
      }),
      403,
      'not_allowed',
    )
    await refused(
      await send('/api/prospects', { method: 'POST', body: { name: 'A' }, cookie, headers: { origin: 'null' } }),
      403,
      'not_allowed',
    )
    expect(
      (
        await send('/api/prospects', {
          method: 'POST',
          body: { name: 'Own Page' },
          cookie,
          headers: { origin: server.url },
        })
      ).status,
    ).toBe(200)
  })
})

describe('bad input', () => {
  it('is answered at its field, in one shape', async () => {
    const cookie = await signedIn(manager)
    expect(
      (await refused(await send('/api/prospects', { method: 'POST', body: { name: ' ' }, cookie }), 400, 'invalid'))
        .problems,
    ).toMatchObject([{ field: 'name' }])
    expect(
      (
        await refused(
          await send('/api/prospects', { method: 'POST', body: { name: 'A', phone: '12' }, cookie }),
          400,
          'invalid',
        )
      ).problems[0]!.field,
    ).toBe('phone')
    expect(
      (
        await refused(
          await send('/api/prospects', { method: 'POST', body: { name: 'A', timeZone: 'Mars/Olympus' }, cookie }),
          400,
          'invalid',
        )
      ).problems,
    ).toMatchObject([{ field: 'timeZone' }])
    expect(
      (await refused(await send('/api/prospects', { method: 'POST', body: { name: 'A\0B' }, cookie }), 400, 'invalid'))
        .problems[0]!.field,
    ).toBe('name')
    await refused(await send('/api/prospects', { method: 'POST', body: '{"name":', cookie }), 400, 'invalid')
    await refused(await send('/api/prospects/not-an-id', { cookie }), 400, 'invalid')
    await refused(await send(`/api/prospects/${randomUUID()}`, { cookie }), 404, 'not_found')
    await refused(await send('/api/nowhere', { cookie }), 404, 'not_found')
  })
  it('of a cadence: a broken tag, a wait of -1, an email without text, a step twice', async () => {
    const cookie = await signedIn(manager)
    const step = (more: object) => ({
      id: randomUUID(),
      kind: 'email',
      wait: { amount: 0, unit: 'hours' },
      name: 'One',
      subject: 'Hello',
      body: 'Hello',
      ...more,
    })
    const add = async (steps: object[]) =>
      (
        await refused(
          await send('/api/cadences', { method: 'POST', body: { name: 'X', steps }, cookie }),
          400,
          'invalid',
        )
      ).problems
    expect(await add([step({ body: 'Hi\n{{ first_name' })])).toMatchObject([
      { field: 'steps.0.body', message: expect.stringMatching(/^Line 2: /) as string },
    ])
    expect(await add([step({}), step({ wait: { amount: -1, unit: 'days' } })])).toMatchObject([
      { field: 'steps.1.wait.amount' },
    ])
    expect(await add([step({ subject: '', body: ' ' })])).toMatchObject([
      { field: 'steps.0.subject' },
      { field: 'steps.0.body' },
    ])
    const twice = step({})
    expect(await add([twice, twice])).toMatchObject([{ field: 'steps' }])
  })
  it('of a stale tab: a cadence and a prospect that another user has changed', async () => {
    const cookie = await signedIn(manager)
    const { id } = (await (await send('/api/cadences', { method: 'POST', body: { name: 'Mine' }, cookie })).json()) as {
      id: string
    }
    const cadence = cadenceSchema.parse(await (await send(`/api/cadences/${id}`, { cookie })).json())
    expect(
      (await send(`/api/cadences/${id}`, { method: 'PUT', body: { ...cadence, name: 'First' }, cookie })).status,
    ).toBe(200)
    await refused(
      await send(`/api/cadences/${id}`, { method: 'PUT', body: { ...cadence, name: 'Second' }, cookie }),
      409,
      'conflict',
    )
    const {
      ids: [person],
    } = await addPeople(1, null)
    const { version } = prospectSchema.parse(await (await send(`/api/prospects/${person}`, { cookie })).json())
    expect(
      (await send(`/api/prospects/${person}`, { method: 'PATCH', body: { version, title: 'Owner' }, cookie })).status,
    ).toBe(200)
    expect(
      (
        await refused(
          await send(`/api/prospects/${person}`, { method: 'PATCH', body: { version, title: 'Boss' }, cookie }),
          409,
          'conflict',
        )
      ).current,
    ).toEqual({ version: version + 1 })
  })
})

describe('the Desk over HTTP', () => {
  it('answers in the shapes it promises, and a call logged is gone from the queue', async () => {
    const {
      ids: [id],
    } = await addPeople(1, rep.id)
    await enroll(
      rep,
      (
        await addCadence([
          { kind: 'call', body: 'Say hello to {{ first_name }}.' },
          { kind: 'call', amount: 1, unit: 'days' },
        ])
      ).id,
      { prospectIds: [id!] },
      false,
    )
    await takeDueSteps()
    const cookie = await signedIn(rep)
    const before = queue.response.parse(await (await send('/api/desk/queue', { cookie })).json())
    const item = before.items.find((one) => one.prospectId === id)!
    expect(item).toMatchObject({ group: 'due', why: 'step 1 of 2, not called yet', slope: { step: 1, steps: 2 } })
    const brief = briefSchema.parse(
      await (await send(`/api/prospects/${id}/brief?task=${item.taskId}`, { cookie })).json(),
    )
    expect(brief.script).toBe('Say hello to Tomas.')
    expect(brief.slope!.steps.map((step) => step.status)).toEqual(['now', 'ahead'])
    const outcome = brief.outcomes[0]!
    const log = { id: randomUUID(), outcomeId: outcome.id, taskId: item.taskId, fingerprint: outcome.fingerprint }
    expect((await send(`/api/prospects/${id}/outcomes`, { method: 'POST', body: log, cookie })).status).toBe(200)
    await refused(await send(`/api/prospects/${id}/outcomes`, { method: 'POST', body: log, cookie }), 409, 'conflict')
    const after = queue.response.parse(await (await send('/api/desk/queue', { cookie })).json())
    expect(after.items.some((one) => one.prospectId === id)).toBe(false)
  })
})

describe('the opt-out page', () => {
  it('asks before it acts, acts on POST, and says when a link is not ours', async () => {
    const { signedToken } = await import('../../../server/channels/mail/addresses')
    const {
      ids: [id],
    } = await addPeople(1, rep.id)
    const path = `/u/${signedToken('optout', id!)}`
    expect(await (await send(path)).text()).toContain('No more mail from')
    expect(await rows(sql`select stop_email from prospects where id = $1`, [id])).toEqual([{ stop_email: false }])
    expect((await send(path, { method: 'POST' })).status).toBe(200)
    expect(await rows(sql`select stop_email from prospects where id = $1`, [id])).toEqual([{ stop_email: true }])
    expect((await send('/u/forged')).status).toBe(404)
  })
})

describe('health', () => {
  it('reports the database, the workers, and how late scheduled actions run', async () => {
    await db().query(sql`delete from scheduled_actions`)
    await db().query(
      sql`
        insert into scheduled_actions (ref_id, kind, at, prospect_id)
        values ($1, 'step', world_now() - interval '90 seconds', $1)
      `,
      [randomUUID()],
    )
    expect(await (await send('/api/health')).json()).toMatchObject({
      status: 'degraded',
      reasons: ['No worker is running: no step is taken and no email is sent', 'Steps are 2 minutes late'],
      database: true,
      scheduledActionLagMs: 90_000,
      workers: 0,
      setAside: 0,
    })
    await db().query(sql`update scheduled_actions set set_aside_at = now()`)
    expect(await (await send('/api/health')).json()).toMatchObject({
      status: 'degraded',
      setAside: 1,
      reasons: expect.arrayContaining(['1 piece of work failed three times and waits under Problems']) as string[],
    })
    await db().query(sql`delete from scheduled_actions`)
  })
  it('is measured in the text format of Prometheus, for managers', async () => {
    const response = await send('/api/metrics', { cookie: await signedIn(manager) })
    expect(response.headers.get('content-type')).toMatch(/^text\/plain; version=0\.0\.4/)
    expect(await response.text()).toMatch(
      /^uphill_request_seconds_count\{method="get",route="\/api\/health",status="200"\} \d+$/m,
    )
    await refused(await send('/api/metrics', { cookie: await signedIn(rep) }), 403, 'not_allowed')
  })
})

describe('what a request may cost', () => {
  it('a body that comes in pieces is refused as soon as it exceeds the limit', async () => {
    let sent = 0
    const body = new ReadableStream({
      pull(controller) {
        sent += 65_536
        controller.enqueue(new Uint8Array(65_536))
        if (sent > 50_000_000) controller.close()
      },
    })
    const outcome = await fetch(`${server.url}/api/session`, {
      method: 'POST',
      body,
      duplex: 'half',
      headers: { 'content-type': 'application/json' },
    } as RequestInit).then(
      (response) => response.status,
      () => 'cut off',
    )
    expect([413, 'cut off']).toContain(outcome)
    expect(sent).toBeLessThan(10_000_000)
    await refused(
      await send('/api/session', { method: 'POST', body: { email: 'a@x.example', password: 'x'.repeat(30_000) } }),
      413,
      'too_large',
    )
  })
  it('a statement that takes too long is given up, and said', async () => {
    const { answerError } = await import('../../../server/http/answer')
    const { closePool, limitStatements } = await import('../../../server/db/pool')
    await closePool()
    limitStatements(100)
    try {
      const error: unknown = await db()
        .query(sql`select pg_sleep(5)`)
        .catch((thrown: unknown) => thrown)
      const event = { node: { res: { setHeader() {} } } } as never
      expect(answerError(event, error)).toMatchObject({
        error: { code: 'timed_out' },
      })
    } finally {
      limitStatements(undefined)
      await closePool()
    }
  })
  it('every answer has an id, which a proxy may give', async () => {
    expect(
      (await send('/api/health', { headers: { 'x-request-id': 'proxy-12345678' } })).headers.get('x-request-id'),
    ).toBe('proxy-12345678')
    expect(
      (await send('/api/health', { headers: { 'x-request-id': 'no"t<good' } })).headers.get('x-request-id'),
    ).toMatch(/^[0-9a-f-]{36}$/)
  })
  it('a write with a cookie and no word of where it comes from is blocked', async () => {
    const cookie = await signedIn(rep)
    const write = (headers: Record<string, string>) =>
      fetch(`${server.url}/api/session/others`, { method: 'DELETE', headers: { cookie, ...headers } })
    await refused(await write({}), 403, 'not_allowed')
    await refused(await write({ 'sec-fetch-site': 'cross-site' }), 403, 'not_allowed')
    expect((await write({ 'sec-fetch-site': 'same-origin' })).status).toBe(200)
  })
})
