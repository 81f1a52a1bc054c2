import type { ImportTarget } from '#core/imports/columns'
import type { Id } from '#core/instant'
import { newId } from '#shared/newId'
import { db } from '../../db/pool'
import { notFound } from '../access/errors'
import { firstRow, sql } from '../../db/sql'

interface MappingRow {
  id: Id
  name: string
  headings: string[]
  mapping: Record<string, ImportTarget>
}

/** Ways of reading a file that are kept under a name, by name. */
export async function listMappings() {
  const { rows } = await db().query<MappingRow>(
    sql`select id, name, headings, mapping from import_mappings order by lower(name)`,
  )
  return { mappings: rows }
}

/** Keeps how the columns of a file are read, under a name; what was kept under it is written over. */
export async function saveMapping(given: {
  name: string
  headings: readonly string[]
  mapping: Readonly<Record<string, ImportTarget>>
}): Promise<{ id: Id }> {
  const row = await firstRow(
    db().query<{ id: Id }>(
      sql`
        insert into import_mappings (id, name, headings, mapping, created_at)
        values ($1, $2, $3, $4, world_now())
        on conflict
          (lower(name)) do update set name = excluded.name, headings = excluded.headings, mapping = excluded.mapping
        returning id
      `,
      [newId(), given.name, given.headings, JSON.stringify(given.mapping)],
    ),
  )
  return row!
}

/** Removes a kept way of reading. */
export async function removeMapping(id: Id): Promise<void> {
  const { rowCount } = await db().query(sql`delete from import_mappings where id = $1`, [id])
  if (!rowCount) throw notFound('way of reading')
}
