import { customMergeNames, customMergeValues, type MergeValues, type CustomMergeField } from '#core/text/merge'
import type { Db } from './pool'
import { sql } from './sql'

/** The custom fields that templates may name, by their names there. */
export async function readMergeNames(client: Db): Promise<Map<string, CustomMergeField>> {
  const { rows } = await client.query<CustomMergeField>({
    name: 'merge-names',
    text: sql`
      select id, of, name, kind
      from custom_fields
      where of <> 'deal'
      order by position, id
    `,
  })
  return customMergeNames(rows)
}

/** What templates say of someone: over `prospects p left join companies c` and `team t`. */
export const MERGE_COLUMNS =
  'p.first_name, p.last_name, p.title, p.city, c.name as company, t.name as team, p.custom, c.custom as company_custom'
export interface MergeRow {
  first_name: string
  last_name: string
  title: string | null
  city: string | null
  company: string | null
  team: string
  custom: Record<string, unknown>
  company_custom: Record<string, unknown> | null
}

/** The values of all merge fields that have one. Anyone who has no signature signs with their name. */
export function mergeValues(
  row: MergeRow,
  sender: { name: string; signature?: string } | null,
  customFields: ReadonlyMap<string, CustomMergeField>,
): MergeValues {
  const { first_name, last_name, title, city, company, team } = row
  const usual = Object.entries({
    first_name,
    last_name,
    title,
    city,
    company,
    team,
    sender_name: sender?.name,
    sender_first_name: sender?.name.split(' ')[0],
    signature: sender?.signature || sender?.name,
  }).filter((pair): pair is [string, string] => Boolean(pair[1]))
  return { ...customMergeValues(customFields, row.custom, row.company_custom), ...Object.fromEntries(usual) }
}
