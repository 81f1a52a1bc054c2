import { randomUUID } from 'node:crypto'
import type { ProspectStatus } from '#core/enumerations'
import { callableUntil, isCallable, nextCallable } from '#core/calendar/callingHours'
import { placePerson, type Placed } from '#core/places/place'
import { whyNoCall, whyStopped } from '#core/engine/stops'
import { attemptsOf, placeOf, type EngineState } from '#core/engine/engineState'
import { callingZones, tidyRegion } from '#core/places/lookUp'
import type { Playbook } from '#core/engine/playbook'
import type { Id } from '#core/instant'
import { emailDomain, normalizeEmail } from '#core/text/email'
import { companyKey, nameKey, splitName } from '#core/text/names'
import { parsePhone, showPhone } from '#core/text/phone'
import type { Prospect, ProspectRow, RatingGiven } from '#shared/api/prospects'
import { breaksUnique, db, transaction, type Db } from '../db/pool'
import { recordEvents, reactAndWrite } from '../engine/recordEvents'
import { load } from '../engine/load'
import { playbook } from '../engine/playbook'
import { isPublicMailDomain } from '../imports/check'
import { limitedTo, mustBeOnTeam, mustSee, visible } from './access'
import { differences } from './bulkValues'
import { customDefaults, readCustom } from './customFields'
import { notFound, Refusal, refusedBy } from './errors'
import { JOINED, ROW, searchCondition } from './prospectRows'
import { sourceNamed } from './sources'
import type { Viewer } from './sessions'
import { firstRow, sql } from '../db/sql'

/** What narrows a list of people. */
export interface ProspectQuery {
  search?: string
  stage?: string
  import?: Id
  owner?: Id | 'none'
  cadence?: Id
  after?: string
  limit: number
}

function conditions(viewer: Viewer, query: ProspectQuery): { where: string; values: unknown[] } {
  const values: unknown[] = [limitedTo(viewer)]
  const all = [visible('p', '$1')]
  const add = (sql: (parameter: string) => string, value: unknown) => all.push(sql(`$${values.push(value)}`))
  if (query.stage) add((p) => `p.stage_id = ${p}`, query.stage)
  if (query.import) add((p) => `p.import_id = ${p}::uuid`, query.import)
  if (query.owner === 'none') all.push('p.owner_id is null')
  else if (query.owner) add((p) => `p.owner_id = ${p}::uuid`, query.owner)
  if (query.cadence) {
    add(
      (p) =>
        sql`
          exists (
            select
            from enrollments e
            where e.prospect_id = p.id and e.cadence_id = ${p}::uuid and e.status <> 'ended'
          )
        `,
      query.cadence,
    )
  }
  const search = query.search?.trim()
  if (search) all.push(searchCondition(search, (value) => `$${values.push(value)}`))
  return { where: all.join(' and '), values }
}

/** People the viewer may see, newest first; `next` continues where a page ended. */
export async function listProspects(
  viewer: Viewer,
  query: ProspectQuery,
): Promise<{ prospects: ProspectRow[]; next: string | null; total: number }> {
  const { where, values } = conditions(viewer, query)
  const total = await db().query<{ count: number }>(
    sql`
      select count(*) as count
      from prospects p
        left join companies c on c.id = p.company_id
      where ${where}
    `,
    values,
  )
  const [at, id] = query.after?.split('_') ?? []
  const page =
    at && id && /^\d+$/.test(at) && /^[0-9a-f-]{36}$/.test(id)
      ? ` and (p.created_at, p.id) < (from_ms($${values.push(Number(at))}), $${values.push(id)}::uuid)`
      : ''
  const { rows } = await db().query<ProspectRow>(
    sql`
      select ${ROW}
      from ${JOINED}
      where ${where}${page}
      order by p.created_at desc, p.id desc
      limit ${query.limit + 1}
    `,
    values,
  )
  const prospects = rows.slice(0, query.limit)
  const last = prospects.at(-1)
  return {
    prospects,
    next: rows.length > query.limit && last ? `${last.createdAt}_${last.id}` : null,
    total: total.rows[0]!.count,
  }
}

/** One person with all that is known. */
export async function getProspect(viewer: Viewer, id: Id): Promise<Prospect> {
  await mustSee(viewer, id)
  const { state, playbookVersion } = await load(db(), [id])
  return describe(viewer, id, state, await playbook(db(), playbookVersion))
}

/** One person as screens show them, from an engine state that holds them. */
export async function describe(viewer: Viewer, id: Id, state: EngineState, book: Playbook): Promise<Prospect> {
  const row = await firstRow(
    db().query({
      name: 'describe-prospect',
      text: sql`
        select
          p.first_name as "firstName", p.last_name as "lastName", btrim(p.first_name || ' ' || p.last_name) as name,
          p.title, p.zone, p.country, p.region, p.city, p.source, p.version, p.postal_code as "postalCode",
          p.rating, p.score, p.rated_by_score as "ratedByScore", p.status, p.custom,
          p.zone_by_hand as "zoneByHand", ms(p.created_at) as "createdAt", p.email_types as "emailTypes",
          (
            select coalesce(json_object_agg(kind, count), '{}')
            from (select kind, count(*) as count from touches t where t.prospect_id = p.id group by kind) k
          ) as "touchCounts",
          (
            select json_build_object('id', k.id, 'name', k.name)
            from users k
            where k.id = p.relationship_owner_id
          ) as "relationshipOwner",
          (
            select coalesce(json_agg(json_build_object('id', t.id, 'name', t.name) order by lower(t.name)), '[]')
            from prospect_tags x
              join tags t on t.id = x.tag_id
            where x.prospect_id = p.id
          ) as tags, p.stop_call as "stopCall", p.stop_email as "stopEmail",
          json_build_object('id', s.id, 'name', s.name, 'kind', s.kind) as stage,
          case when c.id is not null then json_build_object('id', c.id, 'name', c.name, 'status', c.status) end
            as company, case when u.id is not null then json_build_object('id', u.id, 'name', u.name) end as owner,
          (
            select coalesce(
              json_agg(
                json_build_object(
                  'id', n.id, 'number', n.number, 'kind', n.kind, 'status', n.status, 'tags', n.tags
                ) order by n.position
              ), '[]'
            )
            from phones n
            where n.prospect_id = p.id
          ) as phones,
          (
            select coalesce(
              json_agg(
                json_build_object('id', e.id, 'address', e.address, 'status', e.status) order by e.position
              ), '[]'
            )
            from email_addresses e
            where e.prospect_id = p.id
          ) as emails,
          (
            select coalesce(
              json_agg(
                json_build_object(
                  'id', o.id, 'name', btrim(o.first_name || ' ' || o.last_name), 'title', o.title, 'stage', os.name
                ) order by o.name_key
              ), '[]'
            )
            from (
              select *
              from prospects o
              where o.company_id = p.company_id and o.id <> p.id and ${visible('o', '$2')}
              order by o.name_key
              limit 50
            ) o
              join stages os on os.id = o.stage_id
          ) as colleagues,
          (
            select coalesce(
              json_agg(
                json_build_object(
                  'id', e.id, 'cadenceId', e.cadence_id, 'cadence', ca.name, 'status', e.status, 'exit', e.exit,
                  'startedAt', ms(e.started_at), 'endedAt', ms(e.ended_at)
                ) order by e.started_at desc
              ), '[]'
            )
            from enrollments e
              join cadences ca on ca.id = e.cadence_id
            where e.prospect_id = p.id
          ) as enrollments,
          (
            select coalesce(
              json_agg(
                json_build_object(
                  'id', d.id, 'name', d.name, 'status', d.status, 'likelihood', d.likelihood, 'openedAt',
                  ms(d.opened_at), 'closedAt', ms(d.closed_at), 'value', d.value::float8, 'stageId',
                  d.deal_stage_id, 'expectedClose', to_char(d.expected_close, 'YYYY-MM-DD'), 'reason',
                  d.close_reason, 'prospectId', d.prospect_id, 'custom', d.custom
                ) order by d.opened_at desc
              ), '[]'
            )
            from deals d
            where d.prospect_id = p.id
              or (
                d.company_id = p.company_id
                  and exists (select from prospects o where o.id = d.prospect_id and ${visible('o', '$2')})
              )
          ) as deals,
          (
            select coalesce(
              json_agg(
                json_build_object(
                  'id', a.id, 'title', a.title, 'startAt', ms(a.start_at), 'endAt', ms(a.end_at), 'zone', a.zone,
                  'status', a.status, 'place', a.place
                ) order by a.start_at desc
              ), '[]'
            )
            from meetings a
            where a.prospect_id = p.id
          ) as meetings,
          (
            select coalesce(
              json_agg(
                json_build_object('id', t.id, 'kind', t.kind, 'title', t.title, 'dueAt', ms(t.due_at)) order by t.due_at
              ), '[]'
            )
            from tasks t
            where t.prospect_id = p.id and t.status = 'open'
          ) as tasks, (select country from team) as "readerCountry"
        from ${JOINED}
        where p.id = $1
      `,
      values: [id, limitedTo(viewer)],
    }),
  )
  if (!row) throw notFound('person')
  const { readerCountry, phones, ...rest } = row as Prospect & { readerCountry: string }
  return {
    ...rest,
    id,
    zoneFrom: state.prospect[id]!.zoneFrom,
    callingZones: callingZones(state.prospect[id]!).length,
    phones: phones.map((phone) => ({ ...phone, shown: showPhone(phone.number, readerCountry) })),
    calling: calling(id, state, book),
    attempts: attemptsOf(state, id),
    attemptsAllowed: book.attemptsAllowed,
  }
}

function calling(id: Id, state: EngineState, book: Playbook): Prospect['calling'] {
  const prospect = state.prospect[id]!
  const why = whyStopped(state, prospect, false) ?? whyNoCall(state, prospect)
  const place = placeOf(prospect)
  if (why) return { open: false, until: null, from: null, why }
  if (isCallable(state.now, book.callHours, place, book.holidays)) {
    return {
      open: true,
      why: null,
      until: callableUntil(state.now, book.callHours, place, book.holidays),
      from: null,
    }
  }
  try {
    return {
      open: false,
      why: null,
      until: null,
      from: nextCallable(state.now, book.callHours, place, book.holidays),
    }
  } catch {
    return {
      open: false,
      why: 'the team’s hours never fall into calling hours where they are',
      until: null,
      from: null,
    }
  }
}

/** Reads an address and a number as people write them; throws at the field that is wrong. */
function contacts(
  given: { email?: string; phone?: string },
  country: string | null,
): { email: string | null; phone: string | null } {
  const email = given.email?.trim() ? normalizeEmail(given.email) : null
  if (given.email?.trim() && !email) {
    throw new Refusal('invalid', 'Enter a valid email address', [
      { field: 'email', message: 'Enter a valid email address' },
    ])
  }
  const phone = given.phone?.trim() ? parsePhone(given.phone, country) : null
  if (given.phone?.trim() && !phone) {
    throw new Refusal('invalid', 'Enter a valid phone number', [
      { field: 'phone', message: 'Enter a valid phone number' },
    ])
  }
  return { email, phone: phone?.number ?? null }
}

/** Adds one person by hand. Somebody already known by address is given back instead, `known` true. */
export async function addProspect(
  viewer: Viewer,
  given: {
    name: string
    title?: string
    company?: string
    country?: string
    region?: string
    zone?: string
    email?: string
    phone?: string
  },
): Promise<{ id: Id; known: boolean }> {
  const { firstName, lastName } = splitName(given.name)
  const key = nameKey(given.name)
  if (!key) throw new Refusal('invalid', 'Enter a name', [{ field: 'name', message: 'Enter a name' }])
  const id = randomUUID()
  return transaction(async (client, later) => {
    const team = await firstRow(client.query<{ country: string; zone: string }>(sql`select country, zone from team`))
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
        [limitedTo(viewer), email, phone, key],
      ),
    )
    if (known) return { id: known.id, known: true }
    const companyId = await companyFor(client, given.company, email)
    const placed = placePerson(
      { zone: given.zone, country: given.country, region: given.region, numbers: phone ? [phone] : [] },
      team!,
    )
    await client.query(
      sql`
        insert into prospects (
          id, first_name, last_name, name_key, title, company_id, owner_id, stage_id, zone, zone_from, country,
          region, custom, created_at
        )
        values ($1, $2, $3, $4, $5, $6, $7, first_stage(), $8, $9, $10, $11, $12, world_now())
      `,
      [
        id,
        firstName,
        lastName,
        key,
        given.title?.trim() || null,
        companyId,
        viewer.id,
        placed.zone,
        placed.zoneFrom,
        placed.country,
        given.region?.trim() ? tidyRegion(given.region, placed.country ?? team!.country) : null,
        JSON.stringify(await customDefaults('prospect', client)),
      ],
    )
    if (email) await addEmail(client, id, email)
    if (phone) {
      await client.query(sql`insert into phones (id, prospect_id, number) values ($1, $2, $3)`, [
        randomUUID(),
        id,
        phone,
      ])
    }
    const { state, playbookVersion } = await load(client, [id])
    const added = {
      id: randomUUID(),
      kind: 'prospectAdded' as const,
      prospectId: id,
      actorId: viewer.id,
      causedByEventId: null,
    }
    reactAndWrite(client, later, [added], state, await playbook(client, playbookVersion))
    return { id, known: false }
  })
}

async function addEmail(client: Db, prospectId: Id, address: string): Promise<void> {
  try {
    await client.query(
      sql`
        insert into email_addresses (id, prospect_id, address, position)
        values ($1, $2, $3, (select count(*) from email_addresses where prospect_id = $2))
      `,
      [randomUUID(), prospectId, address],
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
async function companyFor(client: Db, name: string | undefined, email: string | null): Promise<Id | null> {
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
      sql`
        update companies
        set domain = $2, version = version + 1
        where id = $1 and domain is null
      `,
      [found.id, domain],
    )
  }
  if (found) return found.id
  const made = await firstRow(
    client.query<{ id: Id }>(
      sql`
        insert into companies (id, name, name_key, domain, custom, created_at)
        values ($1, $2, $3, $4, $5, world_now())
        on conflict (domain)
        where domain is not null do update set name = companies.name
        returning id
      `,
      [
        randomUUID(),
        name?.trim() || domain,
        key || domain,
        domain,
        JSON.stringify(await customDefaults('company', client)),
      ],
    ),
  )
  return made!.id
}

/** The zone somebody lives in by their address, else by their number, else the team's. */
function placeBy(
  place: { country: string | null; region: string | null; number: string | null },
  home: { country: string; zone: string },
): Placed {
  return placePerson(
    { country: place.country, region: place.region, numbers: place.number ? [place.number] : [] },
    home,
  )
}

/** What can be corrected by hand; progress is not among it. */
export interface ProspectEdit {
  version: number
  firstName?: string
  lastName?: string
  title?: string | null
  city?: string | null
  region?: string | null
  country?: string | null
  zone?: string | null
  emailTypes?: string[]
  ownerId?: Id | null
  postalCode?: string | null
  source?: string | null
  rating?: RatingGiven
  status?: ProspectStatus
  reason?: string
  relationshipOwnerId?: Id | null
  custom?: Record<string, unknown>
  addEmail?: string
  addPhone?: string
}

/** What a given rating changes: by hand it stands as it is; by the score, the database works it out from that. */
function rated(rating: RatingGiven | undefined): Record<string, unknown> {
  if (rating === undefined) return {}
  return rating === 'score' ? { rated_by_score: true } : { rating, rated_by_score: false }
}

/** Throws where somebody who is no manager takes people out of work for good. */
export function mayArchive(viewer: Viewer, to: string): void {
  if (to === 'archived' && viewer.role === 'rep') throw new Refusal('not_allowed', 'Only a manager can archive people')
}

/** Corrects what is known of a person. Throws a conflict with the version that holds where somebody was faster. */
export async function editProspect(viewer: Viewer, id: Id, edit: ProspectEdit): Promise<{ version: number }> {
  const { status } = edit
  if (status === undefined) return transaction((client) => correct(client, viewer, id, edit))
  // The status decides what goes to the person at all, so that it goes through the engine.
  let corrected = { version: edit.version }
  await mustSee(viewer, id)
  mayArchive(viewer, status)
  const event = {
    id: randomUUID(),
    kind: 'prospectStatusSet' as const,
    prospectId: id,
    actorId: viewer.id,
    causedByEventId: null,
    to: status,
    reason: edit.reason ?? null,
  }
  await recordEvents([event], {
    alsoWrite: async (client, { results: [result] }) => {
      if (result!.problems.length) throw refusedBy(result!.problems)
      const changed = result!.effects.some((effect) => effect.entity === 'prospect' && effect.id === id)
      corrected = await correct(client, viewer, id, { ...edit, version: edit.version + (changed ? 1 : 0) })
    },
  })
  return corrected
}

interface CorrectedRow {
  was: Record<string, unknown>
  version: number
  erased: boolean
  first_name: string
  last_name: string
  country: string | null
  region: string | null
  zone: string
  zone_by_hand: boolean
  home: string
  home_zone: string
  number: string | null
}

async function correct(client: Db, viewer: Viewer, id: Id, edit: ProspectEdit): Promise<{ version: number }> {
  const { version, addEmail: newEmail, addPhone: newPhone, status: _status, reason: _reason, ...fields } = edit
  await mustSee(viewer, id, client)
  const row = await firstRow(
    client.query<CorrectedRow>(
      sql`
        select
          to_jsonb(p) as was, p.version, p.erased_at is not null as erased, p.first_name, p.last_name, p.country,
          p.region, p.zone, p.zone_by_hand, t.country as home, t.zone as home_zone,
          (select number from phones n where n.prospect_id = p.id order by n.position, n.id limit 1) as number
        from prospects p
          cross join team t
        where p.id = $1
        for no key update of p
      `,
      [id],
    ),
  )
  if (row!.erased) throw new Refusal('refused', 'This person was erased on request')
  if (row!.version !== version) {
    throw new Refusal('conflict', 'Changed by someone else; showing the latest version', [], {
      version: row!.version,
    })
  }
  const key = nameKey(`${fields.firstName ?? row!.first_name} ${fields.lastName ?? row!.last_name}`)
  if (!key) {
    throw new Refusal('invalid', 'Enter a name', [{ field: 'firstName', message: 'Enter a name' }])
  }
  if (fields.ownerId) await mustBeOnTeam(fields.ownerId, client)
  if (fields.relationshipOwnerId) await mustBeOnTeam(fields.relationshipOwnerId, client)
  const custom = fields.custom && (await readCustom('prospect', fields.custom, client))
  const { email, phone } = contacts({ email: newEmail, phone: newPhone }, row!.country ?? row!.home)
  if (email) await addEmail(client, id, email)
  if (phone) {
    await client.query(
      sql`
        insert into phones (id, prospect_id, number, position)
        values ($1, $2, $3, (select count(*) from phones where prospect_id = $2))
        on conflict (prospect_id, number) do nothing
      `,
      [randomUUID(), id, phone],
    )
  }
  const byHand = fields.zone === undefined ? undefined : fields.zone !== null
  if (fields.region) fields.region = tidyRegion(fields.region, fields.country ?? row!.country ?? row!.home)
  // Where nobody has said otherwise, the clock follows address and number.
  const follows =
    byHand === false ||
    (byHand === undefined &&
      !row!.zone_by_hand &&
      (fields.country !== undefined || fields.region !== undefined || phone !== null))
  const placed = follows
    ? placeBy(
        {
          country: fields.country === undefined ? row!.country : fields.country,
          region: fields.region === undefined ? row!.region : fields.region,
          number: row!.number ?? phone,
        },
        { country: row!.home, zone: row!.home_zone },
      )
    : null
  const zone = placed?.zone ?? fields.zone ?? undefined
  const zoneFrom = placed?.zoneFrom ?? (byHand ? 'given' : undefined)
  const columns: Record<string, unknown> = {
    first_name: fields.firstName,
    last_name: fields.lastName,
    title: fields.title,
    city: fields.city,
    region: fields.region,
    country: fields.country,
    zone,
    zone_from: zoneFrom,
    zone_by_hand: byHand,
    email_types: fields.emailTypes,
    owner_id: fields.ownerId,
    postal_code: fields.postalCode,
    source: fields.source === undefined ? undefined : await sourceNamed(fields.source, client),
    ...rated(fields.rating),
    relationship_owner_id: fields.relationshipOwnerId,
  }
  const set = Object.entries(columns).filter(([, value]) => value !== undefined)
  const after = await firstRow(
    client.query<{ version: number }>(
      sql`
        update prospects
        set ${[...set.map(([column], index) => `${column} = $${index + 3}`), 'name_key = $2', 'version = version + 1'].join(', ')}
        where id = $1
        returning version
      `,
      [id, key, ...set.map(([, value]) => value)],
    ),
  )
  if (custom) {
    await client.query(sql`update prospects set custom = jsonb_strip_nulls(custom || $2) where id = $1`, [
      id,
      JSON.stringify(custom),
    ])
  }
  // Open work goes along with its person.
  if (fields.ownerId !== undefined) {
    await client.query(sql`update tasks set owner_id = $2 where prospect_id = $1 and status = 'open'`, [
      id,
      fields.ownerId,
    ])
  }
  if (zone && zone !== row!.zone) {
    await client.query(sql`update tasks set zone = $2 where prospect_id = $1 and status = 'open'`, [id, zone])
  }
  const eventId = randomUUID()
  await client.query(
    sql`
      insert into events (id, at, kind, prospect_id, actor_id, payload)
      values ($1, world_now(), 'prospectEdited', $2, $3, $4)
    `,
    [
      eventId,
      id,
      viewer.id,
      JSON.stringify({
        fields: [
          ...set.map(([column]) => column),
          ...(email ? ['email'] : []),
          ...(phone ? ['phone'] : []),
          ...Object.keys(custom ?? {}),
        ],
      }),
    ],
  )
  const { custom: ownBefore, ...before } = row!.was
  const changes = differences(
    { ...before, ...(ownBefore as object) },
    { ...Object.fromEntries(set), ...custom, ...(email && { email }), ...(phone && { phone }) },
  )
  // What it was and is says who somebody is: it stands beside the log.
  if (Object.keys(changes).length) {
    await client.query(
      sql`
        insert into event_texts (event_id, prospect_id, texts)
        values ($1, $2, $3)
      `,
      [eventId, id, JSON.stringify({ changes })],
    )
  }
  return { version: after!.version }
}
