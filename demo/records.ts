import { randomUUID } from 'node:crypto'
import { Readable } from 'node:stream'
import { db } from '../server/db/pool'
import { runImport as work } from '../server/imports/run'
import { checkImport, getImport, runImport, uploadImport } from '../server/services/imports/imports'
import { saveMapping } from '../server/services/imports/importMappings'
import { mergeProspects } from '../server/services/duplicates/merges'
import { addNote, pinNote } from '../server/services/prospects/notes'
import { editPhone } from '../server/services/prospects/phones'
import { addProspect } from '../server/services/prospects/addProspect'
import { addCompanyLink, addCompanyNote } from '../server/services/companies/research'
import { saveSource } from '../server/services/fields/sources'
import type { Viewer } from '../server/services/access/viewer'
import { seeded } from './seeded'
import { firstRow, sql } from '../server/db/sql'

const DAY = 86_400_000
const FOUND = [
  'Two aging rooms, both on paper charts; the cooper keeps the book.',
  'They were audited in March and had to throw away a vat.',
  'Opening a second site next spring, says their newsletter.',
  'The owner’s daughter runs the store and decides on what is bought.',
  'Their cold store is rented; ask who pays for the loggers.',
]
const PINNED = [
  'Only before ten: the cellar has no reception.',
  'Ask for Wilma at the desk, she puts one through.',
  'Had a bad time with the last supplier. Listen first.',
]

/**
 * What a team writes down over a year: research, pinned notes, tags of numbers, costs of sources, touches of before.
 */
export async function describeRecords(manager: Viewer, rep: Viewer): Promise<void> {
  const random = seeded(41)
  const pick = <T>(from: readonly T[]): T => from[Math.floor(random() * from.length)]!
  const { rows: companies } = await db().query<{ id: string; name: string; domain: string | null }>(
    sql`select id, name, domain from companies order by name_key limit 24`,
  )
  for (const { id, domain } of companies) {
    for (let n = 0; n < 1 + Math.floor(random() * 2); n++) await addCompanyNote(manager, id, randomUUID(), pick(FOUND))
    if (domain) await addCompanyLink(manager, id, `https://${domain}/about`, 'About them')
    if (random() < 0.3) {
      await addCompanyLink(manager, id, `https://trade-register.example/${domain ?? id}`, 'Trade register')
    }
  }
  const { rows: people } = await db().query<{ id: string; phone: string | null }>(
    sql`
      select p.id, (select n.id from phones n where n.prospect_id = p.id order by position limit 1) as phone
      from prospects p
      where p.owner_id = $1
      order by p.name_key
    `,
    [rep.id],
  )
  for (const { id, phone } of people) {
    if (random() < 0.12) {
      const note = randomUUID()
      await addNote(rep, id, note, pick(PINNED))
      await pinNote(rep, id, note, true)
    }
    if (phone && random() < 0.15) {
      await editPhone(rep, id, phone, { tags: [pick(['direct line', 'cellar', 'front desk'])] })
    }
  }
  await saveSource('Cold chain fair', { cost: 4_800, aliases: ['Cold Chain Fair 2026', 'CCF'] })
  await saveSource('Bought list, spring', { cost: 950, aliases: ['Spring list'] })
  await saveSource('Sample request, web', { cost: 0, aliases: [] })
  await addPast(manager)
  await addTwins(rep)
}

/** Touches from before Uphill, imported from a file, as a team would. */
async function addPast(manager: Viewer): Promise<void> {
  const random = seeded(43)
  const clock = await firstRow(db().query<{ now: number }>(sql`select ms(world_now()) as now`))
  const { rows: people } = await db().query<{ name: string; address: string; customer: boolean }>(
    sql`
      select btrim(p.first_name || ' ' || p.last_name) as name, e.address, c.status = 'customer' as customer
      from prospects p
        join email_addresses e on e.prospect_id = p.id and e.position = 0
        left join companies c on c.id = p.company_id
      where p.rating is not null or c.status = 'customer'
      order by p.name_key
    `,
  )
  const lines = people.flatMap(({ name, address, customer }) => {
    const count = customer ? 7 : Math.floor(random() * 5)
    return Array.from({ length: count }, () => {
      const day = new Date(clock!.now - (34 + random() * 320) * DAY).toISOString().slice(0, 10)
      const kind =
        customer && random() < 0.4
          ? 'meeting'
          : ['call', 'call', 'email', 'email', 'text', 'visit'][Math.floor(random() * 6)]
      return `${name},${address},${day},${kind}`
    })
  })
  const headings = ['Name', 'Email', 'Touched on', 'Touch kind']
  const made = await uploadImport(
    manager,
    'past-touches.csv',
    Readable.from([Buffer.from(`${headings.join()}\n${lines.join('\n')}\n`)]),
  )
  await saveMapping({ name: 'Past touches', headings, mapping: made.mapping })
  await checkImport(manager, made.id, { version: made.version, mapping: made.mapping, knownAction: 'fill' })
  await work(made.id)
  const checked = await getImport(manager, made.id)
  await runImport(manager, made.id, { version: checked.version, knownAction: 'fill' })
  await work(made.id)
}

interface TwinRow {
  id: string
  first_name: string
  last_name: string
  company: string
  number: string | null
}

/** A few people who are there twice, as it happens: once from a file, once typed in after a call. */
async function addTwins(rep: Viewer): Promise<void> {
  const { rows } = await db().query<TwinRow>(
    sql`
      select
        p.id, p.first_name, p.last_name, c.name as company,
        (select number from phones n where n.prospect_id = p.id order by position limit 1) as number
      from prospects p
        join companies c on c.id = p.company_id
      where p.owner_id = $1 and length(p.first_name) > 4 and c.status = 'open'
      order by p.name_key desc
      limit 3
    `,
    [rep.id],
  )
  for (const [index, { id, first_name: first, last_name: last, company, number }] of rows.entries()) {
    const twin = await addProspect(rep, {
      name: `${index === 1 ? first : first.slice(0, 3)} ${last}`,
      company,
      ...(index === 0 && number && { phone: number }),
    })
    // One pair has been found and merged.
    if (index === 2) await mergeProspects(rep, randomUUID(), id, twin.id)
  }
}
