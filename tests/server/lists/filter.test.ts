import { randomUUID } from 'node:crypto'
import fc from 'fast-check'
import { beforeAll, describe, expect, it } from 'vitest'
import { fieldsOf, type Field, type World } from '../../../core/filter/fields'
import type { Filter } from '../../../core/filter/filter'
import { matches, type Facts } from '../../../core/filter/matches'
import { factsSql, FILTER_FROM, toSql, toWhere } from '../../../core/filter/sql'
import { emptyParts, type ListMeaning, type Translation } from '../../../core/filter/sqlTranslation'
import { db } from '../../../server/db/pool'
import { addUser, MONDAY as NOW, startWorld } from '../../fixtures/people'
import { filters, WORLD } from '../../fixtures/filters'
import '../database'
import { firstRow, sql } from '../../../server/db/sql'

const HOUR = 3_600_000
const DAY = 24 * HOUR
const TIME_ZONE = 'America/New_York'
let world: World
let fields: ReadonlyMap<string, Field>
let lists: Map<string, ListMeaning>
let people: { id: string; facts: Facts }[]
let me: string

function translation(): Translation {
  return { ...emptyParts(), now: NOW, timeZone: TIME_ZONE, me, fields, lists }
}
async function found(filter: Filter, translate = toSql): Promise<string[]> {
  const t = translation()
  const where = translate(filter, t)
  const { rows } = await db().query<{ id: string }>(
    sql`select p.id from ${FILTER_FROM} where ${where} order by p.id`,
    t.values,
  )
  return rows.map((row) => row.id)
}

/**
 * People of whom everything is said, half of it or nothing, with values on both sides of every bound the filters ask
 * for.
 */
beforeAll(async () => {
  await startWorld()
  const [first, second] = await Promise.all([addUser('rep', 'Imani Osei'), addUser('rep', 'Joaquin Pell')])
  me = first.id
  const pick = <T>(n: number, ...of: T[]): T => of[n % of.length]!
  const { rows: stages } = await db().query<{ id: string; name: string }>(
    sql`select id, name from stages order by position`,
  )
  const { rows: outcomes } = await db().query<{ id: string; name: string }>(
    sql`select id, name from outcomes order by position limit 3`,
  )
  const tags = WORLD.tags.map(({ name }) => ({ id: randomUUID(), name }))
  for (const tag of tags) await db().query(sql`insert into tags values ($1, $2, world_now())`, [tag.id, tag.name])
  const cadences = ['First contact', 'Second contact'].map((name) => ({ id: randomUUID(), name, step: randomUUID() }))
  for (const { id, name, step } of cadences) {
    await db().query(
      sql`
      insert into cadences (id, name, status, created_at)
      values ($1, $2, 'active', world_now())
    `,
      [id, name],
    )
    await db().query(
      sql`
        insert into cadence_steps (id, cadence_id, position, kind, wait_amount, wait_unit)
        values ($1, $2, 0, 'call', 1, 'days')
      `,
      [step, id],
    )
  }
  const [fixed, live] = [randomUUID(), randomUUID()]
  world = {
    ...WORLD,
    stages,
    outcomes,
    tags,
    cadences,
    users: [first, second],
    imports: [],
    sources: [
      { id: 'Cheese fair', name: 'Cheese fair' },
      { id: 'Bought', name: 'Bought' },
    ],
    lists: [
      { id: fixed, name: 'Fixed' },
      { id: live, name: 'Live' },
    ],
  }
  fields = new Map(fieldsOf(world).map((field) => [field.key, field]))
  const liveFilter: Filter = {
    any: [
      { field: 'rating', test: { op: 'anyOf', values: ['hot'] } },
      { field: 'lists', test: { op: 'hasAny', values: [fixed] } },
    ],
  }
  lists = new Map<string, ListMeaning>([
    [fixed, { kind: 'fixed' }],
    [live, { kind: 'live', filter: liveFilter }],
  ])
  await db().query(
    sql`
      insert into lists (id, name, kind, filter, position, created_at)
      values ($1, 'Fixed', 'fixed', null, 0, world_now()), ($2, 'Live', 'live', $3, 1, world_now())
    `,
    [fixed, live, liveFilter],
  )
  const batch = randomUUID()
  await db().query(
    sql`
    insert into list_batches (id, list_id, at, count)
    values ($1, $2, world_now(), 0)
  `,
    [batch, fixed],
  )
  const companies = Array.from({ length: 8 }, (_, n) => ({ id: randomUUID(), n }))
  for (const { id, n } of companies) {
    await db().query(
      sql`
        insert into companies (
          id, name, name_key, domain, status, country, region, city, industry, size, custom, created_at
        )
        values ($1, $2, $2, $3, $4, $5, $6, $7, $8, $9, $10, world_now())
      `,
      [
        id,
        pick(n, 'Cellar & Sons', 'x and y', 'Ärger Käserei'),
        `c${n}.example`,
        pick(n, 'open', 'customer', 'not_a_fit', 'in_deal'),
        pick(n, 'US', null),
        pick(n, null, 'WI'),
        pick(n, 'Bergen', null, '', 'Berlin'),
        pick(n, 'cheese', null),
        pick(n, null, 0, 7, 12),
        pick(n, {}, { f3: [] }, { f3: ['low'] }, { f3: ['low', 'high'], f6: 'a' }, { f6: 'b' }),
      ],
    )
  }
  for (let n = 0; n < 120; n++) {
    const id = randomUUID()
    const company = n % 5 ? companies[n % 8]! : null
    await db().query(
      sql`
        insert into prospects (
          id, first_name, last_name, name_key, title, company_id, owner_id, stage_id, time_zone, country, region, city,
          postal_code, source, stop_call, stop_email, rating, status, relationship_owner_id, custom, created_at
        )
        values (
          $1, $2, $3, 'k', $4, $5, $6, $7, 'America/New_York', $8, $9, $10, $11, $12, $13, $14, $15, $16, $17, $18,
          from_ms($19)
        )
      `,
      [
        id,
        pick(n, 'Ann', 'CELLAR', 'ärger', 'x'),
        pick(n, 'van den Berg', 'a "quoted" one', '%_\\', '7', ''),
        pick(n, null, '', 'Cellar master', 'ÄRGER'),
        company?.id ?? null,
        pick(n, null, first.id, second.id),
        pick(n, ...stages.map((stage) => stage.id)),
        pick(n, 'US', null, 'DE', 'FJ', 'US'),
        pick(n, 'NY', null),
        pick(n, 'Bergen', null, 'bergen', 'Berg', 'Ithaca', 'Berlin', 'Suva'),
        pick(n, null, '53701'),
        pick(n, 'Cheese fair', null, 'Bought'),
        n % 7 === 0,
        n % 4 === 0,
        pick(n, 'hot', 'warm', 'cold', null, null),
        pick(n, 'active', 'active', 'paused', 'archived'),
        pick(n, null, null, first.id),
        pick(
          n,
          {},
          { f1: 3 },
          { f1: 0.125, f2: 'Cellar' },
          { f1: -2.5, f4: '2026-11-23', f5: true },
          { f4: '2026-11-01', f5: false, f2: 'x and y' },
          { f4: '2026-10-31' },
        ),
        NOW - pick(n, 0, 1, HOUR, DAY, 2 * DAY, 7 * DAY, 40 * DAY, 400 * DAY),
      ],
    )
    for (let k = 0; k < n % 4; k++) {
      await db().query(sql`insert into prospect_tags values ($1, $2) on conflict do nothing`, [
        id,
        tags[(n + k * 2) % tags.length]!.id,
      ])
    }
    if (n % 3) {
      await db().query(
        sql`
        insert into email_addresses (id, prospect_id, address, status, position)
        values ($1, $2, $3, $4, 0)
      `,
        [randomUUID(), id, `cellar${n}@c.example`, pick(n, 'ok', 'bounced')],
      )
    }
    for (let k = 0; k < n % 3; k++) {
      await db().query(
        sql`
        insert into phones (id, prospect_id, number, status, position)
        values ($1, $2, $3, $4, $5)
      `,
        [randomUUID(), id, `+1212555${1000 + n}${k}`, pick(n + k, 'unverified', 'correct', 'wrong'), k],
      )
    }
    for (let k = 0; k < n % 6; k++) {
      await db().query(
        sql`
          insert into touches (id, prospect_id, kind, at, counts_as, outcome_id)
          values ($1, $2, $3, from_ms($4), $5, $6)
        `,
        [
          randomUUID(),
          id,
          pick(n + k, 'call', 'email', 'reply', 'text', 'meeting', 'visit', 'call'),
          NOW - pick(n * k, 0, HOUR, 5 * HOUR, DAY, 3 * DAY, 10 * DAY, 31 * DAY) - k,
          pick(n + k, 'attempt', 'none', 'conversation', 'attempt'),
          pick(n + k, null, ...outcomes.map((outcome) => outcome.id)),
        ],
      )
    }
    if (n % 3 === 1) {
      const cadence = pick(n, ...cadences)
      const [status, exit] = pick(n, ['active', null], ['ended', 'replied'], ['waiting', null], ['ended', 'finished'])
      await db().query(
        sql`
          insert into enrollments (id, prospect_id, cadence_id, step_id, status, due_at, started_at, ended_at, exit)
          values ($1, $2, $3, $4, $5, from_ms($6), world_now(), $7, $8)
        `,
        [
          randomUUID(),
          id,
          cadence.id,
          cadence.step,
          status,
          status === 'waiting' ? NOW + DAY : null,
          exit ? new Date(NOW) : null,
          exit,
        ],
      )
    }
    if (n % 5 === 2) {
      await db().query(
        sql`
          insert into tasks (id, prospect_id, kind, priority, title, due_at, status, time_zone)
          values ($1, $2, 'task', 2, 'Ring', from_ms($3), 'open', 'UTC')
        `,
        [randomUUID(), id, NOW + pick(n, -DAY, 0, 2 * DAY)],
      )
    }
    if (n % 6 === 3) {
      await db().query(
        sql`
          insert into deals (id, company_id, prospect_id, name, status, likelihood, opened_at, value, custom)
          values ($1, $2, $3, 'Deal', $4, 15, from_ms($7), $5, $6)
        `,
        [
          randomUUID(),
          company?.id ?? null,
          id,
          pick(n, 'won', 'open', 'lost'),
          pick(n, null, 7, 12.5),
          pick(n, { f7: 3 }, {}, { f7: -2.5, f8: ['none'] }, { f8: ['none', 'many'] }),
          NOW - n * HOUR,
        ],
      )
    }
    if (n % 4 === 1) await db().query(sql`insert into list_members values ($1, $2, $3)`, [fixed, id, batch])
  }
  const t = translation()
  const { rows } = await db().query<{ id: string; facts: Record<string, unknown>; fixed: boolean }>(
    sql`
      select p.id, ${factsSql(t)} as facts, exists (select from list_members m where m.prospect_id = p.id) as fixed
      from ${FILTER_FROM}
      order by p.id
    `,
    t.values,
  )
  people = rows.map((row) => ({
    id: row.id,
    facts: {
      ...row.facts,
      lists: [...(row.fixed ? [fixed] : []), ...(row.fixed || row.facts.rating === 'hot' ? [live] : [])],
    } as Facts,
  }))
})

describe('a filter', () => {
  it('means the same in memory and in the database', async () => {
    const seen = { some: 0, all: 0, none: 0 }
    await fc.assert(
      fc.asyncProperty(filters([...fields.values()]), async (filter) => {
        const expected = people
          .filter(({ facts }) => matches(filter, facts, fields, { now: NOW, timeZone: TIME_ZONE, me }))
          .map(({ id }) => id)
        expect(await found(filter)).toEqual(expected)
        expect(await found(filter, toWhere)).toEqual(expected)
        const most = expected.length === people.length ? 'all' : 'some'
        seen[expected.length === 0 ? 'none' : most]++
      }),
      { numRuns: 1200 },
    )
    // A property that only ever finds nobody or everyone would prove little.
    expect(seen.some).toBeGreaterThan(300)
  }, 120_000)
  it('is a condition that is never unknown', async () => {
    await fc.assert(
      fc.asyncProperty(filters([...fields.values()]), async (filter) => {
        const t = translation()
        const where = toSql(filter, t)
        const row = await firstRow(
          db().query<{ unknown: number }>(
            sql`select count(*) as unknown from ${FILTER_FROM} where (${where}) is null`,
            t.values,
          ),
        )
        expect(row!.unknown).toBe(0)
      }),
      { numRuns: 200 },
    )
  }, 60_000)
})

interface Touch {
  id: string
  kind: string
  at: number
  counts_as: string
  outcome_id: string | null
}

describe('what a person’s touches come to', () => {
  it('stays true whatever is written, changed and removed', async () => {
    const { rows: outcomes } = await db().query<{ id: string }>(sql`select id from outcomes order by position limit 3`)
    const touch = fc.record({
      kind: fc.constantFrom('call', 'text', 'email', 'reply', 'meeting', 'visit', 'task'),
      at: fc.integer({ min: NOW - 30 * DAY, max: NOW }),
      counts_as: fc.constantFrom('attempt', 'conversation', 'none'),
      outcome_id: fc.constantFrom(null, ...outcomes.map((outcome) => outcome.id)),
    })
    const change = fc.oneof(
      fc.record({ type: fc.constant('add' as const), touches: fc.array(touch, { minLength: 1, maxLength: 4 }) }),
      fc.record({
        type: fc.constant('move' as const),
        nth: fc.nat(9),
        by: fc.integer({ min: -40 * DAY, max: 40 * DAY }),
      }),
      fc.record({ type: fc.constant('remove' as const), nth: fc.nat(9) }),
    )
    const id = people[0]!.id
    await fc.assert(
      fc.asyncProperty(fc.array(change, { minLength: 1, maxLength: 6 }), async (changes) => {
        await db().query(sql`delete from touches where prospect_id = $1`, [id])
        let held: Touch[] = []
        for (const one of changes) {
          const nth = 'nth' in one ? held[one.nth % Math.max(1, held.length)] : undefined
          if (one.type === 'add') {
            const more = one.touches.map((given) => ({ ...given, id: randomUUID() }))
            await db().query(
              sql`
                insert into touches (id, prospect_id, kind, at, counts_as, outcome_id)
                select r.id, $1, r.kind, from_ms(r.at), r.counts_as, r.outcome_id
                from jsonb_to_recordset($2) as r(id uuid, kind text, at bigint, counts_as text, outcome_id uuid)
              `,
              [id, JSON.stringify(more)],
            )
            held = [...held, ...more]
          } else if (one.type === 'move' && nth) {
            await db().query(sql`update touches set at = from_ms($2) where id = $1`, [nth.id, nth.at + one.by])
            held = held.map((touched) => (touched === nth ? { ...nth, at: nth.at + one.by } : touched))
          } else if (nth) {
            await db().query(sql`delete from touches where id = $1`, [nth.id])
            held = held.filter((touched) => touched !== nth)
          }
        }
        const last = (...kinds: string[]) =>
          held
            .filter((one) => kinds.length === 0 || kinds.includes(one.kind))
            .reduce<number | null>((latest, one) => Math.max(latest ?? one.at, one.at), null)
        const latest = held.filter((one) => one.outcome_id).sort((a, b) => b.at - a.at)
        const row = await firstRow(
          db().query(
            sql`
            select
              ms(last_touch_at) as touch, ms(last_call_at) as call, ms(last_text_at) as text,
              ms(last_email_at) as email, ms(last_reply_at) as reply, ms(last_meeting_at) as meeting,
              ms(last_visit_at) as visit, attempts, conversations, last_outcome_id as outcome
            from prospects
            where id = $1
          `,
            [id],
          ),
        )
        const tied = latest.filter((one) => one.at === latest[0]!.at).map((one) => one.outcome_id)
        expect(latest.length ? tied : [null]).toContain(row!.outcome)
        expect(row).toMatchObject({
          touch: last(),
          call: last('call'),
          text: last('text'),
          email: last('email'),
          reply: last('reply'),
          meeting: last('meeting'),
          visit: last('visit'),
          attempts: held.filter((one) => one.counts_as === 'attempt').length,
          conversations: held.filter((one) => one.counts_as === 'conversation').length,
        })
      }),
      { numRuns: 60 },
    )
  }, 60_000)
  it('counts all of many that are written at once', async () => {
    const id = people[1]!.id
    await db().query(sql`delete from touches where prospect_id = $1`, [id])
    await Promise.all(
      Array.from({ length: 12 }, (_, n) =>
        db().query(
          sql`
            insert into touches (id, prospect_id, kind, at, counts_as)
            values (gen_random_uuid(), $1, 'call', from_ms($2), 'attempt')
          `,
          [id, NOW - n * HOUR],
        ),
      ),
    )
    const row = await firstRow(
      db().query(sql`select attempts, ms(last_call_at) as last from prospects where id = $1`, [id]),
    )
    expect(row).toEqual({ attempts: 12, last: NOW })
  })
})
