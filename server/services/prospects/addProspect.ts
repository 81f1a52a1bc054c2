import { placePerson } from '#core/places/place'
import { tidyRegion } from '#core/places/lookUp'
import type { Id } from '#core/instant'
import { emailDomain } from '#core/text/email'
import { companyKey, nameKey, splitName } from '#core/text/names'
import { newId } from '#shared/newId'
import { breaksUnique, transaction, type Db, type Deferred } from '../../db/pool'
import { loggedCompanyUpdate, logEvent } from '../../engine/eventLog'
import { reactAndWrite } from '../../engine/recordEvents'
import { load } from '../../engine/load'
import { playbook } from '../../engine/playbook'
import { isPublicMailDomain } from '../../imports/check'
import { limitedTo, visible } from '../access/access'
import { customDefaults } from '../fields/customFields'
import { Refusal } from '../access/errors'
import type { Viewer } from '../access/viewer'
import { firstRow, sql } from '../../db/sql'
import { contacts } from './prospects'

/** What is known of someone who is added. */
interface PersonGiven {
  name: string
  title?: string
  company?: string
  country?: string
  region?: string
  timeZone?: string
  email?: string
  phone?: string
}

/** Adds one person by hand. Someone already known by address is given back instead, `known` true. */
export async function addProspect(viewer: Viewer, given: PersonGiven): Promise<{ id: Id; known: boolean }> {
  const by = { ownerId: viewer.id, actorId: viewer.id, seenBy: limitedTo(viewer) }
  return transaction(async (client, later) => {
    const { id, known } = await putPerson(client, later, given, by)
    return { id, known }
  })
}

/** Who puts someone among the prospects, and how. */
interface Putting {
  ownerId: Id | null
  actorId: Id | null
  /** Among whose people it is asked whether they are known; null for everyone. */
  seenBy: Id | null
  source?: string | null
  /** Values of custom fields, besides the defaults. */
  custom?: Readonly<Record<Id, unknown>>
}

/**
 * Finds someone by address, or by number and name, or adds them inside a transaction, with what follows. Gives the
 * number as it is kept. Throws Refusal at the field that is wrong.
 */
export async function putPerson(
  client: Db,
  later: Deferred,
  given: PersonGiven,
  { ownerId, actorId, seenBy, source = null, custom = {} }: Putting,
): Promise<{ id: Id; known: boolean; phone: string | null }> {
  const { firstName, lastName } = splitName(given.name)
  const key = nameKey(given.name)
  if (!key) throw new Refusal('invalid', 'Enter a name', [{ field: 'name', message: 'Enter a name' }])
  const id = newId()
  const team = await firstRow(
    client.query<{ country: string; timeZone: string }>(sql`select country, time_zone as "timeZone" from team`),
  )
  const { email, phone } = contacts(given, given.country?.toUpperCase() || team!.country)
  const known = await firstRow(
    client.query<{ id: Id }>(
      sql`
          select p.id
          from prospects p
          where ${visible('p', '$1')}
            and (
              exists (select from email_addresses e where e.prospect_id = p.id and e.address = $2)
                or exists (select from phones n where n.prospect_id = p.id and n.number = $3 and p.name_key = $4)
            )
          limit 1
        `,
      [seenBy, email, phone, key],
    ),
  )
  if (known) return { id: known.id, known: true, phone }
  const companyId = await companyFor(client, actorId, given.company, email)
  const placed = placePerson(
    { timeZone: given.timeZone, country: given.country, region: given.region, numbers: phone ? [phone] : [] },
    team!,
  )
  await client.query(
    sql`
        insert into prospects (
          id, first_name, last_name, name_key, title, company_id, owner_id, stage_id, time_zone, time_zone_from,
          country, region, custom, source, created_at
        )
        values ($1, $2, $3, $4, $5, $6, $7, first_stage(), $8, $9, $10, $11, $12, $13, world_now())
      `,
    [
      id,
      firstName,
      lastName,
      key,
      given.title?.trim() || null,
      companyId,
      ownerId,
      placed.timeZone,
      placed.timeZoneFrom,
      placed.country,
      given.region?.trim() ? tidyRegion(given.region, placed.country ?? team!.country) : null,
      JSON.stringify({ ...(await customDefaults('prospect', client)), ...custom }),
      source,
    ],
  )
  if (email) await addEmail(client, id, email)
  if (phone) {
    await client.query(sql`insert into phones (id, prospect_id, number) values ($1, $2, $3)`, [newId(), id, phone])
  }
  const { state, playbookVersion } = await load(client, [id])
  const added = {
    id: newId(),
    kind: 'prospectAdded' as const,
    prospectId: id,
    actorId,
    causedByEventId: null,
  }
  reactAndWrite(client, later, [added], state, await playbook(client, playbookVersion))
  return { id, known: false, phone }
}

export async function addEmail(client: Db, prospectId: Id, address: string): Promise<void> {
  try {
    await client.query(
      sql`
        insert into email_addresses (id, prospect_id, address, position)
        values ($1, $2, $3, (select count(*) from email_addresses where prospect_id = $2))
      `,
      [newId(), prospectId, address],
    )
  } catch (error) {
    if (breaksUnique(error, 'email_addresses_by_address')) {
      throw new Refusal('conflict', 'Another prospect has this email address', [
        { field: 'email', message: 'Another prospect has this email address' },
      ])
    }
    throw error
  }
}

/**
 * The company a person added by hand belongs to: by the address's domain, else by name; made where there is none yet.
 */
async function companyFor(
  client: Db,
  userId: Id | null,
  name: string | undefined,
  email: string | null,
): Promise<Id | null> {
  const domain = email && !isPublicMailDomain(emailDomain(email)) ? emailDomain(email) : null
  const key = name?.trim() ? companyKey(name) : ''
  if (!domain && !key) return null
  // A name alone means a company of that name, unless that one writes from another domain.
  const found = await firstRow(
    client.query<{ id: Id; domain: string | null }>(
      sql`
        select c.id, c.domain
        from companies c
          left join company_aliases a on a.company_id = c.id and (a.kind, a.value) in (('domain', $1), ('name', $2))
        where c.domain = $1
          or a.kind = 'domain'
          or (a.kind = 'name' and ($1::text is null or c.domain is null))
          or ($2 <> '' and c.name_key = $2 and ($1::text is null or c.domain is null))
        order by (c.domain = $1) desc nulls last, (a.value is not null), c.created_at
        limit 1
      `,
      [domain, key],
    ),
  )
  if (found && domain && !found.domain) {
    await client.query(
      loggedCompanyUpdate({
        set: 'domain = $2',
        from: '(select) one',
        where: 'c.id = $1 and c.domain is null',
        actor: '$3::uuid',
        importId: 'null',
      }),
      [found.id, domain, userId],
    )
  }
  if (found) return found.id
  const made = await firstRow(
    client.query<{ id: Id; added: boolean }>(
      sql`
        insert into companies (id, name, name_key, domain, custom, created_at)
        values ($1, $2, $3, $4, $5, world_now())
        on conflict (domain)
        where domain is not null do update set name = companies.name
        returning id, xmax = 0 as added
      `,
      [newId(), name?.trim() || domain, key || domain, domain, JSON.stringify(await customDefaults('company', client))],
    ),
  )
  if (made!.added) {
    await logEvent(client, { kind: 'companyAdded', prospectId: null, companyId: made!.id, actorId: userId })
  }
  return made!.id
}
