import { randomUUID } from 'node:crypto'
import { readFileSync } from 'node:fs'
import { Readable } from 'node:stream'
import spectrum from 'csv-spectrum'
import ICAL from 'ical.js'
import iconv from 'iconv-lite'
import { afterEach, beforeAll, describe, expect, it } from 'vitest'
import type { ExistingAction } from '../../../core/enumerations'
import { readRows } from '../../../server/imports/rows'
import { runImport as work } from '../../../server/imports/run'
import { addField } from '../../../server/services/fields/customFields'
import { listMappings, removeMapping, saveMapping } from '../../../server/services/imports/importMappings'
import { exportPeople } from '../../../server/services/lists/exports'
import { history } from '../../../server/services/activity/history'
import { addList } from '../../../server/services/lists/lists'
import { findPeople } from '../../../server/services/lists/people'
import { addProspect } from '../../../server/services/prospects/addProspect'
import { listSources, removeSource, saveSource } from '../../../server/services/fields/sources'
import { harmless } from '../../../core/imports/columns'
import { checkImport as checkEndpoint } from '../../../shared/api/imports'
import { checkImport, getImport, runImport, uploadImport, invalidRows } from '../../../server/services/imports/imports'
import type { Viewer } from '../../../server/services/access/viewer'
import { closePool, db } from '../../../server/db/pool'
import { deleteOldUploads } from '../../../server/imports/upload'
import { addPeople, addUser, rows, startWorld } from '../../fixtures/people'
import { firstRow, sql } from '../../../server/db/sql'

let manager: Viewer
beforeAll(async () => {
  await startWorld()
  manager = await addUser('manager', 'Maren Holloway')
})

const upload = (content: string | Buffer, name = 'people.csv') =>
  uploadImport(manager, name, Readable.from([Buffer.from(content)]))
async function check(content: string | Buffer, known: ExistingAction = 'skip') {
  const made = await upload(content)
  await checkImport(manager, made.id, { version: made.version, mapping: made.mapping, knownAction: known })
  await work(made.id)
  return getImport(manager, made.id)
}
async function bring(content: string | Buffer, known: ExistingAction = 'skip') {
  const checked = await check(content, known)
  await runImport(manager, checked.id, { version: checked.version, knownAction: known })
  await work(checked.id)
  return getImport(manager, checked.id)
}
const download = async (id: string) => {
  let text = ''
  for await (const part of invalidRows(manager, id)) text += part
  return text
}

describe('reading files', () => {
  it('reads every case of csv-spectrum (RFC 4180)', async () => {
    const cases = await new Promise<{ name: string; csv: Buffer; json: Buffer }[]>((resolve, reject) =>
      spectrum((error: Error | null, all: { name: string; csv: Buffer; json: Buffer }[]) =>
        error ? reject(error) : resolve(all),
      ),
    )
    expect(cases.length).toBeGreaterThan(8)
    for (const { name, csv, json } of cases) {
      // Its JSON holds another phone number than its CSV, and is no list.
      if (name === 'location_coordinates') continue
      const read: string[][] = []
      const dialect = { encoding: 'utf8', bom: 0, delimiter: ',', headed: true } as const
      for await (const rows of readRows(Readable.from([csv]), dialect)) read.push(...rows)
      const [headings, ...body] = read
      const objects = body.map((row) => Object.fromEntries(headings!.map((heading, index) => [heading, row[index]])))
      expect(objects, name).toEqual(JSON.parse(json.toString('utf8')))
    }
  })
  it.each([
    ['UTF-8 with a mark', 'utf8', '\ufeff'],
    ['UTF-16 little', 'utf16-le', '\ufeff'],
    ['UTF-16 big', 'utf16-be', '\ufeff'],
    ['UTF-16 without a mark', 'utf16-le', ''],
    ['Windows-1252', 'win1252', ''],
  ])('reads %s, semicolons and CRLF', async (_, encoding, mark) => {
    const made = await upload(iconv.encode(`${mark}Name;Email;Ort\r\nJörg Köhler;joerg@k.example;Köln\r\n`, encoding))
    expect(made.headings).toEqual(['Name', 'Email', 'Ort'])
    expect(made.samples[0]).toEqual(['Jörg Köhler', 'joerg@k.example', 'Köln'])
    expect(made.mapping).toEqual({ 0: 'fullName', 1: 'email', 2: 'city' })
  })
  it.each([
    ['nothing', Buffer.alloc(0), 'empty'],
    ['a picture', Buffer.from('89504e470d0a1a0a0000000d49484452000000', 'hex'), 'text file'],
    ['only headings', 'Name,Email\n', 'no rows'],
    ['600 columns', `${Array.from({ length: 600 }, (_, index) => `c${index}`).join()}\n1`, '600 columns'],
  ])('refuses %s with a sentence, and keeps nothing', async (_, content, sentence) => {
    const before = await rows(sql`select id from imports`)
    await expect(upload(content)).rejects.toMatchObject({
      code: 'invalid',
      message: expect.stringContaining(sentence) as string,
    })
    expect(await rows(sql`select id from imports`)).toEqual(before)
  })
  it('takes 200 columns, headings that are the same, and a cell of 2 MB', async () => {
    const headings = ['Name', 'Email', 'Email', ...Array.from({ length: 197 }, (_, index) => `Extra ${index}`)]
    const checked = await check(
      `${headings.join()}\nPetra Big,p.big@x.example,other,${'x'.repeat(2_000_000)}\n${'y'.repeat(2_000_000)},q@x.example\n`,
    )
    expect(checked.headings.slice(0, 3)).toEqual(['Name', 'Email', 'Email (2)'])
    expect(checked.counts).toMatchObject({ rows: 2, fresh: 1, invalid: 1, reasons: [{ reason: 'no name', count: 1 }] })
    expect(await download(checked.id)).toContain('no name · fullName: longer than 300 characters')
  })
})

describe('the sample file', () => {
  it('is guessed, checked and imported as it should be', async () => {
    const checked = await check(readFileSync('demo/prospects-sample.csv'))
    expect(checked.counts).toMatchObject({ rows: 14, fresh: 12, known: 0, merged: 1, invalid: 1, dropped: 2 })
    expect(await rows(sql`select 1 from prospects`)).toEqual([])
    const invalidRowsFile = await download(checked.id)
    expect(invalidRowsFile.split('\r\n')[0]).toMatch(/^First name,Last name,.*,Line,Taken,Reason$/)
    expect(invalidRowsFile).toContain('bad email')
    expect(invalidRowsFile).toContain('impossible phone')
    expect(invalidRowsFile).toContain('no name')
    // By the line of the sheet: the headings are the first.
    expect(invalidRowsFile).toMatch(/,10,yes,"?bad email/)
    await runImport(manager, checked.id, { version: checked.version, knownAction: 'skip' })
    await work(checked.id)
    expect(await getImport(manager, checked.id)).toMatchObject({
      status: 'done',
      counts: { added: 12, updated: 0, skipped: 0 },
    })
    expect(
      await rows(sql`
        select first_name, time_zone as "timeZone"
        from prospects
        where last_name in ('Tolliver', 'Brandvold')
        order by 1
      `),
    ).toEqual([
      { first_name: 'Ewan', timeZone: 'Europe/London' },
      { first_name: 'Ottilie', timeZone: 'America/Chicago' },
    ])
    // The row that was merged gave its second address to the person it is.
    expect(
      await rows(
        sql`
          select e.address
          from email_addresses e
            join prospects p on p.id = e.prospect_id
          where p.last_name = 'Zielinska'
          order by e.position
        `,
      ),
    ).toHaveLength(2)
    expect(await rows(sql`select body from notes where body = '=1+1'`)).toHaveLength(1)
    expect(await rows(sql`select count(*)::int as count from events where kind = 'prospectAdded'`)).toEqual([
      { count: 12 },
    ])
    // Everyone who is new waits for a first contact.
    expect(
      await rows(sql`
        select count(*)::int as count
        from tasks
        where kind = 'first_contact' and status = 'open'
      `),
    ).toEqual([{ count: 12 }])
  })
  it('brought again finds everyone known', async () => {
    expect((await bring(readFileSync('demo/prospects-sample.csv'))).counts).toMatchObject({
      fresh: 0,
      known: 12,
      added: 0,
      skipped: 12,
    })
  })
})

describe('people who are known', () => {
  const file = (title: string) =>
    `Name,Title,Email,Phone,Website,Country\nPerpetua Known,${title},other@known.example,,known.example,GB\n`
  it('are found by address, by number, and by name at a company’s domain, but not at a public mail domain', async () => {
    await addProspect(manager, { name: 'Perpetua Known', email: 'perpetua@known.example', phone: '+442079460555' })
    await addProspect(manager, { name: 'Silas Public', email: 'silas@gmail.com' })
    const counts = (
      await check(
        `Name,Email,Phone\nSomeone Else,PERPETUA@known.example,\nAnother Name,,+44 20 7946 0555\nPerpetua Known,,+44 20 7946 0555\nPerpetua Known,new@known.example,\nSilas Public,silas2@gmail.com,\n`,
      )
    ).counts
    // A number alone may be a switchboard’s: the name has to be the same.
    expect(counts).toMatchObject({ known: 3, fresh: 2 })
  })
  it('are left, filled in or overwritten as asked', async () => {
    const title = async () =>
      (await rows<{ title: string | null }>(sql`select title from prospects where last_name = 'Known'`))[0]!.title
    await bring(file('Buyer'), 'skip')
    expect(await title()).toBeNull()
    await bring(file('Buyer'), 'fill')
    expect(await title()).toBe('Buyer')
    await bring(file('Head of buying'), 'fill')
    expect(await title()).toBe('Buyer')
    expect((await bring(file('Head of buying'), 'overwrite')).counts).toMatchObject({ updated: 1, added: 0 })
    expect(await title()).toBe('Head of buying')
    expect(
      await rows(
        sql`
          select count(*)::int as count
          from email_addresses e
            join prospects p on p.id = e.prospect_id
          where p.last_name = 'Known'
        `,
      ),
    ).toEqual([{ count: 2 }])
  })
})

describe('writing', () => {
  afterEach(() => db().query('drop trigger if exists break_it on email_addresses'))
  it('is all or nothing, and can be run again', async () => {
    const checked = await check(
      `Name,Email\n${Array.from({ length: 500 }, (_, index) => `Half ${index},half${index}@half.example`).join('\n')}\n`,
    )
    await db().query(
      `create or replace function break_it() returns trigger language plpgsql as $$ begin raise exception 'the machine stops here'; end $$`,
    )
    await db().query(
      'create trigger break_it before insert on email_addresses for each row execute function break_it()',
    )
    await db().query(sql`alter table email_addresses enable always trigger break_it`)
    await runImport(manager, checked.id, { version: checked.version, knownAction: 'skip' })
    await expect(work(checked.id)).rejects.toThrow('the machine stops here')
    expect(await rows(sql`select 1 from prospects where first_name = 'Half'`)).toEqual([])
    await db().query('drop trigger break_it on email_addresses')
    await work(checked.id)
    await work(checked.id)
    expect(await rows(sql`select 1 from prospects where first_name = 'Half'`)).toHaveLength(500)
    expect((await getImport(manager, checked.id)).counts).toMatchObject({ added: 500, companies: 1 })
  })
  it('comes to the same where the database’s user may not put foreign keys off', async () => {
    const url = process.env.DATABASE_URL!
    const role = `keybound_${randomUUID().slice(0, 8)}`
    await db().query(`create role ${role} login password 'keybound'`)
    await db().query(`grant all on all tables in schema public to ${role}`)
    await db().query(`grant all on all sequences in schema public to ${role}`)
    const checked = await check(
      'Name,Email,Phone,Company,Note\nKay Bound,kay@bound.example,+44 20 7946 0777,Bound Cellars,Met in the rain\n',
    )
    await runImport(manager, checked.id, { version: checked.version, knownAction: 'skip' })
    try {
      await closePool()
      process.env.DATABASE_URL = Object.assign(new URL(url), { username: role, password: 'keybound' }).toString()
      expect(await rows(sql`select has_parameter_privilege('session_replication_role', 'set') as may`)).toEqual([
        { may: false },
      ])
      await work(checked.id)
    } finally {
      await closePool()
      process.env.DATABASE_URL = url
    }
    expect(
      await rows(
        sql`
          select p.last_name, c.name, e.address, n.number, o.body
          from prospects p
            join companies c on c.id = p.company_id
            join email_addresses e on e.prospect_id = p.id
            join phones n on n.prospect_id = p.id
            join notes o on o.prospect_id = p.id
          where p.first_name = 'Kay'
        `,
      ),
    ).toEqual([
      {
        last_name: 'Bound',
        name: 'Bound Cellars',
        address: 'kay@bound.example',
        number: '+442079460777',
        body: 'Met in the rain',
      },
    ])
    await db().query(`drop owned by ${role}`)
    await db().query(`drop role ${role}`)
  })
  it('finds where people are, whose rows come without asking after their keys', async () => {
    await bring('Name,Email,City,State,Country\nOrla Quay,orla@quay.example,Ithaca,NY,US\n')
    expect(
      await rows(sql`
        select x.name
        from prospects p
          join places x on x.id = p.place_id
        where p.first_name = 'Orla'
      `),
    ).toEqual([{ name: 'Ithaca' }])
  })
  it('refuses a stale tab', async () => {
    const checked = await check('Name\nSomeone Stale\n')
    await expect(
      runImport(manager, checked.id, { version: checked.version - 1, knownAction: 'skip' }),
    ).rejects.toMatchObject({ code: 'conflict' })
  })
  it('keeps a rep’s files to the rep', async () => {
    const made = await upload('Name\nSomeone Private\n')
    await expect(getImport(await addUser(), made.id)).rejects.toMatchObject({ code: 'not_found' })
  })
})

describe('what is handed back', () => {
  // OWASP, "CSV Injection": cells that begin so are run by spreadsheets.
  it.each(['=1+1', '+1', '-1', '@x', '\tx', '\rx'])('%j is made harmless', (cell) =>
    expect(harmless(cell)).toBe(`'${cell}`),
  )
  it('leaves other cells alone', () =>
    expect(['a=1', '+12125550144', '+44 161 496 0123'].map(harmless)).toEqual([
      'a=1',
      '+12125550144',
      '+44 161 496 0123',
    ]))
  it('knows a formula that begins like a phone number', () =>
    expect(['+1+cmd|x', '+12125550144+A1', '+1-2'].map(harmless)).toEqual(["'+1+cmd|x", "'+12125550144+A1", "'+1-2"]))
})

interface ImportedRow {
  id: string
  custom: object
  source: string
  postal_code: string | null
  at: string | null
}

describe('what a file brings beyond names and numbers', () => {
  it('goes to custom fields, tags, lists and past touches, and a source by whatever name it has', async () => {
    const rooms = await addField({ of: 'prospect', name: 'Aging rooms', kind: 'number', choices: [], required: false })
    await saveSource('Cold chain fair', { cost: 4800, aliases: ['CCF'] })
    const head = 'Name,Email,Source,Aging rooms,Tags,List,Zip,Touched on,Touch kind'
    const done = await bring(
      [
        head,
        'Wilma Extra,w@extra.example,ccf,4,Two sites; Audit in spring,Spring round,53701,2026-10-02,call',
        'Wilma Extra,w@extra.example,,,,,,2026-10-20,visit',
        'Otto Extra,o@extra.example,New source,,two sites,spring ROUND,,,',
        'Bad Rooms,b@extra.example,,many,,,,,',
        'Bad Day,d@extra.example,,,,,,2026-02-30,',
        'Bad Kind,k@extra.example,,,,,,2026-02-03,pigeon',
      ].join('\n'),
    )
    expect(done.mapping).toMatchObject({
      3: `custom:${rooms.id}`,
      4: 'tags',
      5: 'list',
      6: 'postalCode',
      7: 'touchAt',
      8: 'touchKind',
    })
    expect(done.counts).toMatchObject({ added: 5, invalid: 0, dropped: 3 })
    expect(done.counts.droppedReasons!.map((one) => one.reason).sort()).toEqual([
      'Aging rooms: expected a number',
      'past touch: expected a day like 11/23/2026',
      'past touch: expected call, text, email, meeting, visit',
    ])
    const [wilma, otto] = await rows<ImportedRow>(
      sql`
        select
          id, custom, source, postal_code,
          to_char(last_touch_at at time zone 'America/New_York', 'YYYY-MM-DD HH24:MI') as at
        from prospects
        where last_name = 'Extra'
        order by first_name desc
      `,
    )
    expect(wilma).toMatchObject({
      custom: { [rooms.id]: 4 },
      source: 'Cold chain fair',
      postal_code: '53701',
      at: '2026-10-20 12:00',
    })
    expect(otto).toMatchObject({ custom: {}, source: 'New source', at: null })
    expect(await rows(sql`select kind from touches where prospect_id = $1 order by at`, [wilma!.id])).toEqual([
      { kind: 'call' },
      { kind: 'visit' },
    ])
    expect(
      await rows(
        sql`
          select t.name
          from prospect_tags x
            join tags t on t.id = x.tag_id
          where x.prospect_id = $1
          order by 1
        `,
        [wilma!.id],
      ),
    ).toEqual([{ name: 'Audit in spring' }, { name: 'Two sites' }])
    expect(
      await rows(
        sql`
        select t.name
        from prospect_tags x
          join tags t on t.id = x.tag_id
        where x.prospect_id = $1
      `,
        [otto!.id],
      ),
    ).toEqual([{ name: 'Two sites' }])
    expect(
      await rows(
        sql`
          select l.kind, a.count
          from lists l
            join list_batches a on a.list_id = l.id
          where l.name = 'Spring round'
        `,
      ),
    ).toEqual([{ kind: 'fixed', count: 2 }])
    expect((await listSources()).sources.map((source) => source.name)).toEqual(
      expect.arrayContaining(['Cold chain fair', 'New source']),
    )
  })
  it('is not doubled by bringing the same file again', async () => {
    const file = 'Name,Email,Touched on,Touch kind\nAda Again,ada@again.example,2026-09-01,email\n'
    await bring(file)
    await bring(file, 'fill')
    expect(
      await rows(sql`
        select t.kind
        from touches t
          join prospects p on p.id = t.prospect_id
        where p.last_name = 'Again'
      `),
    ).toEqual([{ kind: 'email' }])
  })
  it('leaves a live list of the same name alone, and finds the list it made before', async () => {
    const live = await addList(manager, { name: 'Autumn round', kind: 'live', filter: 'everyone' })
    await bring('Name,Email,List\nLiv First,liv@first.example,Autumn round\n')
    await bring('Name,Email,List\nLiv Second,liv@second.example,autumn ROUND\n')
    expect(
      await rows(
        sql`
          select
            l.id = $1 as live, l.name, (select count(*)::int from list_members m where m.list_id = l.id) as members
          from lists l
          where lower(l.name) like 'autumn round%'
          order by l.position
        `,
        [live.id],
      ),
    ).toEqual([
      { live: true, name: 'Autumn round', members: 0 },
      { live: false, name: 'Autumn round (from a file)', members: 2 },
    ])
  })
  it('keeps no source of people who are left as they are', async () => {
    await bring('Name,Email\nKnown Already,known@already.example\n')
    await bring('Name,Email,Source\nKnown Already,known@already.example,Never kept\n', 'skip')
    expect((await listSources()).sources.map((source) => source.name)).not.toContain('Never kept')
  })
  it('is no new prospect where it is one’s own contact', async () => {
    const made = await upload('Name,Email\nOwn Contact,own@contact.example\n')
    await checkImport(manager, made.id, {
      version: made.version,
      mapping: made.mapping,
      knownAction: 'skip',
      ownContacts: true,
    })
    await work(made.id)
    await runImport(manager, made.id, { version: (await getImport(manager, made.id)).version, knownAction: 'skip' })
    await work(made.id)
    expect(
      await rows(sql`select own_contact, relationship_owner_id from prospects where last_name = 'Contact'`),
    ).toEqual([{ own_contact: true, relationship_owner_id: manager.id }])
    const names = async (filter: string) =>
      (await findPeople(manager, { filter, columns: [], sort: null, limit: 100 })).people.map((person) => person.name)
    expect(await names('new is yes')).toContain('Ada Again')
    expect(await names('new is yes')).not.toContain('Own Contact')
    expect(await names('new is no')).toContain('Own Contact')
  })
  it('is read the way that was kept under a name', async () => {
    const made = await upload('Who,Where to write\nKept Way,kept@way.example\n')
    const { id } = await saveMapping({
      name: 'The fair’s own file',
      headings: made.headings,
      mapping: { 0: 'fullName', 1: 'email' },
    })
    expect(
      (await saveMapping({ name: 'the fair’s OWN file', headings: made.headings, mapping: { 0: 'fullName' } })).id,
    ).toBe(id)
    expect((await listMappings()).mappings).toMatchObject([
      { id, headings: ['Who', 'Where to write'], mapping: { 0: 'fullName' } },
    ])
    await removeMapping(id)
    await expect(removeMapping(id)).rejects.toMatchObject({ code: 'not_found' })
  })
})

describe('a source', () => {
  it('takes over what came under its aliases, and can be deleted only when no prospect has it', async () => {
    await bring('Name,Email,Source\nSam Spring,s@spring.example,Spring list\n')
    expect(await saveSource('Bought list, spring', { cost: 950, aliases: ['spring LIST', ' '] })).toEqual({ people: 1 })
    expect((await listSources()).sources.find((source) => source.name === 'Bought list, spring')).toMatchObject({
      cost: 950,
      aliases: ['spring LIST'],
      people: 1,
    })
    expect((await listSources()).sources.map((source) => source.name)).not.toContain('Spring list')
    await expect(removeSource('Bought list, spring')).rejects.toMatchObject({ code: 'refused' })
    await expect(saveSource('Another', { cost: 0, aliases: ['Spring List'] })).rejects.toMatchObject({
      code: 'conflict',
      problems: [{ field: 'aliases' }],
    })
  })
})

describe('people of a file', () => {
  it('without a country are placed by their state, then their number, then the team; and better once a file says more', async () => {
    const done = await bring(
      'Name,Email,State,Phone,Country\nIda Holm,ida@placed.example,Colorado,,\nUlf Berg,ulf@placed.example,,(541) 555-0117,\nMia Falk,mia@placed.example,,,\nKei Abe,kei@placed.example,,,Japan\n',
    )
    expect(done.counts).toMatchObject({ added: 4, invalid: 0 })
    const placed = () =>
      rows(
        sql`
          select first_name, country, time_zone as "timeZone", time_zone_from
          from prospects p
            join email_addresses e on e.prospect_id = p.id
          where e.address like '%@placed.example'
          order by first_name
        `,
      )
    expect(await placed()).toEqual([
      { first_name: 'Ida', country: 'US', timeZone: 'America/Denver', time_zone_from: 'address' },
      { first_name: 'Kei', country: 'JP', timeZone: 'Asia/Tokyo', time_zone_from: 'address' },
      { first_name: 'Mia', country: 'US', timeZone: 'America/New_York', time_zone_from: 'guess' },
      { first_name: 'Ulf', country: 'US', timeZone: 'America/Los_Angeles', time_zone_from: 'number' },
    ])
    await bring('Name,Email,State\nMia Falk,mia@placed.example,Hawaii\n', 'fill')
    expect((await placed())[2]).toEqual({
      first_name: 'Mia',
      country: 'US',
      timeZone: 'Pacific/Honolulu',
      time_zone_from: 'address',
    })
  })
})

describe('what an import may see and change', () => {
  it('a phone number alone does not match a prospect: it may be a switchboard’s', async () => {
    const done = await bring(
      'Name,Company,Phone\nEdda Voss,Kesselhof,(608) 555-0190\nNils Brandt,Kesselhof,(608) 555-0190\nEdda Voss,Kesselhof,(608) 555-0190\n',
    )
    expect(done.counts).toMatchObject({ added: 2 })
    expect((await bring('Name,Phone\nPia Lund,(608) 555-0190\nEdda Voss,(608) 555-0190\n')).counts).toMatchObject({
      added: 1,
      known: 1,
    })
  })
  it('a rep’s import neither changes nor reveals a colleague’s prospects; a manager reads why', async () => {
    const [rep, colleague] = [await addUser('rep', 'Own Er'), await addUser('rep', 'Col League')]
    const {
      ids: [theirs],
      companyId,
    } = await addPeople(1, colleague.id, 'Hidden Dairy')
    const [contact] = await rows<{ address: string; number: string }>(
      sql`
        select e.address, n.number
        from email_addresses e
          join phones n on n.prospect_id = e.prospect_id
        where e.prospect_id = $1
      `,
      [theirs],
    )
    const file = `Name,Email,Phone,Title,Company,Industry\nTomas Bellweather 1,${contact!.address},,Thief,,\nTomas Bellweather 1,,${contact!.number},Other,Hidden Dairy,Stolen\nNew Person,new@own.example,,Owner,,\n`
    const uploaded = await uploadImport(rep, 'mine.csv', Readable.from([Buffer.from(file)]))
    await checkImport(rep, uploaded.id, {
      version: uploaded.version,
      mapping: uploaded.mapping,
      knownAction: 'overwrite',
    })
    await work(uploaded.id)
    const checked = await getImport(rep, uploaded.id)
    expect(checked.counts).toMatchObject({
      rows: 3,
      known: 0,
      invalid: 1,
      fresh: 2,
      reasons: [{ reason: 'you may not import this person; a manager can', count: 1 }],
    })
    await runImport(rep, uploaded.id, { version: checked.version, knownAction: 'overwrite' })
    await work(uploaded.id)
    expect(await rows(sql`select title from prospects where id = $1`, [theirs])).toEqual([{ title: null }])
    expect(await rows(sql`select industry from companies where id = $1`, [companyId])).toEqual([{ industry: null }])
    let text = ''
    for await (const part of invalidRows(rep, uploaded.id)) text += part
    expect(text).toContain('you may not import this person')
  })
  it('what it changes of known people is in their activity, with the fields', async () => {
    const {
      ids: [id],
    } = await addPeople(1, null, 'Journal Dairy')
    const [{ address }] = (await rows<{ address: string }>(
      sql`select address from email_addresses where prospect_id = $1`,
      [id],
    )) as [{ address: string }]
    const done = await bring(`Name,Email,Title,City\nTomas Bellweather 1,${address},Owner,Ithaca\n`, 'overwrite')
    expect(done.counts).toMatchObject({ updated: 1 })
    expect(
      await rows(sql`select kind, payload -> 'fields' as fields from events where prospect_id = $1`, [id]),
    ).toEqual([{ kind: 'prospectEdited', fields: ['title', 'city'] }])
    // The same file again changes nothing, and says so.
    expect(
      (await bring(`Name,Email,Title,City\nTomas Bellweather 1,${address},Owner,Ithaca\n`, 'overwrite')).counts,
    ).toMatchObject({ updated: 0, skipped: 1 })
    expect(await rows(sql`select kind from events where prospect_id = $1`, [id])).toHaveLength(1)
  })
})

describe('files as programs write them', () => {
  it('say their delimiter in a line of their own', async () => {
    const { headings, mapping } = await upload('sep=;\r\nName;Email\r\nSep Line;sep@line.example\r\n')
    expect([headings, mapping]).toEqual([['Name', 'Email'], { 0: 'fullName', 1: 'email' }])
  })
  it('hold a letter of Windows-1252 after much plain text', async () => {
    const filler = Array.from({ length: 3_000 }, (_, n) => `Plain Person${n},plain${n}@late.example,Oxbow\n`).join('')
    const done = await bring(
      Buffer.concat([
        Buffer.from(`Name,Email,Company\n${filler}`),
        Buffer.from('J\xF6rg Sp\xE4t,joerg@late.example,Oxbow\n', 'latin1'),
      ]),
    )
    expect(done.counts).toMatchObject({ added: 3_001 })
    expect(
      await rows(
        sql`
          select first_name, last_name
          from prospects p
            join email_addresses e on e.prospect_id = p.id
          where e.address = 'joerg@late.example'
        `,
      ),
    ).toEqual([{ first_name: 'Jörg', last_name: 'Spät' }])
  }, 60_000)
  it('with a quote that is never closed are refused with its row', async () => {
    const file = 'Name,Email\nAna,ana@x.example\n"Ben,ben@x.example\nCy,cy@x.example\n'
    await expect(upload(file)).rejects.toMatchObject({
      code: 'invalid',
      message: expect.stringContaining('row 3') as string,
    })
  })
  it('that were never run are deleted after a week, and the import says so', async () => {
    const { id } = await upload('Name,Email\nAna,ana@old.example\n')
    await db().query(sql`update imports set created_at = world_now() - interval '8 days' where id = $1`, [id])
    expect(await deleteOldUploads()).toBeGreaterThan(0)
    expect(await getImport(manager, id)).toMatchObject({
      status: 'failed',
      problem: expect.stringContaining('was deleted') as string,
    })
    expect(await rows(sql`select 1 from import_chunks where import_id = $1`, [id])).toEqual([])
  })
})

describe('cards', () => {
  it('need no N (RFC 6350, 6.2.2)', async () => {
    const done = await bring('BEGIN:VCARD\r\nVERSION:4.0\r\nFN:Only Named\r\nEMAIL:only@named.example\r\nEND:VCARD\r\n')
    expect(done.counts).toMatchObject({ added: 1, reasons: [] })
    expect(
      await rows(
        sql`
          select first_name, last_name
          from prospects p
            join email_addresses e on e.prospect_id = p.id
          where e.address = 'only@named.example'
        `,
      ),
    ).toEqual([{ first_name: 'Only', last_name: 'Named' }])
  })
  // The example of RFC 6350, section 7.1.2, shortened, and one of vCard 3.0 (RFC 2426, section 7) with a folded line.
  const CARDS = [
    'BEGIN:VCARD',
    'VERSION:4.0',
    'FN:Simon Perreault',
    'N:Perreault;Simon;;;ing. jr,M.Sc.',
    'ORG;TYPE=work:Viagenie',
    'TITLE:Shareholder',
    'ADR;TYPE=work:;Suite D2-630;2875 Laurier;Quebec;QC;G1V 2M2;CA',
    'TEL;VALUE=uri;TYPE="work,voice";PREF=1:tel:+1-418-656-9254;ext=102',
    'TEL;VALUE=uri;TYPE="work,cell,voice,video,text":tel:+1-418-262-6501',
    'EMAIL;TYPE=work:simon.perreault@viagenie.example',
    'CATEGORIES:Standards,Mail',
    'END:VCARD',
    'BEGIN:VCARD',
    'VERSION:3.0',
    'FN:Frank Dawson',
    'N:Dawson;Frank',
    'ORG:Lotus Development Corporation',
    'TEL;TYPE=VOICE,MSG,WORK:+1-919-676-9515',
    'EMAIL;TYPE=INTERNET,PREF:Frank_Dawson@lotus.example',
    'NOTE:Writes long not',
    ' es',
    'END:VCARD',
    '',
  ].join('\r\n')
  it('of versions 3 and 4 are imported like any file', async () => {
    const done = await bring(CARDS)
    expect(done.counts).toMatchObject({ added: 2 })
    expect(
      await rows(
        sql`
          select
            p.first_name, p.last_name, p.title, p.city, p.region, p.postal_code, p.country, c.name as company,
            (select array_agg(number order by position) from phones n where n.prospect_id = p.id) as numbers,
            (select address from email_addresses e where e.prospect_id = p.id) as email
          from prospects p
            join companies c on c.id = p.company_id
          where p.last_name in ('Perreault', 'Dawson')
          order by 2
        `,
      ),
    ).toEqual([
      {
        first_name: 'Frank',
        last_name: 'Dawson',
        title: null,
        city: null,
        region: null,
        postal_code: null,
        country: 'US',
        company: 'Lotus Development Corporation',
        numbers: ['+19196769515'],
        email: 'frank_dawson@lotus.example',
      },
      {
        first_name: 'Simon',
        last_name: 'Perreault',
        title: 'Shareholder',
        city: 'Quebec',
        region: 'QC',
        postal_code: 'G1V 2M2',
        country: 'CA',
        company: 'Viagenie',
        numbers: ['+14186569254', '+14182626501'],
        email: 'simon.perreault@viagenie.example',
      },
    ])
    expect(
      await rows(sql`
        select n.body
        from notes n
          join prospects p on p.id = n.prospect_id
        where p.last_name = 'Dawson'
      `),
    ).toEqual([{ body: 'Writes long notes' }])
  })
  it('that go out are read back as the same people', async () => {
    let text = ''
    for await (const part of await exportPeople(manager, {
      filter: 'name contains "Perreault"',
      columns: '',
      format: 'vcard',
    })) {
      text += part
    }
    // Version first, lines folded at 75 octets, CRLF (RFC 6350, sections 3.2 and 6.7.9).
    expect(text).toMatch(/^BEGIN:VCARD\r\nVERSION:4\.0\r\n/)
    expect(text.split('\r\n').every((line) => Buffer.byteLength(line) <= 75)).toBe(true)
    const read = new ICAL.Component(ICAL.parse(text) as never)
    expect(['fn', 'title', 'org', 'email'].map((name) => read.getFirstPropertyValue(name))).toEqual([
      'Simon Perreault',
      'Shareholder',
      'Viagenie',
      'simon.perreault@viagenie.example',
    ])
    expect(read.getAllProperties('tel').map((property) => property.getFirstValue())).toEqual([
      'tel:+14186569254',
      'tel:+14182626501',
    ])
    expect(read.getFirstProperty('categories')!.getValues()).toEqual(['Mail', 'Standards'])
    const again = await check(text)
    expect(again.counts).toMatchObject({ rows: 1, known: 1, invalid: 0 })
  })
  it('that are broken are refused', async () => {
    await expect(upload('BEGIN:VCARD\nVERSION:4.0\nFN:Half a card\n')).rejects.toMatchObject({ code: 'invalid' })
  })
})

describe('a file of companies', () => {
  it('is recognized by its columns, imports companies alone, and matches existing ones by website or name', async () => {
    const { id: stores } = await addField({
      of: 'company',
      name: 'Stores',
      kind: 'choices',
      choices: ['soft', 'hard'],
      required: false,
    })
    const file = (size: number) =>
      `Company,Website,Industry,Employees,City,State,Country,Stores,Note\nYew Creamery,yew.example,cheese,"${size}",Ithaca,NY,US,hard; soft,Asked at the fair\nYew Dairy,https://www.yew.example/about,,,,,,,\nOsier Vaults,,,40,,,,,\n,,,5,,,,,\nHexley,,,many,,,,,\n`
    const checked = await check(file(120))
    expect(checked.mapping).toMatchObject({
      0: 'company',
      1: 'domain',
      2: 'industry',
      3: 'companySize',
      7: `company:custom:${stores}`,
    })
    expect(checked.counts).toMatchObject({ rows: 5, fresh: 3, known: 0, merged: 1, invalid: 1, dropped: 1 })
    expect(await download(checked.id)).toMatch(/no company[^]*company size: expected a whole number/)
    expect((await bring(file(120))).counts).toMatchObject({ added: 3, updated: 0, companies: 3 })
    const yew = () =>
      rows(
        sql`
          select
            c.name, c.industry, c.size, c.city, c.custom -> $1 as stores,
            (select count(*) from prospects p where p.company_id = c.id)::int as people,
            (select array_agg(body) from company_notes n where n.company_id = c.id) as notes, x.name as place
          from companies c
            left join places x on x.id = c.place_id
          where c.domain = 'yew.example'
        `,
        [stores],
      )
    expect(await yew()).toEqual([
      {
        name: 'Yew Creamery',
        industry: 'cheese',
        size: 120,
        city: 'Ithaca',
        stores: ['soft', 'hard'],
        people: 0,
        notes: ['Asked at the fair'],
        place: 'Ithaca',
      },
    ])
    expect((await bring(file(130))).counts).toMatchObject({ added: 0, skipped: 3 })
    expect(
      (
        await bring(
          'Company,Website,Industry,Size\nYew,yew.example,dairy,130\nOsier Vaults,osier.example,vaults,41\n',
          'fill',
        )
      ).counts,
    ).toMatchObject({ updated: 2, added: 0 })
    expect((await yew())[0]).toMatchObject({ industry: 'cheese', size: 120 })
    expect(await rows(sql`select industry, size, domain from companies where name = 'Osier Vaults'`)).toEqual([
      { industry: 'vaults', size: 40, domain: 'osier.example' },
    ])
    await bring('Company,Website,Industry,Size\nYew,yew.example,dairy,130\n', 'overwrite')
    expect((await yew())[0]).toMatchObject({ industry: 'dairy', size: 130, name: 'Yew Creamery' })
  })
  it('of people says the same of the companies it makes', async () => {
    await bring('Name,Company,Email,Industry,Employees\nPetra Ash,Birchover,petra@birchover.example,archives,12\n')
    const birchover = () => rows(sql`select industry, size, city from companies where domain = 'birchover.example'`)
    expect(await birchover()).toEqual([{ industry: 'archives', size: 12, city: null }])
    const more = (name: string) =>
      `Name,Company,Email,Industry,Employees,City\n${name},Birchover,${name.toLowerCase()}@birchover.example,museums,15,Ely\n`
    await bring(more('Quentin'), 'skip')
    await bring(more('Ronja'), 'fill')
    expect(await birchover()).toEqual([{ industry: 'archives', size: 12, city: null }])
    await bring(more('Sigrid'), 'overwrite')
    expect(await birchover()).toEqual([{ industry: 'museums', size: 15, city: null }])
  })
  it('that names neither people nor companies is refused at its columns', async () => {
    const made = await upload('Company,Email\nYew,a@yew.example\n')
    const { mapping } = checkEndpoint.body.shape
    expect(mapping.safeParse(made.mapping).success).toBe(false)
    expect(mapping.safeParse({ 0: 'company' }).success).toBe(true)
  })
})

interface PlacedRow {
  first_name: string
  country: string
  custom: Record<string, unknown>
  phones: number
}

describe('an ordinary American file', () => {
  it('is read whole: dates with the month first, countries by name, money with its sign; a bad cell costs the cell', async () => {
    const until = await addField({ of: 'prospect', name: 'Contract until', kind: 'date', choices: [], required: false })
    const spend = await addField({ of: 'prospect', name: 'Spend', kind: 'money', choices: [], required: false })
    const done = await bring(
      [
        'Name,Email,Phone,Country,State,Contract until,Spend',
        'Una Plain,una@plain.example,(607) 555-0111,USA,NY,12/31/2026,"$1,250"',
        'Due Plain,due@plain.example,(607) 555-0112,United States,New York,1/5/2027,about 5',
        'Tre Plain,tre@@plain,(607) 555-0113,Atlantis,NY,Dec 1 2026,900',
      ].join('\n'),
    )
    expect(done.counts).toMatchObject({ added: 3, invalid: 0, dropped: 2 })
    expect(done.counts.droppedReasons!.map((one) => one.reason).sort()).toEqual([
      'Spend: expected a number',
      'bad email',
      'unknown country',
    ])
    const people = await rows<PlacedRow>(
      sql`
        select
          p.first_name, p.country, p.custom,
          (select count(*)::int from phones n where n.prospect_id = p.id) as phones
        from prospects p
        where last_name = 'Plain'
        order by 1
      `,
    )
    expect(people).toEqual([
      { first_name: 'Due', country: 'US', custom: { [until.id]: '2027-01-05' }, phones: 1 },
      { first_name: 'Tre', country: 'US', custom: { [until.id]: '2026-12-01', [spend.id]: 900 }, phones: 1 },
      { first_name: 'Una', country: 'US', custom: { [until.id]: '2026-12-31', [spend.id]: 1250 }, phones: 1 },
    ])
  })
  it('cleans up names so that emails can greet by them, says which beforehand, and keeps what the file had', async () => {
    const file = [
      'Name,Email',
      'Dr. INES CLEANED,ines@cleaned.example',
      'colin cleaned,colin@cleaned.example',
      'DeShawn Cleaned,deshawn@cleaned.example',
    ].join('\n')
    const names = () =>
      rows<{ name: string }>(
        sql`
          select first_name || ' ' || last_name as name
          from prospects
          where last_name ilike 'cleaned'
          order by 1
        `,
      )
    const done = await bring(file)
    expect(done.counts).toMatchObject({
      added: 3,
      renamed: 2,
      renames: [
        { was: 'Dr. INES CLEANED', is: 'Ines Cleaned' },
        { was: 'colin cleaned', is: 'Colin Cleaned' },
      ],
    })
    expect((await names()).map((row) => row.name)).toEqual(['Colin Cleaned', 'DeShawn Cleaned', 'Ines Cleaned'])
    const ines = await firstRow(
      db().query<{ id: string }>(sql`select id from prospects where first_name = 'Ines' and last_name = 'Cleaned'`),
    )
    expect((await history(manager, ines!.id, 10)).find((entry) => entry.kind === 'prospectAdded')!.body).toBe(
      'Name: Dr. INES CLEANED → Ines Cleaned',
    )
    // Asked to, it leaves them as they are.
    const uploaded = await uploadImport(
      manager,
      'written.csv',
      Readable.from([Buffer.from('Name,Email\nDr. OTTO WRITTEN,otto@written.example')]),
    )
    await checkImport(manager, uploaded.id, {
      version: uploaded.version,
      mapping: uploaded.mapping,
      knownAction: 'skip',
      whole: { keepNames: true },
    })
    await work(uploaded.id)
    await runImport(manager, uploaded.id, {
      version: (await getImport(manager, uploaded.id)).version,
      knownAction: 'skip',
    })
    await work(uploaded.id)
    expect(await rows(sql`select first_name, last_name from prospects where last_name = 'WRITTEN'`)).toEqual([
      { first_name: 'Dr. OTTO', last_name: 'WRITTEN' },
    ])
  })
  it('says before which tags, sources and lists are new, and adds a note only once', async () => {
    await saveSource('Known fair', { cost: 0, aliases: ['KF 26'] })
    await addList(manager, { name: 'Known list', kind: 'fixed' })
    const file =
      'Name,Email,Source,Tags,List,Notes,State,Country\nAda News,ada@news.example,kf 26,"Paper charts, Three sites",known list,Two rooms,Vermont,US\nBo News,bo@news.example,New fair,paper charts,New list,,US-VT,\n'
    const checked = await check(file, 'fill')
    expect(checked.counts.news).toEqual([
      { kind: 'tag', count: 2, names: ['Paper charts', 'Three sites'] },
      { kind: 'source', count: 1, names: ['New fair'] },
      { kind: 'list', count: 1, names: ['New list'] },
    ])
    await bring(file, 'fill')
    expect((await check(file, 'fill')).counts.news).toEqual([])
    await bring(file, 'fill')
    const notes = await rows(
      sql`
        select n.body
        from notes n
          join email_addresses e on e.prospect_id = n.prospect_id
        where e.address = 'ada@news.example'
      `,
    )
    expect(notes).toEqual([{ body: 'Two rooms' }])
    // One region, however the file writes it.
    expect(
      await rows(
        sql`
          select distinct region
          from prospects p
            join email_addresses e on e.prospect_id = p.id
          where e.address like '%@news.example'
        `,
      ),
    ).toEqual([{ region: 'VT' }])
  })
  it('takes source, tags, list and owners in turn for the whole file, and keeps companies together', async () => {
    const owners = [await addUser('rep', 'Whole One'), await addUser('rep', 'Whole Two')]
    const people = Array.from(
      { length: 40 },
      (_, index) => `P${index} Whole,p${index}@firm${index % 10}-whole.example,,`,
    )
    const uploaded = await uploadImport(
      manager,
      'whole.csv',
      Readable.from([
        Buffer.from(['Name,Email,Source,Tags', ...people, 'Own Whole,own@solo-whole.example,Web,vip'].join('\n')),
      ]),
    )
    await checkImport(manager, uploaded.id, {
      version: uploaded.version,
      mapping: uploaded.mapping,
      knownAction: 'skip',
      ownerIds: owners.map((owner) => owner.id),
      whole: { source: 'Spring fair', tags: ['Fair'], list: 'Fair list' },
    })
    await work(uploaded.id)
    await runImport(manager, uploaded.id, {
      version: (await getImport(manager, uploaded.id)).version,
      knownAction: 'skip',
    })
    await work(uploaded.id)
    expect(
      await rows(
        sql`
          select count(*)::int as people, count(distinct owner_id)::int as owners
          from prospects
          where last_name = 'Whole'
        `,
      ),
    ).toEqual([{ people: 41, owners: 2 }])
    expect(
      await rows(
        sql`
          select count(*)::int as split
          from (
            select company_id
            from prospects
            where last_name = 'Whole'
            group by 1
            having count(distinct owner_id) > 1
          ) s
        `,
      ),
    ).toEqual([{ split: 0 }])
    expect(
      await rows(
        sql`
          select
            p.source,
            array(
              select t.name
              from prospect_tags x
                join tags t on t.id = x.tag_id
              where x.prospect_id = p.id
              order by 1
            ) as tags
          from prospects p
          where first_name in ('P0', 'Own') and last_name = 'Whole'
          order by first_name
        `,
      ),
    ).toEqual([
      { source: 'Web', tags: ['Fair', 'vip'] },
      { source: 'Spring fair', tags: ['Fair'] },
    ])
    expect(
      await rows(
        sql`
          select count(*)::int as count
          from list_members m
            join lists l on l.id = m.list_id
          where l.name = 'Fair list'
        `,
      ),
    ).toEqual([{ count: 41 }])
  })
})
