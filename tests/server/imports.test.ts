import { readFileSync } from 'node:fs'
import { Readable } from 'node:stream'
import spectrum from 'csv-spectrum'
import iconv from 'iconv-lite'
import { afterEach, beforeAll, describe, expect, it } from 'vitest'
import { readRows } from '../../server/imports/rows'
import { runImport as work } from '../../server/imports/run'
import { addProspect } from '../../server/services/prospects'
import { harmless } from '../../core/text/columns'
import { checkImport, getImport, runImport, uploadImport, wrongRows } from '../../server/services/imports'
import type { Viewer } from '../../server/services/sessions'
import { db } from '../../server/db/pool'
import { addUser, rows, startWorld } from '../world/people'

let manager: Viewer
beforeAll(async () => {
  await startWorld()
  manager = await addUser('manager', 'Maren Holloway')
})

const upload = (content: string | Buffer, name = 'people.csv') => uploadImport(manager, name, Readable.from([Buffer.from(content)]))
async function check(content: string | Buffer, known: 'skip' | 'fill' | 'overwrite' = 'skip') {
  const made = await upload(content)
  await checkImport(manager, made.id, { version: made.version, mapping: made.mapping, knownAction: known })
  await work(made.id)
  return getImport(manager, made.id)
}
async function bring(content: string | Buffer, known: 'skip' | 'fill' | 'overwrite' = 'skip') {
  const checked = await check(content, known)
  await runImport(manager, checked.id, { version: checked.version, knownAction: known })
  await work(checked.id)
  return getImport(manager, checked.id)
}
const download = async (id: string) => {
  let text = ''
  for await (const part of wrongRows(manager, id)) text += part
  return text
}

describe('reading files', () => {
  it('reads every case of csv-spectrum (RFC 4180)', async () => {
    const cases = await new Promise<{ name: string, csv: Buffer, json: Buffer }[]>((resolve, reject) => spectrum((error: Error | null, all: { name: string, csv: Buffer, json: Buffer }[]) => error ? reject(error) : resolve(all)))
    expect(cases.length).toBeGreaterThan(8)
    for (const { name, csv, json } of cases) {
      // Its JSON holds another phone number than its CSV, and is no list.
      if (name === 'location_coordinates') continue
      const read: string[][] = []
      const dialect = { encoding: 'utf8', bom: 0, delimiter: ',', headed: true } as const
      for await (const rows of readRows(Readable.from([csv]), dialect)) read.push(...rows)
      const [headings, ...body] = read
      const objects = body.map(row => Object.fromEntries(headings!.map((heading, index) => [heading, row[index]])))
      expect(objects, name).toEqual(JSON.parse(json.toString('utf8')))
    }
  })
  it.each([['UTF-8 with a mark', 'utf8', '\ufeff'], ['UTF-16 little', 'utf16-le', '\ufeff'], ['UTF-16 big', 'utf16-be', '\ufeff'], ['UTF-16 without a mark', 'utf16-le', ''], ['Windows-1252', 'win1252', '']])('reads %s, semicolons and CRLF', async (_, encoding, mark) => {
    const made = await upload(iconv.encode(`${mark}Name;Email;Ort\r\nJörg Köhler;joerg@k.example;Köln\r\n`, encoding))
    expect(made.headings).toEqual(['Name', 'Email', 'Ort'])
    expect(made.samples[0]).toEqual(['Jörg Köhler', 'joerg@k.example', 'Köln'])
    expect(made.mapping).toEqual({ 0: 'fullName', 1: 'email', 2: 'city' })
  })
  it.each([['nothing', Buffer.alloc(0), 'The file is empty'], ['a picture', Buffer.from('89504e470d0a1a0a0000000d49484452000000', 'hex'), 'This is not a text file'], ['only headings', 'Name,Email\n', 'headings but no rows'], ['600 columns', `${Array.from({ length: 600 }, (_, index) => `c${index}`).join()}\n1`, '600 columns']])('refuses %s with a sentence, and keeps nothing', async (_, content, sentence) => {
    const before = await rows('select id from imports')
    await expect(upload(content)).rejects.toMatchObject({ code: 'invalid', message: expect.stringContaining(sentence) as string })
    expect(await rows('select id from imports')).toEqual(before)
  })
  it('takes 200 columns, headings that are the same, and a cell of 2 MB', async () => {
    const headings = ['Name', 'Email', 'Email', ...Array.from({ length: 197 }, (_, index) => `Extra ${index}`)]
    const checked = await check(`${headings.join()}\nPetra Big,p.big@x.example,other,${'x'.repeat(2_000_000)}\n${'y'.repeat(2_000_000)},q@x.example\n`)
    expect(checked.headings.slice(0, 3)).toEqual(['Name', 'Email', 'Email (2)'])
    expect(checked.counts).toMatchObject({ rows: 2, fresh: 1, wrong: 1, reasons: [{ reason: 'fullName: longer than 300 characters', count: 1 }] })
  })
})

describe('the sample file', () => {
  it('is guessed, judged and brought in as it should be', async () => {
    const checked = await check(readFileSync('demo/prospects-sample.csv'))
    expect(checked.counts).toMatchObject({ rows: 14, fresh: 10, known: 0, merged: 1, wrong: 3 })
    expect(await rows('select 1 from prospects')).toEqual([])
    const wrong = await download(checked.id)
    expect(wrong.split('\r\n')[0]).toMatch(/^First name,Last name,.*,Row,Reason$/)
    expect(wrong).toContain('bad email')
    expect(wrong).toContain('impossible phone')
    expect(wrong).toContain('no name')
    await runImport(manager, checked.id, { version: checked.version, knownAction: 'skip' })
    await work(checked.id)
    expect(await getImport(manager, checked.id)).toMatchObject({ state: 'done', counts: { added: 10, updated: 0, skipped: 0 } })
    expect(await rows(`select first_name, zone from prospects where last_name in ('Tolliver', 'Brandvold') order by 1`)).toEqual([{ first_name: 'Ewan', zone: 'Europe/London' }, { first_name: 'Ottilie', zone: 'America/Chicago' }])
    // The row that was merged gave its second address to the person it is.
    expect(await rows(`select e.address from emails e join prospects p on p.id = e.prospect_id where p.last_name = 'Zielinska' order by e.position`)).toHaveLength(2)
    expect(await rows(`select body from notes where body = '=1+1'`)).toHaveLength(1)
    expect(await rows(`select count(*)::int as count from happenings where kind = 'prospectAdded'`)).toEqual([{ count: 10 }])
  })
  it('brought again finds everybody known', async () => {
    expect((await bring(readFileSync('demo/prospects-sample.csv'))).counts).toMatchObject({ fresh: 0, known: 10, added: 0, skipped: 10 })
  })
})

describe('people who are known', () => {
  const file = (title: string) => `Name,Title,Email,Phone,Website,Country\nPerpetua Known,${title},other@known.example,,known.example,GB\n`
  it('are found by address, by number, and by name at a company’s domain, but not at a public mail domain', async () => {
    await addProspect(manager, { name: 'Perpetua Known', email: 'perpetua@known.example', phone: '+442079460555' })
    await addProspect(manager, { name: 'Silas Public', email: 'silas@gmail.com' })
    const counts = (await check(`Name,Email,Phone\nSomebody Else,PERPETUA@known.example,\nAnother Name,,+44 20 7946 0555\nPerpetua Known,new@known.example,\nSilas Public,silas2@gmail.com,\n`)).counts
    expect(counts).toMatchObject({ known: 3, fresh: 1 })
  })
  it('are left, filled in or overwritten as asked', async () => {
    const title = async () => (await rows<{ title: string | null }>(`select title from prospects where last_name = 'Known'`))[0]!.title
    await bring(file('Buyer'), 'skip')
    expect(await title()).toBeNull()
    await bring(file('Buyer'), 'fill')
    expect(await title()).toBe('Buyer')
    await bring(file('Head of buying'), 'fill')
    expect(await title()).toBe('Buyer')
    expect((await bring(file('Head of buying'), 'overwrite')).counts).toMatchObject({ updated: 1, added: 0 })
    expect(await title()).toBe('Head of buying')
    expect(await rows(`select count(*)::int as count from emails e join prospects p on p.id = e.prospect_id where p.last_name = 'Known'`)).toEqual([{ count: 2 }])
  })
})

describe('writing', () => {
  afterEach(() => db().query('drop trigger if exists break_it on emails'))
  it('is all or nothing, and can be run again', async () => {
    const checked = await check(`Name,Email\n${Array.from({ length: 500 }, (_, index) => `Half ${index},half${index}@half.example`).join('\n')}\n`)
    await db().query(`create or replace function break_it() returns trigger language plpgsql as $$ begin raise exception 'the machine stops here'; end $$`)
    await db().query('create trigger break_it before insert on emails for each row execute function break_it()')
    await runImport(manager, checked.id, { version: checked.version, knownAction: 'skip' })
    await expect(work(checked.id)).rejects.toThrow('the machine stops here')
    expect(await rows(`select 1 from prospects where first_name = 'Half'`)).toEqual([])
    await db().query('drop trigger break_it on emails')
    await work(checked.id)
    await work(checked.id)
    expect(await rows(`select 1 from prospects where first_name = 'Half'`)).toHaveLength(500)
    expect((await getImport(manager, checked.id)).counts).toMatchObject({ added: 500, companies: 1 })
  })
  it('refuses a stale tab', async () => {
    const checked = await check('Name\nSomebody Stale\n')
    await expect(runImport(manager, checked.id, { version: checked.version - 1, knownAction: 'skip' })).rejects.toMatchObject({ code: 'conflict' })
  })
  it('keeps a rep’s files to the rep', async () => {
    const made = await upload('Name\nSomebody Private\n')
    await expect(getImport(await addUser(), made.id)).rejects.toMatchObject({ code: 'not_found' })
  })
})

describe('what is handed back', () => {
  // OWASP, "CSV Injection": cells that begin so are run by spreadsheets.
  it.each(['=1+1', '+1', '-1', '@x', '\tx', '\rx'])('%j is made harmless', cell => expect(harmless(cell)).toBe(`'${cell}`))
  it('leaves other cells alone', () => expect(harmless('a=1')).toBe('a=1'))
})
