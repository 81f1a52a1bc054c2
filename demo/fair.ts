import { Readable } from 'node:stream'
import { DateTime } from 'luxon'
import { db } from '../server/db/pool'
import { runImport as work } from '../server/imports/run'
import { enroll } from '../server/services/cadences/enrollments'
import { checkImport, getImport, runImport, uploadImport } from '../server/services/imports/imports'
import type { Viewer } from '../server/services/access/viewer'
import { stopClock } from './clock'
import { catchUp } from './month'
import { COMPANIES, nameOf, TITLES } from './names'
import { sql } from '../server/db/sql'

const BOOTH_NOTES = [
  'Asked about rooms below minus 20',
  'Took the brochure and two pens',
  'Knows someone who has ours',
  'Wants a price for six rooms',
  '',
]

/**
 * The file that the team brought home from a fair, eight days ago: as people type it at a booth, with cells that cannot
 * be read.
 */
function fairFile(): string {
  const lines = Array.from({ length: 48 }, (_, nth) => {
    const company = COMPANIES[(nth * 7 + 3) % COMPANIES.length]!
    const { first, last } = nameOf(nth + 900, 17)
    const titled = nth % 13 === 6 ? `Dr. ${first} ${last}` : `${first} ${last}`
    const name = nth % 11 === 4 ? `${first} ${last}`.toUpperCase() : titled
    const usual = `${first}.${last}@${company.domain}`.toLowerCase()
    const written = nth === 20 ? `${first.toLowerCase()}(at)${company.domain}` : usual
    const email = nth % 9 === 5 ? '' : written
    const country =
      { US: 'USA', CA: 'Canada', GB: 'United Kingdom', DE: 'Germany', AU: 'Australia' }[company.country] ??
      company.country
    return [
      name,
      TITLES[(nth * 3) % TITLES.length],
      company.name,
      email,
      company.phone(nth + 40),
      company.city,
      company.region,
      country,
      BOOTH_NOTES[nth % BOOTH_NOTES.length],
    ].join()
  })
  return `Full name,Job title,Company,Email,Mobile phone,City,State,Country,Notes\n${lines.join('\n')}\n`
}

/** Imports the fair's file for the reps in turn, and starts the cadence for everyone who came by. */
export async function importFair(
  manager: Viewer,
  reps: readonly Viewer[],
  { start, timeZone, cadenceId }: { start: number; timeZone: string; cadenceId: string },
): Promise<void> {
  let day = DateTime.fromMillis(start).setZone(timeZone).minus({ days: 8 }).set({ hour: 14, minute: 5 })
  while (day.weekday > 5) day = day.minus({ days: 1 })
  await stopClock(day.toMillis())
  const made = await uploadImport(manager, 'cold-chain-fair-booth.csv', Readable.from([Buffer.from(fairFile())]))
  await checkImport(manager, made.id, {
    version: made.version,
    mapping: made.mapping,
    knownAction: 'fill',
    ownerIds: reps.map((rep) => rep.id),
    whole: { source: 'Cold chain fair', tags: ['Met at the fair'], list: 'Fair, visitors to our booth' },
  })
  await work(made.id)
  const checked = await getImport(manager, made.id)
  await runImport(manager, made.id, { version: checked.version, knownAction: 'fill' })
  await work(made.id)
  const { rows } = await db().query<{ id: string; owner_id: string }>(
    sql`
      select p.id, p.owner_id
      from prospects p
        join email_addresses e on e.prospect_id = p.id
      where p.import_id = $1 and p.country in ('US', 'CA')
      order by p.name_key
    `,
    [made.id],
  )
  for (const rep of reps) {
    const prospectIds = rows.filter((row) => row.owner_id === rep.id).map((row) => row.id)
    if (prospectIds.length) await enroll(rep, cadenceId, { prospectIds }, false)
  }
  await catchUp()
}
