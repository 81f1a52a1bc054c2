import type { CustomFieldKind } from '#core/enumerations'
import type { Id } from '#core/instant'
import { db } from './pool'
import { sql } from './sql'

const TABLES = { prospect: 'prospects', company: 'companies' } as const

/**
 * What an index of a field holds, just as filters ask for it (core/filter/sql.ts). Ids are our own and hold letters,
 * digits and dashes alone.
 */
function expression(id: Id, kind: CustomFieldKind): string {
  const text = `(custom ->> '${id}')`
  const given = `where ${text} is not null`
  switch (kind) {
    case 'text':
    case 'link':
      return `(lower(${text})) ${given}`
    case 'number':
    case 'money':
      return `(((${text})::numeric)) ${given}`
    case 'yesNo':
      return `(((${text})::boolean)) ${given}`
    case 'choices':
      return `using gin ((custom -> '${id}'))`
    default:
      return `(${text}) ${given}`
  }
}

const nameOf = (id: Id) => `own_${id.replaceAll('-', '')}`

/**
 * Makes the indexes of indexed fields, and takes away those of others. Nobody has to wait for that: they
 * are built beside the work (`concurrently`), which is why this must not run inside a transaction. One that was not
 * finished is built again. Run again, it comes to the same.
 */
export async function indexCustomFields(): Promise<void> {
  const { rows: fields } = await db().query<{ id: Id; of: keyof typeof TABLES; kind: CustomFieldKind }>(
    sql`select id, of, kind from custom_fields where indexed`,
  )
  const { rows: indexes } = await db().query<{ name: string; whole: boolean }>(
    sql`
      select c.relname as name, i.indisvalid as whole
      from pg_index i
        join pg_class c on c.oid = i.indexrelid
      where c.relname ~ '^own_[0-9a-f]{32}$'
    `,
  )
  const wanted = new Map(fields.map((field) => [nameOf(field.id), field]))
  for (const { name, whole } of indexes) {
    if (!whole || !wanted.has(name)) await db().query(sql`drop index concurrently if exists ${name}`)
  }
  const there = new Set(indexes.filter((index) => index.whole).map((index) => index.name))
  for (const [name, { id, of, kind }] of wanted) {
    if (there.has(name)) continue
    const how = expression(id, kind)
    await db().query(sql`create index concurrently if not exists ${name} on ${TABLES[of]} ${how}`)
    // So that the planner knows how its values lie.
    await db().query(`analyze ${TABLES[of]}`)
  }
}
