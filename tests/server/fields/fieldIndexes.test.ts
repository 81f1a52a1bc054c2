import fc from 'fast-check'
import { DateTime } from 'luxon'
import { beforeAll, describe, expect, it } from 'vitest'
import { firstDayFrom } from '../../../core/filter/moments'
import { FILTER_FROM } from '../../../core/filter/sql'
import { addField, editField, listFields, removeField } from '../../../shared/api/settings/fields'
import { indexCustomFields } from '../../../server/db/fieldIndexes'
import { db } from '../../../server/db/pool'
import type { Viewer } from '../../../server/services/access/viewer'
import { ask, filterWorld, readFilter } from '../../../server/services/lists/filters'
import { addPeople, addUser, rows } from '../../fixtures/people'
import { withTeam } from '../../fixtures/team'
import '../database'
import { sql } from '../../../server/db/sql'

const team = withTeam()
let manager: Viewer
const KINDS = {
  text: { choices: [], value: 'brine', sentence: 'is "Brine"' },
  link: { choices: [], value: 'https://brine.example', sentence: 'is "https://brine.example"' },
  number: { choices: [], value: 7, sentence: 'is at least 7' },
  money: { choices: [], value: 7.5, sentence: 'is between 7 and 8' },
  date: { choices: [], value: '2026-11-24', sentence: 'is on 2026-11-24' },
  yesNo: { choices: [], value: true, sentence: 'is yes' },
  choice: { choices: ['soft', 'hard'], value: 'soft', sentence: 'is "soft"' },
  choices: { choices: ['soft', 'hard'], value: ['hard'], sentence: 'has any of "hard"' },
} as const
type Kind = keyof typeof KINDS
const ids = new Map<string, string>()
const OF = ['prospect', 'company'] as const
const name = (of: string, kind: string) => `Quick ${of} ${kind}`
const indexName = (id: string) => `own_${id.replaceAll('-', '')}`
const indexes = async () =>
  (await rows<{ name: string }>(sql`select relname as name from pg_class where relname like 'own\\_%' order by 1`)).map(
    (row) => row.name,
  )

/** How the database would look for whom a sentence asks. */
async function planOf(sentence: string): Promise<string> {
  const world = await filterWorld(manager)
  const question = ask(manager, readFilter(sentence, world), world)
  const client = await db().connect()
  try {
    await client.query('set enable_seqscan = off')
    await client.query('set enable_indexonlyscan = off')
    return JSON.stringify(
      (await client.query(`explain select p.id from ${FILTER_FROM} where ${question.where}`, question.values)).rows,
    )
  } finally {
    client.release(true)
  }
}

beforeAll(async () => {
  manager = await addUser('manager')
  const { ids: people, companyId } = await addPeople(3, team.rep.id)
  for (const of of OF) {
    for (const kind of Object.keys(KINDS) as Kind[]) {
      const { id } = await team.asManager.ok(addField, {
        body: { of, kind, name: name(of, kind), choices: [...KINDS[kind].choices], indexed: true },
      })
      ids.set(name(of, kind), id)
      await db().query(
        sql`
          update ${of === 'prospect' ? 'prospects' : 'companies'}
          set custom = custom || $2
          where id = $1
        `,
        [of === 'prospect' ? people[0] : companyId, JSON.stringify({ [id]: KINDS[kind].value })],
      )
    }
  }
  // Enough others for an index to be worth it.
  await db().query(
    sql`
      insert into companies (id, name, name_key, created_at)
      select gen_random_uuid(), 'Other ' || n, 'other ' || n, world_now()
      from generate_series(1, 2000) n
    `,
  )
  await db().query(
    sql`
      insert into prospects (id, first_name, last_name, name_key, stage_id, time_zone, company_id, created_at)
      select
        gen_random_uuid(), 'Other', 'No ' || row_number() over (), 'other no ' || row_number() over (), 'new',
        'UTC', id, world_now()
      from companies
      where name like 'Other %'
    `,
  )
  expect(
    await rows(sql`
      select count(*)::int as count
      from graphile_worker.jobs
      where task_identifier = 'indexFields'
    `),
  ).toEqual([{ count: 1 }])
  await indexCustomFields()
})

describe('an indexed field', () => {
  it.each(OF.flatMap((of) => (Object.keys(KINDS) as Kind[]).map((kind) => [of, kind] as const)))(
    'of a %s that holds %s is looked up in its index, and finds whom it should',
    async (of, kind) => {
      const sentence = `${of === 'company' ? 'company ' : ''}${name(of, kind).toLowerCase()} ${KINDS[kind].sentence}`
      expect(await planOf(sentence)).toContain(indexName(ids.get(name(of, kind))!))
      const world = await filterWorld(manager)
      const question = ask(manager, readFilter(sentence, world), world)
      const { rows: found } = await db().query(
        sql`select p.id from ${FILTER_FROM} where ${question.where}`,
        question.values,
      )
      expect(found).toHaveLength(of === 'company' ? 3 : 1)
    },
  )
  it('has one index, however often it is checked, and an unfinished one is rebuilt', async () => {
    const before = await indexes()
    expect(before).toHaveLength(16)
    const broken = before[0]!
    await db().query(sql`update pg_index set indisvalid = false where indexrelid = $1::regclass`, [broken])
    await indexCustomFields()
    await indexCustomFields()
    expect(await indexes()).toEqual(before)
    expect(await rows(sql`select indisvalid as whole from pg_index where indexrelid = $1::regclass`, [broken])).toEqual(
      [{ whole: true }],
    )
  })
  it('has none any more when it is not to be, or is gone', async () => {
    const field = (await team.asManager.ok(listFields)).fields.find((one) => one.name === name('prospect', 'number'))!
    expect(field.indexed).toBe(true)
    await team.asManager.ok(editField, { params: { id: field.id }, body: { version: field.version, indexed: false } })
    await team.asManager.ok(removeField, { params: { id: ids.get(name('prospect', 'money'))! } })
    await indexCustomFields()
    const left = await indexes()
    expect(left).toHaveLength(14)
    expect(left).not.toContain(indexName(field.id))
  })
  it('is of a person or a company: deals are looked through in any case', async () => {
    const { problems } = await team.asManager.refused(addField, 400, {
      body: { of: 'deal', name: 'Quick deal', kind: 'number', indexed: true },
    })
    expect(problems).toMatchObject([{ field: 'indexed' }])
  })
})

describe('the first day from a moment on', () => {
  it('is what its beginning says, in any zone and over any change of clocks', () => {
    const zones = [
      'America/New_York',
      'Europe/Berlin',
      'Australia/Lord_Howe',
      'America/Sao_Paulo',
      'Pacific/Apia',
      'UTC',
    ]
    const day = fc
      .date({ min: new Date('1990-01-01'), max: new Date('2090-01-01'), noInvalidDate: true })
      .map((date) => date.toISOString().slice(0, 10))
    fc.assert(
      fc.property(
        fc.integer({ min: Date.UTC(1990, 0), max: Date.UTC(2090, 0) }),
        day,
        fc.constantFrom(...zones),
        (at, day, timeZone) => {
          const begins = DateTime.fromISO(day, { zone: timeZone }).startOf('day').toMillis()
          expect(day >= firstDayFrom(at, timeZone)).toBe(begins >= at)
          expect(day >= firstDayFrom(begins, timeZone)).toBe(true)
          expect(day >= firstDayFrom(begins + 1, timeZone)).toBe(false)
        },
      ),
      { numRuns: 1_000 },
    )
  })
  it('lies outside what four digits can write where the moment does', () => {
    expect('9999-12-31' >= firstDayFrom(Date.UTC(12_000, 0), 'UTC')).toBe(false)
    expect('0001-01-01' >= firstDayFrom(Date.UTC(-3_000, 0), 'UTC')).toBe(true)
  })
})
