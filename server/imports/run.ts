import type { DateOrder, ExistingAction } from '#core/enumerations'
import type { Id } from '#core/instant'
import { kindOfFile, type ColumnMapping } from '#core/imports/columns'
import { UnreadableFile, type Dialect } from '#core/imports/dialect'
import { db } from '../db/pool'
import { listFields } from '../services/fields/customFields'
import { countRows, stageRows, withholdRows, type WholeFile } from './check'
import { writeCompanies } from './writeCompanies'
import { writeRows } from './write'
import { firstRow, sql } from '../db/sql'

interface ImportRow {
  id: Id
  user_id: Id
  owner_id: Id | null
  status: string
  dialect: Dialect
  mapping: ColumnMapping
  known_action: ExistingAction
  own_contacts: boolean
  limited_to: Id | null
  date_order: DateOrder
  whole: WholeFile
  owner_ids: Id[]
  country: string
  timeZone: string
  version: number
}

async function read(importId: Id): Promise<ImportRow | null> {
  const row = await firstRow(
    db().query<ImportRow>(
      sql`
        select
          i.id, i.user_id, i.owner_id, i.status, i.dialect, i.mapping, i.known_action, i.own_contacts, i.date_order,
          i.whole, i.owner_ids, i.version, t.country, t.time_zone as "timeZone",
          (
            select u.id
            from users u
            where u.id = i.user_id and u.role not in ('manager', 'admin') and not t.shares_all
          ) as limited_to
        from imports i
          cross join team t
        where i.id = $1
      `,
      [importId],
    ),
  )
  return row ?? null
}

/** Runs what an import is waiting for: the check, or the writing. Safe to run again after a crash. */
export async function runImport(importId: Id): Promise<void> {
  const found = await read(importId)
  if (!found || (found.status !== 'checking' && found.status !== 'writing')) return
  try {
    if (found.status === 'checking') await check(found)
    else await write(found)
  } catch (error) {
    if (!(error instanceof UnreadableFile)) throw error
    await db().query(
      sql`
        update imports
        set status = 'failed', problem = $2, version = version + 1
        where id = $1
      `,
      [importId, error.message],
    )
  }
}

async function stage(found: ImportRow): Promise<void> {
  let lastNotedAt = 0
  const { fields } = await listFields()
  const customFields = new Map(fields.filter((field) => field.of !== 'deal').map((field) => [field.id, field]))
  await stageRows(
    {
      id: found.id,
      dialect: found.dialect,
      mapping: found.mapping,
      homeCountry: found.country,
      homeTimeZone: found.timeZone,
      customFields,
      dateOrder: found.date_order,
      whole: found.whole,
    },
    async (rows) => {
      if (rows - lastNotedAt < 10_000) return
      lastNotedAt = rows
      await db().query(sql`update imports set progress = $2 where id = $1`, [found.id, rows])
    },
  )
  if (kindOfFile(found.mapping) !== 'companies') await withholdRows(db(), found.id, found.limited_to)
}

async function check(found: ImportRow): Promise<void> {
  await stage(found)
  const counts = await countRows(found.id, kindOfFile(found.mapping) ?? 'people', found.limited_to)
  // A mapping that was changed meanwhile has its own check waiting.
  await db().query(
    sql`
      update imports
      set status = 'checked', counts = $2, progress = $3, version = version + 1
      where id = $1 and version = $4
    `,
    [found.id, JSON.stringify(counts), counts.rows, found.version],
  )
}

async function write(found: ImportRow): Promise<void> {
  // The rows are in an unlogged table: after a crash of the database they are gone and made again.
  const staged = await firstRow(
    db().query<{ some: boolean }>(sql`select exists (select from import_rows where import_id = $1) as some`, [
      found.id,
    ]),
  )
  if (!staged!.some) await stage(found)
  if (kindOfFile(found.mapping) === 'companies') {
    await writeCompanies(found.id, found.user_id, found.known_action, found.limited_to)
  } else {
    await writeRows(found.id, {
      userId: found.user_id,
      ownerIds: found.owner_ids.length ? found.owner_ids : [found.owner_id],
      knownAction: found.known_action,
      ownContacts: found.own_contacts,
      limitedTo: found.limited_to,
    })
  }
}
