import type { PoolClient } from 'pg'
import type { ExistingAction } from '#core/enumerations'
import type { Id } from '#core/instant'
import { companyVisible } from '../services/access/access'
import { firstRow, sql } from '../db/sql'
import { loggedCompanyUpdate } from '../engine/eventLog'

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
  { importId, userId, address = true }: { importId: Id; userId: Id; address?: boolean },
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
  const updated = await firstRow(
    client.query<{ count: number }>(
      loggedCompanyUpdate({
        set: sets.join(', '),
        from: `(select distinct on (known_id) * from ${rows} where known_id is not null order by known_id, row_no) b`,
        where: `c.id = b.known_id and ($1::uuid is null or ${companyVisible('c', '$1')})`,
        actor: '$2::uuid',
        importId: '$3::uuid',
      }),
      [limitedTo, userId, importId],
    ),
  )
  return updated!.count
}
