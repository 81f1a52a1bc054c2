import type { PoolClient } from 'pg'
import type { ExistingAction } from '#core/enumerations'
import type { Id } from '#core/instant'
import { companyVisible } from '../services/access/access'
import { sql } from '../db/sql'

/**
 * Fills in, or writes over, what rows with a `known_id` say of companies; of those alone that `limitedTo` may see,
 * where that is someone. `address` says whether the rows are companies, and their address and website theirs; in a
 * file of people those are of the people.
 */
export async function updateKnownCompanies(
  client: PoolClient,
  rows: string,
  action: Exclude<ExistingAction, 'skip'>,
  limitedTo: Id | null,
  { address = true } = {},
): Promise<number> {
  const value = (column: string, given: string) =>
    `${column} = ${action === 'fill' ? `coalesce(nullif(c.${column}, ''), ${given})` : `coalesce(${given}, c.${column})`}`
  const size = `(b.extra #>> '{company,size}')::int`
  const customFields = `coalesce(b.extra #> '{company,custom}', '{}')`
  const sets = [
    ...(address ? ['country', 'region', 'city'].map((column) => value(column, `nullif(b.${column}, '')`)) : []),
    value('industry', `b.extra #>> '{company,industry}'`),
    `size = ${action === 'fill' ? `coalesce(c.size, ${size})` : `coalesce(${size}, c.size)`}`,
    `custom = ${action === 'fill' ? `${customFields} || c.custom` : `c.custom || ${customFields}`}`,
    ...(address
      ? [
          sql`
            domain = case
              when c.domain is null
                and not exists (select from companies x where x.domain = nullif(b.domain, '')) then nullif(
                  b.domain, ''
                )
              else c.domain
            end
          `,
        ]
      : []),
  ]
  const { rowCount } = await client.query(
    sql`
      update companies c
      set ${sets.join(', ')}, version = version + 1
      from (select distinct on (known_id) * from ${rows} where known_id is not null order by known_id, row_no) b
      where c.id = b.known_id and ($1::uuid is null or ${companyVisible('c', '$1')})
    `,
    [limitedTo],
  )
  return rowCount ?? 0
}
