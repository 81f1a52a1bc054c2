import { EMAIL_TYPES, type EmailType } from '#core/enumerations'
import type { Id } from '#core/instant'
import { db } from '../../db/pool'
import type { Changes } from '../../engine/eventLog'
import { sql } from '../../db/sql'

/** Words for fields as the log names them; those that say nothing to a reader have none. */
export const FIELD_WORDS: Readonly<Record<string, string>> = {
  name: 'name',
  first_name: 'first name',
  last_name: 'last name',
  title: 'job title',
  time_zone: 'time zone',
  time_zone_is_manual: '',
  time_zone_from: '',
  owner_id: 'owner',
  postal_code: 'postal code',
  email_types: 'email preferences',
  relationship_owner_id: 'relationship owner',
  rated_by_score: '',
  tasks: '',
}

const REFERENCES = new Set(['owner_id', 'relationship_owner_id', 'list'])
const isId = (text: string) => /^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/.test(text)

/** The names of the users, lists and custom fields that changes name by their ids. */
export async function namesFor(changes: readonly Changes[]): Promise<ReadonlyMap<Id, string>> {
  const ids = new Set<string>()
  for (const [field, values] of changes.flatMap((one) => Object.entries(one))) {
    if (isId(field)) ids.add(field)
    if (REFERENCES.has(field)) for (const value of values) if (typeof value === 'string') ids.add(value)
  }
  if (!ids.size) return new Map()
  const { rows } = await db().query<{ id: Id; name: string }>(
    sql`
      select id, name
      from users
      where id = any($1::uuid[])
      union all
      select id, name
      from lists
      where id = any($1::uuid[])
      union all
      select id, name
      from custom_fields
      where id = any($1::uuid[])
    `,
    [[...ids]],
  )
  return new Map(rows.map((row) => [row.id, row.name]))
}

function valueInWords(field: string, value: unknown, names: ReadonlyMap<Id, string>): string {
  if (value === null || value === undefined || value === '' || (Array.isArray(value) && !value.length)) return 'none'
  if (REFERENCES.has(field)) return names.get(value as Id) ?? 'removed since'
  if (typeof value === 'boolean') return value ? 'yes' : 'no'
  if (field === 'email_types') return (value as EmailType[]).map((type) => EMAIL_TYPES[type]).join(', ')
  return Array.isArray(value) ? value.join(', ') : String(value)
}

const capitalized = (words: string) => `${words.charAt(0).toUpperCase()}${words.slice(1)}`

/**
 * What changed, a line a field: "Owner: Imani Osei → Joaquin Pell"; of what is new, what it is. Null where nothing is
 * known.
 */
export function changesInWords(
  changes: Changes | null | undefined,
  names: ReadonlyMap<Id, string>,
  { isNew = false } = {},
): string | null {
  const lines = Object.entries(changes ?? {}).flatMap(([field, [was, is]]) => {
    const words =
      FIELD_WORDS[field] ?? names.get(field) ?? (isId(field) ? 'a custom field' : field.replaceAll('_', ' '))
    if (!words || (isNew && is === null)) return []
    const before = isNew ? '' : `${valueInWords(field, was, names)} → `
    return [`${capitalized(words)}: ${before}${valueInWords(field, is, names)}`]
  })
  return lines.length ? lines.join('\n') : null
}
