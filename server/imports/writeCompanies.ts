import type { ExistingAction } from '#core/enumerations'
import type { Id } from '#core/instant'
import { transaction } from '../db/pool'
import { companyVisible } from '../services/access/access'
import { customDefaults } from '../services/fields/customFields'
import { KNOWN_COMPANIES_SQL } from './check'
import { logFrom } from '../engine/eventLog'
import { updateKnownCompanies } from './knownCompanies'
import { ADDED_BY_IMPORT, finishImport, takeWaiting } from './write'
import { firstRow, sql } from '../db/sql'

/**
 * Brings the checked rows of a file of companies in, in one transaction: all or nothing. Known companies are left,
 * filled in where they are empty, or given the file's values; how we stand with them is never touched by a file.
 */
export async function writeCompanies(
  importId: Id,
  userId: Id,
  knownAction: ExistingAction,
  limitedTo: Id | null,
): Promise<void> {
  await transaction(async (client) => {
    if (!(await takeWaiting(client, importId))) return
    await client.query(
      sql`
        create temp table firms on commit drop as with known as materialized (${KNOWN_COMPANIES_SQL}) select r.*,
        k.company_id as known_id from import_rows r left join known k on k.row_no = r.row_no where r.import_id = $1
          and r.error is null
          and r.merged_into is null
      `,
      [importId, limitedTo],
    )
    const { rowCount: added } = await client.query(
      sql`
        with added as (
        insert into companies (
          id, name, name_key, domain, country, region, city, industry, size, custom, created_at
        )
        select
          new_id, coalesce(nullif(company, ''), domain), coalesce(nullif(company_key, ''), domain),
          nullif(domain, ''), nullif(country, ''), nullif(region, ''), nullif(city, ''),
          extra #>> '{company,industry}', (extra #>> '{company,size}')::int,
          $1::jsonb || coalesce(extra #> '{company,custom}', '{}'), (select world_now())
        from firms
        where known_id is null
        on conflict (domain)
        where domain is not null do nothing
        returning id
        )
        ${logFrom('companyAdded', ADDED_BY_IMPORT)}
      `,
      [JSON.stringify(await customDefaults('company', client)), userId, importId],
    )
    const updated =
      knownAction === 'skip'
        ? 0
        : await updateKnownCompanies(client, 'firms', knownAction, limitedTo, { importId, userId })
    await client.query(
      sql`
        insert into company_notes (id, company_id, user_id, at, body)
        select gen_random_uuid(), coalesce(known_id, new_id), $1, (select world_now()), note
        from firms
        where note <> ''
          and (known_id is null or $2)
          and exists (
            select
            from companies c
            where c.id = coalesce(known_id, new_id) and ($3::uuid is null or ${companyVisible('c', '$3')})
          )
      `,
      [userId, knownAction !== 'skip', limitedTo],
    )
    const known = await firstRow(
      client.query<{ count: number }>(sql`select count(*) as count from firms where known_id is not null`),
    )
    await finishImport(client, importId, {
      added: added ?? 0,
      updated,
      skipped: known!.count - updated,
      companies: added ?? 0,
    })
  })
}
