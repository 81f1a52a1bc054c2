import { manages } from '#core/roles'
import { emptyParts } from '#core/filter/sqlTranslation'
import { companyKey, nameKey } from '#core/text/names'
import { callingCode } from '#core/text/phone'
import type { z } from 'zod'
import type { findAnything as endpoint } from '#shared/api/find'
import { db } from '../../db/pool'
import { limitedTo, visible } from '../access/access'
import { mayReadList } from '../lists/listAccess'
import { searchCondition } from '../lists/prospectRows'
import type { Viewer } from '../access/viewer'
import { firstRow, sql } from '../../db/sql'

type Found = z.output<typeof endpoint.response>

/** How many of each kind are shown, and how many of each way of finding someone are put in order. */
const SHOWN = { people: 8, others: 5 }
const LOOKED_AT = 400
/** Up to how many people there may be for everyone to be searched for a piece in the middle of a name. */
const FEW = 50_000

/** The rank of anyone who is found by where they are. */
const AT_COMPANY = 4

const begins = (text: string) => `${text.replace(/[\\%_]/g, '\\$&')}%`

/**
 * Finds anything by what someone types of it. Beginnings are looked up along indexes, however many people there are:
 * of first and last names, addresses, numbers and companies. Among few people, pieces in the middle are found too.
 */
export async function findAnything(viewer: Viewer, text: string): Promise<Found> {
  const [people, companies, lists, cadences] = await Promise.all([
    findPeople(viewer, text),
    findCompanies(viewer, text),
    findLists(viewer, text),
    findCadences(text),
  ])
  return { people, companies, lists, cadences }
}

async function findPeople(viewer: Viewer, text: string): Promise<Found['people']> {
  const parts = emptyParts([limitedTo(viewer)])
  const { values, parameter } = parts
  const { few, home } = await surroundings()
  const name = nameKey(text)
  const digits = text.replace(/\D/g, '')
  const address = text.trim().toLowerCase()
  // Only those the viewer may see are taken: among very many of a common beginning theirs would be missed otherwise.
  const way = (rank: number, from: string, condition: string) =>
    `(select p.id, ${rank} as rank from ${from} where ${condition} and ${visible('p', '$1')} limit ${LOOKED_AT})`
  const withCompany = 'prospects p left join companies c on c.id = p.company_id'
  const ways = [
    way(
      3,
      'email_addresses e join prospects p on p.id = e.prospect_id',
      `e.address like ${parameter(begins(address))}`,
    ),
    ...(name
      ? [
          way(1, 'prospects p', `p.name_key like ${parameter(begins(name))}`),
          way(2, 'prospects p', `split_part(p.name_key, ' ', -1) like ${parameter(begins(name))}`),
        ]
      : []),
    // A number as it is kept begins with the country; as it is said at home, it does not.
    ...(digits.length > 3
      ? [digits, `${callingCode(home) ?? ''}${digits.replace(/^0+/, '')}`].map((number) =>
          way(3, 'phones n join prospects p on p.id = n.prospect_id', `n.number like ${parameter(`+${number}%`)}`),
        )
      : []),
    ...(name ? [way(AT_COMPANY, withCompany, `c.name_key like ${parameter(begins(companyKey(text)))}`)] : []),
    ...(few ? [way(5, withCompany, searchCondition(text.trim(), parts))] : []),
  ]
  const { rows } = await db().query<Found['people'][number]>(
    sql`
      with hit as (
        select id, min(rank) as rank
        from (${ways.join(' union all ')}) h
        group by id
      )
      select
        p.id, btrim(p.first_name || ' ' || p.last_name) as name, p.title, c.name as company,
        hit.rank = ${AT_COMPANY} as "atCompany"
      from hit
        join prospects p on p.id = hit.id
        left join companies c on c.id = p.company_id
      order by hit.rank, p.status = 'archived', p.name_key, p.id
      limit ${SHOWN.people}
    `,
    values,
  )
  return rows
}

async function surroundings(): Promise<{ few: boolean; home: string }> {
  const row = await firstRow(
    db().query<{ people: number; country: string }>(
      sql`
        select (select reltuples::bigint from pg_class where oid = 'prospects'::regclass) as people, country
        from team
      `,
    ),
  )
  return { few: row!.people < FEW, home: row!.country }
}

async function findCompanies(viewer: Viewer, text: string): Promise<Found['companies']> {
  const { rows } = await db().query<Found['companies'][number]>(
    sql`
      select
        c.id, c.name,
        (select count(*) from prospects p where p.company_id = c.id and ${visible('p', '$1')})::int as people
      from (
        (select id, name, name_key from companies where name_key like $2 limit ${LOOKED_AT}) union (
          select id, name, name_key from companies where domain like $3 limit ${LOOKED_AT}
        )
      ) c
      where not exists (select from prospects p where p.company_id = c.id)
        or exists (select from prospects p where p.company_id = c.id and ${visible('p', '$1')})
      order by c.name_key, c.id
      limit ${SHOWN.others}
    `,
    [limitedTo(viewer), begins(companyKey(text) || text), begins(text.trim().toLowerCase())],
  )
  return rows
}

async function findLists(viewer: Viewer, text: string): Promise<Found['lists']> {
  const { rows } = await db().query<Found['lists'][number]>(
    sql`
      select l.id, l.name
      from lists l
      where position(lower($3) in lower(l.name)) > 0 and ${mayReadList('l', '$1', '$2')}
      order by l.position, l.id
      limit ${SHOWN.others}
    `,
    [viewer.id, manages(viewer), text.trim()],
  )
  return rows
}

async function findCadences(text: string): Promise<Found['cadences']> {
  const { rows } = await db().query<Found['cadences'][number]>(
    sql`
      select id, name
      from cadences
      where status <> 'archived' and position(lower($1) in lower(name)) > 0
      order by lower(name), id
      limit ${SHOWN.others}
    `,
    [text.trim()],
  )
  return rows
}
