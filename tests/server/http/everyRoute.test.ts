import { randomUUID } from 'node:crypto'
import fc from 'fast-check'
import { beforeAll, describe, expect, it } from 'vitest'
import type { z } from 'zod'
import { errorSchema, type Endpoint } from '../../../shared/api/endpoint'
import { ENDPOINTS } from '../../../shared/endpoints'
import { db } from '../../../server/db/pool'
import { addKey } from '../../../server/services/access/sessions'
import { type Viewer } from '../../../server/services/access/viewer'
import { addCadence, addPeople } from '../../fixtures/people'
import { withTeam } from '../../fixtures/team'
import '../database'
import { firstRow, sql } from '../../../server/db/sql'

/** What holds for every route there is, whatever it is for. */
const team = withTeam()
const routes: [string, Endpoint][] = Object.entries(ENDPOINTS)
/** The names of the fields a body or a query has. */
const fieldsOf = (schema: z.ZodType): string[] => ('shape' in schema ? Object.keys(schema.shape as object) : [])
let keys: Record<'rep' | 'admin', string>
beforeAll(async () => {
  const key = async (viewer: Viewer) => (await addKey(viewer, 'every route')).key
  keys = { rep: await key(team.rep), admin: await key(team.admin) }
})

async function ask(
  endpoint: Endpoint,
  as: keyof typeof keys,
  given: { ids?: () => string; query?: Record<string, string>; body?: unknown; raw?: string } = {},
) {
  const path = endpoint.path.replace(/\{\w+\}/g, () => encodeURIComponent((given.ids ?? randomUUID)()))
  const response = await fetch(
    `${team.url}${path}${given.query ? `?${new URLSearchParams(given.query).toString()}` : ''}`,
    {
      method: endpoint.method.toUpperCase(),
      headers: { authorization: `Bearer ${keys[as]}`, 'content-type': 'application/json' },
      ...(endpoint.method !== 'get' && { body: given.raw ?? JSON.stringify(given.body ?? {}) }),
    },
  )
  return { status: response.status, text: await response.text() }
}
/** A refusal in the one shape, of which nobody learns how it is built inside. */
function isRefusal({ status, text }: { status: number; text: string }, says: string) {
  expect(status, `${says}: ${text}`).toBeGreaterThanOrEqual(400)
  expect(status, `${says}: ${text}`).toBeLessThan(500)
  const { error } = errorSchema.parse(JSON.parse(text))
  expect(error.message, says).not.toMatch(/select |insert |constraint|syntax|undefined|node_modules|\.ts:/i)
}

describe('every route', () => {
  it('with something that is no id refuses it as such', async () => {
    for (const [name, endpoint] of routes.filter(([, one]) => one.path.includes('{'))) {
      for (const id of ['nonsense', '%00', `' or 1=1 --`, '../../etc', 'x'.repeat(3_000)]) {
        isRefusal(await ask(endpoint, 'admin', { ids: () => id }), `${name} with ${id.slice(0, 20)}`)
      }
    }
  })
  it('with the id of nothing at all finds nothing, or says first what else is wrong', async () => {
    for (const [name, endpoint] of routes.filter(([, one]) => one.path.includes('{'))) {
      for (const as of ['rep', 'admin'] as const) isRefusal(await ask(endpoint, as), `${name} as ${as}`)
    }
  })
  it('with a body that is no JSON, or not the JSON it asks for, says so', async () => {
    for (const [name, endpoint] of routes.filter(([, one]) => one.method !== 'get' && fieldsOf(one.body).length)) {
      for (const raw of ['{', 'null', '[]', '"text"', '12', '{"__proto__":{"id":1}}']) {
        const answer = await ask(endpoint, 'admin', { raw })
        if (answer.status !== 200) isRefusal(answer, `${name} with ${raw}`)
      }
    }
  })
  it('that is for managers is refused to reps before anything is looked at', async () => {
    for (const [name, endpoint] of routes.filter(([, one]) => one.access === 'manager')) {
      const { status, text } = await ask(endpoint, 'rep', { body: { nonsense: true } })
      expect({ name, status, code: errorSchema.parse(JSON.parse(text)).error.code }).toEqual({
        name,
        status: 403,
        code: 'not_allowed',
      })
    }
  })
  it('takes anything at all in any of its fields without breaking, and changes nothing where it refuses', async () => {
    const { ids } = await addPeople(2, team.rep.id)
    await addCadence([{ kind: 'call' }])
    const value = fc.oneof(
      fc.constantFrom<unknown>(
        ...ids,
        randomUUID(),
        null,
        true,
        0,
        -1,
        1e21,
        2 ** 53,
        '',
        ' ',
        'x'.repeat(20_000),
        'a\0b',
        '\ud800',
        '🧀',
        '2026-02-30',
        '{{',
        '=1+1',
        [],
        {},
        [[]],
        { all: [] },
        { any: [{ any: [] }] },
        'stage is "Nowhere"',
        'everyone',
      ),
      fc.string(),
      fc.integer(),
      fc.double(),
      fc.array(fc.oneof(fc.string(), fc.constantFrom(...ids)), { maxLength: 3 }),
      fc.jsonValue(),
    )
    // The clock is the demo's to move, and a file's bytes are no JSON.
    const open = routes.filter(([name]) => !['moveClock', 'signIn', 'signOut', 'uploadImport'].includes(name))
    for (const [name, endpoint] of open) {
      const [fields, queries] = [fieldsOf(endpoint.body), fieldsOf(endpoint.query)]
      if (!fields.length && !queries.length) continue
      const given = fc.record({
        body: fc.record(Object.fromEntries(fields.map((field) => [field, value])), { requiredKeys: [] }),
        query: fc.record(Object.fromEntries(queries.map((field) => [field, fc.string({ maxLength: 60 })])), {
          requiredKeys: [],
        }),
        id: fc.constantFrom(...ids),
      })
      await fc.assert(
        fc.asyncProperty(given, async ({ body, query, id }) => {
          const answer = await ask(endpoint, 'admin', { ids: () => id, body, query: query as Record<string, string> })
          if (answer.status !== 200) isRefusal(answer, `${name} with ${JSON.stringify({ body, query }).slice(0, 300)}`)
        }),
        { numRuns: 12 },
      )
    }
    // Nobody is lost or left in a state that cannot be.
    const after = await firstRow(
      db().query<{ people: number; orphans: number }>(
        sql`
        select
          (select count(*) from prospects where id = any($1::uuid[])) as people,
          (select count(*) from tasks t where not exists (select from prospects p where p.id = t.prospect_id)) as
            orphans
      `,
        [ids],
      ),
    )
    expect(after).toEqual({ people: 2, orphans: 0 })
  })
})
