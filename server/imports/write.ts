import { notifyOfImport } from '../services/notifications/notifications'
import { loggedCompanyUpdate, logFrom, textsFrom, type LoggedSet } from '../engine/eventLog'
import type { PoolClient } from 'pg'
import type { ExistingAction } from '#core/enumerations'
import { FIRST_CONTACT } from '#core/engine/moves/nextAction'
import type { Id } from '#core/instant'
import { transaction } from '../db/pool'
import { customDefaults } from '../services/fields/customFields'
import { KNOWN_SQL, withholdRows } from './check'
import { updateKnownCompanies } from './knownCompanies'
import { firstRow, sql } from '../db/sql'
import { addExtras, addNotes, nameSources } from './writeExtras'

/**
 * Who brings a file, whose its people will be, what happens to those who are known, and to whom the one who brings it
 * is limited (null: sees everyone).
 */
export interface WriteTask {
  userId: Id
  /** Whose the people become, in turn; companies stay together. */ ownerIds: readonly (Id | null)[]
  knownAction: ExistingAction
  ownContacts: boolean
  limitedTo: Id | null
}

/** How many rows became what. */
export interface Written {
  added: number
  updated: number
  skipped: number
  companies: number
}

/**
 * Brings the checked rows in, in one transaction: all or nothing, whatever dies meanwhile. Imports go one after the
 * other, so that two files with the same people do not both find them new. Every person added is logged. A row's
 * own id, made in the order of the file, is that of the person, address, number and event it brings: rows that come
 * together then lie together in every index.
 */
export async function writeRows(
  importId: Id,
  { userId, ownerIds, knownAction, ownContacts, limitedTo }: WriteTask,
): Promise<void> {
  await transaction(async (client) => {
    if (!(await takeWaiting(client, importId))) return
    // A sample of three thousand rows says enough of a file; thirty thousand take as long as writing ten thousand.
    await client.query(`set local work_mem = '128MB'; set local default_statistics_target = 10`)
    // What has come to belong to others since the check is left alone as well.
    await withholdRows(client, importId, limitedTo)
    await gather(client, importId, userId, limitedTo)
    const companies = await addCompanies(client, importId, userId)
    await nameSources(client, knownAction)
    const { added, updated } = await withKeysAskedTogether(client, importId, async () => {
      if (knownAction !== 'skip') {
        await updateKnownCompanies(client, SAYS_OF_COMPANIES, knownAction, limitedTo, {
          importId,
          userId,
          address: false,
        })
      }
      const added = await addProspects(client, importId, userId, ownerIds, ownContacts)
      await planFirstContacts(client)
      const updated = knownAction === 'skip' ? 0 : await updateKnown(client, importId, userId, knownAction)
      await addContacts(client, knownAction !== 'skip')
      return { added, updated }
    })
    await addNotes(client, userId)
    await addExtras(client, importId, userId, knownAction)
    const known = await firstRow(
      client.query<{ count: number }>(
        sql`select count(*) from bring where known_id is not null and merged_into is null`,
      ),
    )
    await finishImport(client, importId, { added, updated, skipped: known!.count - updated, companies })
    await notifyOfImport(client, importId, userId, added + updated)
  })
}

/** Waits until no other import is being written, and locks this one; false where it is not to be written any more. */
export async function takeWaiting(client: PoolClient, importId: Id): Promise<boolean> {
  await client.query(sql`select pg_advisory_xact_lock(hashtext('imports'))`)
  const waiting = await firstRow(
    client.query(sql`select from imports where id = $1 and status = 'writing' for update`, [importId]),
  )
  return waiting !== undefined
}

/** Writes down what became of the rows, and deletes those that were good. */
export async function finishImport(client: PoolClient, importId: Id, written: Written): Promise<void> {
  await client.query(
    sql`
      update imports
      set status = 'done', counts = counts || $2, version = version + 1
      where id = $1
    `,
    [importId, JSON.stringify(written)],
  )
  await client.query(
    sql`
      delete from import_rows
      where import_id = $1 and error is null and dropped is null
    `,
    [importId],
  )
  await client.query(sql`delete from import_chunks where import_id = $1`, [importId])
}

/** The good rows with who they are: a known person, or the new one of their own or of the row they are merged into. */
async function gather(client: PoolClient, importId: Id, userId: Id, limitedTo: Id | null): Promise<void> {
  await client.query(
    sql`
      create temp table bring on commit drop as
      with known as materialized (${KNOWN_SQL})
      select
        r.*, k.prospect_id as known_id,
        coalesce(k.prospect_id, rk.prospect_id, root.new_id, r.new_id) as prospect_id,
        coalesce(k.prospect_id, rk.prospect_id) is null as is_new
      from import_rows r
        left join known k on k.row_no = r.row_no
        left join import_rows root on root.import_id = $1 and root.row_no = r.merged_into
        left join known rk on rk.row_no = r.merged_into
      where r.import_id = $1 and r.error is null
    `,
    [importId, limitedTo],
  )
  await settleCompanies(client, importId, userId)
  await client.query('analyze bring')
}

/** A domain that one company name of the file has, and no other. */
const DOMAIN_OF_NAME = sql`
  select company_key, min(domain) as domain
  from bring
  where domain <> '' and company_key <> ''
  group by company_key
  having count(distinct domain) = 1
`

/**
 * Says of rows whose company they mean where the row alone does not: by a name or domain that a company had before a
 * merge; someone without an email by a colleague's domain in the file; a company that was added without a domain by
 * the one its people write from now.
 */
async function settleCompanies(client: PoolClient, importId: Id, userId: Id): Promise<void> {
  await client.query(sql`
    update bring b
    set domain = c.domain
    from company_aliases a
      join companies c on c.id = a.company_id
    where a.kind = 'domain' and b.domain = a.value and c.domain is not null
  `)
  await client.query(sql`
    update bring b
    set domain = coalesce(c.domain, ''), company_key = c.name_key
    from company_aliases a
      join companies c on c.id = a.company_id
    where a.kind = 'name'
      and b.domain = ''
      and b.company_key = a.value
      and not exists (select from companies x where x.name_key = a.value)
  `)
  await client.query(sql`
    update bring b
    set domain = n.domain
    from (${DOMAIN_OF_NAME}) n
    where b.domain = ''
      and b.company_key = n.company_key
      and not exists (
        select from companies x where x.name_key = b.company_key and x.domain is distinct from n.domain
      )
  `)
  await client.query(
    loggedCompanyUpdate({
      set: 'domain = n.domain',
      from: `(${DOMAIN_OF_NAME}) n`,
      where: sql`
        c.domain is null
          and c.name_key = n.company_key
          and not exists (select from companies x where x.domain = n.domain)
          and not exists (select from companies x where x.name_key = c.name_key and x.id <> c.id)
      `,
      actor: '$1::uuid',
      importId: '$2::uuid',
    }),
    [userId, importId],
  )
}

/** The event of companies that a file added, of the set `added`: $2 is the user, $3 the import. */
export const ADDED_BY_IMPORT: LoggedSet = {
  company: 'id',
  actor: '$2::uuid',
  payload: `jsonb_build_object('importId', $3::uuid)`,
  from: 'added',
}

async function addCompanies(client: PoolClient, importId: Id, userId: Id): Promise<number> {
  const { rowCount } = await client.query(
    sql`
      with added as (
      insert into companies (id, name, name_key, domain, country, region, city, industry, size, custom, created_at)
      select
        new_id, coalesce(nullif(company, ''), domain), coalesce(nullif(company_key, ''), domain),
        nullif(domain, ''), nullif(country, ''), nullif(region, ''), nullif(city, ''),
        extra #>> '{company,industry}', (extra #>> '{company,size}')::int,
        $1::jsonb || coalesce(extra #> '{company,custom}', '{}'), (select world_now())
      from (
        select distinct on (domain, case when domain = '' then company_key end) *
        from bring
        where (domain <> '' or company_key <> '') and known_id is null
        order by domain, case when domain = '' then company_key end, (company = ''), row_no
      ) b
      where not exists (
          select
          from companies c
          where case when b.domain <> '' then c.domain = b.domain else c.name_key = b.company_key end
        )
      order by new_id
      on conflict (domain)
      where domain is not null do nothing
      returning id
      )
      ${logFrom('companyAdded', ADDED_BY_IMPORT)}
    `,
    [JSON.stringify(await customDefaults('company', client)), userId, importId],
  )
  return rowCount ?? 0
}

/**
 * Locks what the rows refer to, so that it cannot go before they are there: their companies (as the temporary table
 * `firm`), the known people, the importer and the owners. Then foreign keys cannot be broken, and
 * `write` may bring in people, addresses and numbers without asking after each row's keys one by one, which takes as
 * long as writing them. Where the database's user may not put them off (session_replication_role), they are asked as
 * ever.
 */
async function withKeysAskedTogether<T>(client: PoolClient, importId: Id, write: () => Promise<T>): Promise<T> {
  await client.query(sql`
    create temp table firm on commit drop as select id, domain, name_key,
    created_at from companies where domain in (select domain from bring where domain <> '')
      or name_key in (select company_key from bring where domain = '' and company_key <> '') order by id for key
        share
  `)
  await client.query('analyze firm')
  const held = await firstRow(
    client.query<{
      all: boolean
    }>(sql`
      with known as (
        select id
        from prospects
        where id in (select known_id from bring)
        order by id
        for key share
      )
      select (select count(*) from known) = (select count(distinct known_id) from bring) as all
    `),
  )
  if (!held!.all) throw Object.assign(new Error('A known person was removed during the import'), { code: '40001' })
  await client.query(
    sql`
      select
      from users u
        join imports i on u.id in (i.user_id, i.owner_id) or u.id = any(i.owner_ids)
      where i.id = $1
      for key share of u
    `,
    [importId],
  )
  await client.query(sql`select from stages for key share`)
  const user = await firstRow(
    client.query<{ may: boolean }>(sql`select has_parameter_privilege('session_replication_role', 'set') as may`),
  )
  if (!user!.may) return write()
  await client.query('set local session_replication_role = replica')
  const written = await write()
  await client.query('set local session_replication_role = origin')
  return written
}

/** What rows of people say of the companies these are at, as `updateKnownCompanies` reads it. */
const SAYS_OF_COMPANIES = sql`
  (
    select f.id as known_id, b.row_no, b.extra
    from bring b
      join firm f on f.domain = b.domain
    where b.extra ? 'company' and b.domain <> ''
    union all
    select f.id, b.row_no, b.extra
    from bring b
      join firm f on f.name_key = b.company_key
    where b.extra ? 'company' and b.domain = '' and b.company_key <> ''
  ) said
`

async function addProspects(
  client: PoolClient,
  importId: Id,
  userId: Id,
  ownerIds: readonly (Id | null)[],
  ownContacts: boolean,
): Promise<number> {
  const defaults = JSON.stringify(await customDefaults('prospect', client))
  const { rowCount } = await client.query(
    sql`
      with placed as (
        select b.*, coalesce(byd.id, byn.id) as at_company
        from bring b
          left join firm byd on b.domain <> '' and byd.domain = b.domain
          left join (select distinct on (name_key) name_key, id from firm order by name_key, created_at, id) byn on
            b.domain = ''
            and b.company_key <> ''
            and byn.name_key = b.company_key
        where b.known_id is null and b.merged_into is null
      ),
      added as (
        insert into prospects (
          id, first_name, last_name, name_key, title, company_id, owner_id, stage_id, time_zone, time_zone_from,
          country,
          region, city, postal_code, source, import_id, custom, own_contact, relationship_owner_id, created_at
        )
        select
          new_id, first_name, last_name, name_key, nullif(title, ''), at_company,
          ($3::uuid[])[(1 + abs(hashtext(coalesce(at_company, new_id)::text)::bigint) % cardinality($3::uuid[]))::int],
          (select first_stage()), time_zone, coalesce(time_zone_from, 'guess'), nullif(country, ''), nullif(region, ''),
          nullif(city, ''), nullif(postal_code, ''), nullif(source, ''), $1,
          $4::jsonb || coalesce(extra -> 'custom', '{}'), $5, case when $5 then $2::uuid end, (select world_now())
        from placed
        order by row_no
      )
      ${logFrom('prospectAdded', {
        id: 'new_id',
        prospect: 'new_id',
        actor: '$2::uuid',
        payload: `jsonb_build_object('importId', $1::uuid, 'row', row_no)`,
        from: 'placed',
      })}
    `,
    [importId, userId, ownerIds, defaults, ownContacts],
  )
  // The name as the file had it stands beside the log, and goes with the person.
  await client.query(
    textsFrom({
      event: 'new_id',
      prospect: 'new_id',
      texts: sql`
        jsonb_build_object(
          'changes',
          jsonb_build_object('name', jsonb_build_array(extra ->> 'nameWas', btrim(first_name || ' ' || last_name)))
        )
      `,
      from: `bring where known_id is null and merged_into is null and extra ? 'nameWas'`,
    }),
  )
  return rowCount ?? 0
}

/** New people wait for a first contact, as react() would have it; who comes with touches of before has had theirs. */
async function planFirstContacts(client: PoolClient): Promise<void> {
  await client.query(
    sql`
      insert into tasks (id, prospect_id, owner_id, kind, priority, title, due_at, status, time_zone)
      select gen_random_uuid(), p.id, p.owner_id, 'first_contact', 3, $1, (select world_now()), 'open', p.time_zone
      from bring b
        join prospects p on p.id = b.new_id
        left join companies c on c.id = p.company_id
      where b.known_id is null
        and b.merged_into is null
        and not coalesce(b.extra ? 'touch', false)
        and coalesce(c.status, 'open') not in ('not_a_fit', 'do_not_contact')
      order by b.row_no
    `,
    [FIRST_CONTACT],
  )
}

/**
 * Fills in or writes over what the file says of known people, and logs for each what was changed; who has it all
 * already is left alone.
 */
async function updateKnown(
  client: PoolClient,
  importId: Id,
  userId: Id,
  action: 'fill' | 'overwrite',
): Promise<number> {
  const value = (column: string) =>
    action === 'fill'
      ? `coalesce(nullif(p.${column}, ''), nullif(b.${column}, ''))`
      : `coalesce(nullif(b.${column}, ''), p.${column})`
  const columns = ['title', 'country', 'region', 'city', 'postal_code', 'source']
  const custom =
    action === 'fill'
      ? `coalesce(b.extra -> 'custom', '{}') || p.custom`
      : `p.custom || coalesce(b.extra -> 'custom', '{}')`
  // Who was placed by a guess or a number is placed by what the file says of the address; a zone someone has given
  // stays.
  const better = `p.time_zone_from in ('guess', 'number') and b.time_zone_from in ('address', 'given')`
  const changes = [
    ...columns.map((column) => `case when ${value(column)} is distinct from p.${column} then '${column}' end`),
    `case when ${better} and b.time_zone <> p.time_zone then 'time_zone' end`,
    `case when ${custom} <> p.custom then 'custom' end`,
  ]
  await client.query(sql`
    create temp table corrects on commit drop as select b.known_id as id, b.row_no,
    array_remove(array[${changes.join(', ')}]::text[], null) as fields from (
      select distinct on (known_id) *
      from bring
      where known_id is not null and merged_into is null
      order by known_id, row_no
    ) b join prospects p on p.id = b.known_id
  `)
  const { rowCount } = await client.query(sql`
    update prospects p
    set
      ${columns.map((column) => `${column} = ${value(column)}`).join(', ')}, custom = ${custom},
      version = version + 1, time_zone = case when ${better} then b.time_zone else p.time_zone end,
      time_zone_from = case when ${better} then b.time_zone_from else p.time_zone_from end
    from bring b
      join corrects x on x.id = b.known_id and x.row_no = b.row_no and cardinality(x.fields) > 0
    where p.id = b.known_id
  `)
  await client.query(
    logFrom('prospectEdited', {
      prospect: 'corrects.id',
      actor: '$2::uuid',
      payload: `jsonb_build_object('importId', $1::uuid, 'row', row_no, 'fields', to_jsonb(fields))`,
      from: 'corrects where cardinality(fields) > 0',
    }),
    [importId, userId],
  )
  await client.query(
    sql`
      update tasks t
      set time_zone = p.time_zone
      from corrects x
        join prospects p on p.id = x.id
      where t.prospect_id = p.id and t.status = 'open' and t.time_zone <> p.time_zone
    `,
  )
  return rowCount ?? 0
}

/**
 * Addresses and numbers of the new people, of rows merged into them and, if asked, of known ones. One address is one
 * person's. Should someone else give a person one of them at this very moment, the whole import is tried again.
 */
async function addContacts(client: PoolClient, toKnown: boolean): Promise<void> {
  const whose = toKnown ? 'true' : 'is_new'
  await client.query(sql`
    insert into email_addresses (id, prospect_id, address, position)
    select new_id, prospect_id, email, case when merged_into is null and known_id is null then 0 else 1 end
    from (
      select distinct on (b.email) b.*
      from bring b
      where b.email <> '' and ${whose} and not exists (select from email_addresses e where e.address = b.email)
      order by b.email, b.row_no
    ) n
    order by row_no
  `)
  await client.query(sql`
    insert into phones (id, prospect_id, number, kind, position)
    select
      distinct on (prospect_id, number) id, prospect_id, number, kind,
      case when merged_into is null and known_id is null then place else place + 1 end
    from (
      select
        b.new_id as id, b.prospect_id, b.phone as number, 'work' as kind, 0 as place, b.row_no, b.merged_into,
        b.known_id
      from bring b
      where b.phone <> '' and ${whose}
      union all
      select gen_random_uuid(), b.prospect_id, b.mobile, 'mobile', 1, b.row_no, b.merged_into, b.known_id
      from bring b
      where b.mobile <> '' and ${whose}
    ) n
    where not exists (select from phones p where p.prospect_id = n.prospect_id and p.number = n.number)
    order by prospect_id, number, row_no, place
  `)
}
