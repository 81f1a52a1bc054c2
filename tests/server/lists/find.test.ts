import { randomUUID } from 'node:crypto'
import { beforeAll, describe, expect, it } from 'vitest'
import { findAnything } from '../../../shared/api/find'
import { addList } from '../../../shared/api/lists'
import { addProspect, editProspect, getProspect } from '../../../shared/api/prospects'
import { db } from '../../../server/db/pool'
import { addCadence, addPeople } from '../../fixtures/people'
import { withTeam } from '../../fixtures/team'
import '../database'
import { sql } from '../../../server/db/sql'

const team = withTeam()
beforeAll(async () => {
  await team.asRep.ok(addProspect, {
    body: {
      name: 'Wilhelmina Østergård',
      email: 'w.ostergard@brinepool.example',
      phone: '(607) 555-0142',
      company: 'Brinepool Creamery',
    },
  })
  await team.asRep.ok(addProspect, {
    body: {
      name: 'Ossian Brine',
      email: 'ossian@elsewhere.example',
      phone: '+44 20 7946 0301',
      company: 'The Larder, Ltd',
    },
  })
  await team.asOther.ok(addProspect, {
    body: { name: 'Brinda Hush', email: 'brinda@hushed.example', company: 'Hushed Cellars' },
  })
})
const found = async (text: string, as = team.asRep) => {
  const { people, companies, lists, cadences } = await as.ok(findAnything, { query: { text } })
  return [...people, ...companies, ...lists, ...cadences].map((one) => one.name)
}

describe('anything is found', () => {
  it.each([
    ['the beginning of a first name', 'wilh', ['Wilhelmina Østergård']],
    ['a last name without its marks', 'OSTERG', ['Wilhelmina Østergård']],
    ['first and last', 'wilhelmina øst', ['Wilhelmina Østergård']],
    ['an address', 'W.Ostergard@brine', ['Wilhelmina Østergård']],
    ['a number as it is said at home', '607 555 01', ['Wilhelmina Østergård']],
    ['a number with its country', '+44 20 7946', ['Ossian Brine']],
    ['a piece in the middle, among few', 'helmin', ['Wilhelmina Østergård']],
    ['a company without its article', 'larder', ['Ossian Brine', 'The Larder, Ltd']],
    ['a first name and a company', 'ossian larder', ['Ossian Brine']],
    ['the last four digits', '0142', ['Wilhelmina Østergård']],
  ])('by %s', async (_, text, names) => expect(await found(text)).toEqual(names))
  it('names before companies, beginnings before middles', async () => {
    expect(await found('brine')).toEqual(['Ossian Brine', 'Wilhelmina Østergård', 'Brinepool Creamery'])
  })
  it('of what one may see, and no more', async () => {
    expect(await found('hush')).toEqual([])
    expect(await found('hush', team.asOther)).toEqual(['Brinda Hush', 'Hushed Cellars'])
    expect(await found('hush', team.asManager)).toEqual(['Brinda Hush', 'Hushed Cellars'])
    await team.asOther.ok(addList, {
      body: { name: 'Whispered to me', kind: 'live', filter: 'everyone', visibility: 'me' },
    })
    expect(await found('whisper')).toEqual([])
    expect(await found('whisper', team.asOther)).toEqual(['Whispered to me'])
  })
  it('of a company, separate from prospects of that name', async () => {
    const { people } = await team.asRep.ok(findAnything, { query: { text: 'brine' } })
    expect(people.map(({ name, atCompany }) => [name, atCompany])).toEqual([
      ['Ossian Brine', false],
      ['Wilhelmina Østergård', true],
    ])
  })
  it('among hundreds of a colleague’s who are called the same', async () => {
    const { ids } = await addPeople(900, team.other.id, 'Petrel Works')
    await db().query(
      sql`
      update prospects
      set name_key = 'petronella ' || name_key
      where id = any($1::uuid[])
    `,
      [ids],
    )
    await team.asRep.ok(addProspect, { body: { name: 'Petronella Zuider', email: 'petronella@zuider.example' } })
    expect(await found('petr')).toEqual(['Petronella Zuider'])
    expect(await found('zuid')).toEqual(['Petronella Zuider', 'zuider.example'])
    expect((await found('petr', team.asOther)).length).toBeGreaterThan(8)
    await db().query(sql`update prospects set owner_id = $1, status = $2 where id = any($3::uuid[])`, [
      team.other.id,
      'archived',
      ids,
    ])
  })
  it('lists and cadences by any piece of their name', async () => {
    await addCadence([{ kind: 'call' }])
    expect(await found('first contact')).toEqual(['Aging rooms, first contact'])
  })
  it('archived prospects come last', async () => {
    const { ids } = await addPeople(2, team.rep.id, 'Gannet Stores')
    await db().query(
      sql`
        update prospects
        set
          first_name = 'Gannet', last_name = 'Aye ' || right(name_key, 1),
          name_key = 'gannet aye ' || right(name_key, 1)
        where id = any($1::uuid[])
      `,
      [ids],
    )
    const first = (await found('gannet aye'))[0]!
    const { people } = await team.asRep.ok(findAnything, { query: { text: 'gannet aye' } })
    const { version } = await team.asRep.ok(getProspect, { params: { id: people[0]!.id } })
    await team.asManager.ok(editProspect, {
      params: { id: people[0]!.id },
      body: { version, status: 'archived', reason: 'retired' },
    })
    expect((await found('gannet aye')).slice(0, 2)).toEqual([people[1]!.name, first])
  })
  it('or nothing, whatever is typed', async () => {
    for (const text of ['%', '_____', '\\', `'; drop table prospects; --`, '٣٤٥٦', '🧀', randomUUID()]) {
      expect(await found(text)).toEqual([])
    }
    await team.asRep.refused(findAnything, 400, { query: { text: '  ' } })
    await team.asRep.refused(findAnything, 400, { query: { text: 'x'.repeat(201) } })
  })
  it('of many people along indexes', async () => {
    const plan = async (text: string) => JSON.stringify((await db().query(`explain (format json) ${text}`)).rows)
    await db().query('set enable_seqscan = off')
    for (const text of [
      sql`select id from prospects where split_part(name_key, ' ', -1) like 'bri%'`,
      sql`select id from prospects where name_key like 'bri%'`,
      sql`select id from companies where name_key like 'bri%'`,
      sql`select id from email_addresses where address like 'bri%'`,
      sql`select id from phones where number like '+1607%'`,
    ]) {
      expect(await plan(`${text} limit 5`)).toMatch(/Index Cond":[^}]*~>=~/)
    }
  })
})
