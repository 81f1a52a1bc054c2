import { differences } from '../bulk/bulkValues'
import { logCompanyStatus, logEvent, logTexts } from '../../engine/eventLog'
import type { CompanyStatus } from '#core/enumerations'
import { explain } from '#core/engine/explain'
import type { Id } from '#core/instant'
import { tidyRegion } from '#core/places/lookUp'
import { companyKey } from '#core/text/names'
import type { Prospect, ProspectRow } from '#shared/api/prospects'
import type { Place } from '#shared/api/places'
import { db, transaction, type Db } from '../../db/pool'
import { recordEvents } from '../../engine/recordEvents'
import { companyVisible, limitedTo, visible } from '../access/access'
import { readCustom } from '../fields/customFields'
import { notFound, Refusal, refusedBy } from '../access/errors'
import { PLACE } from './places'
import { JOINED, ROW } from '../lists/prospectRows'
import { readerOf, type Viewer } from '../access/viewer'
import { firstRow, sql } from '../../db/sql'

interface CompanyRow {
  id: Id
  name: string
  domain: string | null
  status: Prospect['company'] extends infer C ? (NonNullable<C> extends { status: infer S } ? S : never) : never
  country: string | null
  region: string | null
  city: string | null
  industry: string | null
  size: number | null
  custom: Record<string, unknown>
  version: number
}

/** A company with everyone there whom the viewer may see, and how many more there are. */
export async function getCompany(viewer: Viewer, id: Id) {
  const company = await firstRow(
    db().query<CompanyRow>(
      sql`
        select id, name, domain, status, country, region, city, industry, size, custom, version
        from companies
        where id = $1
      `,
      [id],
    ),
  )
  if (!company) {
    const now = await mergedInto(id)
    if (now) return getCompany(viewer, now)
    throw notFound('company')
  }
  const { rows: people } = await db().query<ProspectRow>(
    sql`
      select ${ROW}
      from ${JOINED}
      where p.company_id = $2 and ${visible('p', '$1')}
      order by p.name_key
      limit 1000
    `,
    [limitedTo(viewer), id],
  )
  const count = await firstRow(
    db().query<{ count: number }>(sql`select count(*) as count from prospects where company_id = $1`, [id]),
  )
  if (!people.length && count!.count) throw notFound('company')
  const place = await firstRow(
    db().query<Place>(
      sql`
        select ${PLACE}
        from places x
          join companies c on c.place_id = x.id
        where c.id = $1
      `,
      [id],
    ),
  )
  return { ...company, people, hidden: count!.count - people.length, place: place ?? null }
}

/** The company that a merged one went into, or null: old links lead there. */
async function mergedInto(companyId: Id): Promise<Id | null> {
  const row = await firstRow(
    db().query<{ id: Id }>(
      sql`
        with recursive onward as (
          select primary_id
          from company_merges
          where duplicate_id = $1 and undone_at is null
          union
          select m.primary_id
          from company_merges m
            join onward o on m.duplicate_id = o.primary_id
          where m.undone_at is null
        )
        select c.id
        from onward o
          join companies c on c.id = o.primary_id
      `,
      [companyId],
    ),
  )
  return row?.id ?? null
}

/** Throws not_found unless there is a company where the viewer sees someone, or where nobody is yet. */
export async function mustSeeCompany(viewer: Viewer, id: Id, client: Db = db()): Promise<void> {
  const row = await firstRow(
    client.query(sql`select from companies c where c.id = $2 and ${companyVisible('c', '$1')}`, [
      limitedTo(viewer),
      id,
    ]),
  )
  if (!row) throw notFound('company')
}

/**
 * Sets a company's status; a stop is one for everyone there. It goes through the engine by way of someone who is
 * there; where nobody is, only the company itself changes. Throws not_found where the viewer sees nobody of it.
 */
export async function setCompanyStatus(
  viewer: Viewer,
  companyId: Id,
  { id, to }: { id: Id; to: CompanyStatus },
): Promise<{ summary: string }> {
  await mustSeeCompany(viewer, companyId)
  const person = await firstRow(
    db().query<{ id: Id }>(
      sql`
        select p.id
        from prospects p
        where p.company_id = $2 and p.merged_into is null
        order by ${visible('p', '$1')} desc, p.id
        limit 1
      `,
      [limitedTo(viewer), companyId],
    ),
  )
  if (!person) {
    await setStatusOfEmpty(viewer, companyId, id, to)
    return { summary: 'Done.' }
  }
  const {
    results: [result],
    before,
    after,
    playbook,
  } = await recordEvents(
    [{ id, kind: 'companyStatusSet', prospectId: person.id, actorId: viewer.id, causedByEventId: null, to }],
    {
      alsoWrite: async (_, { results: [done] }) => {
        if (done!.problems.length) throw refusedBy(done!.problems)
      },
    },
  )
  return {
    summary: explain(result!.effects, person.id, before, after, playbook, readerOf(viewer, before.now)) || 'Done.',
  }
}

async function setStatusOfEmpty(viewer: Viewer, companyId: Id, id: Id, to: CompanyStatus): Promise<void> {
  await transaction(async (client) => {
    const company = await firstRow(
      client.query<{ status: CompanyStatus }>(sql`select status from companies where id = $1 for no key update`, [
        companyId,
      ]),
    )
    await client.query(sql`update companies set status = $2, version = version + 1 where id = $1`, [companyId, to])
    await logCompanyStatus(client, { eventId: id, companyId, actorId: viewer.id, before: company!.status, after: to })
  })
}

/** What can be corrected of a company by hand; how we stand with it is not among it. */
export interface CompanyEdit {
  version: number
  name?: string
  industry?: string | null
  size?: number | null
  country?: string | null
  region?: string | null
  city?: string | null
  custom?: Record<string, unknown>
}

/** Corrects what is known of a company. Throws a conflict with the version that holds where someone was faster. */
export async function editCompany(viewer: Viewer, id: Id, edit: CompanyEdit): Promise<{ version: number }> {
  const { version, custom: given, ...fields } = edit
  return transaction(async (client) => {
    await mustSeeCompany(viewer, id, client)
    const row = await firstRow(
      client.query<{ was: Record<string, unknown>; version: number; country: string }>(
        sql`
          select to_jsonb(c) - 'custom' || c.custom as was, c.version, coalesce(c.country, t.country) as country
          from companies c
            cross join team t
          where c.id = $1
          for no key update of c
        `,
        [id],
      ),
    )
    if (row!.version !== version) {
      throw new Refusal('conflict', 'Changed by someone else; showing the latest version', [], {
        version: row!.version,
      })
    }
    const custom = given && (await readCustom('company', given, client))
    const { name, industry, size, country, city } = fields
    const region = fields.region && tidyRegion(fields.region, country ?? row!.country)
    const set = Object.entries({
      name,
      name_key: name && companyKey(name),
      industry,
      size,
      country,
      region,
      city,
    }).filter(([, value]) => value !== undefined)
    const after = await firstRow(
      client.query<{ version: number }>(
        sql`
          update companies
          set ${[...set.map(([column], index) => `${column} = $${index + 3}`), 'custom = jsonb_strip_nulls(custom || $2)', 'version = version + 1'].join(', ')}
          where id = $1
          returning version
        `,
        [id, JSON.stringify(custom ?? {}), ...set.map(([, value]) => value)],
      ),
    )
    const { name_key: _key, ...columns } = Object.fromEntries(set)
    const changes = differences(row!.was, { ...columns, ...custom })
    if (Object.keys(changes).length) {
      const eventId = await logEvent(client, {
        kind: 'companyEdited',
        prospectId: null,
        companyId: id,
        actorId: viewer.id,
        payload: { fields: Object.keys(changes) },
      })
      await logTexts(client, eventId, null, { changes })
    }
    return { version: after!.version }
  })
}
