import { emptyParts } from '#core/filter/sqlTranslation'
import { callableUntil, isCallable, nextCallable } from '#core/calendar/callingHours'
import { placePerson, type Placed } from '#core/places/place'
import { whyNoCall, whyStopped } from '#core/engine/moves/stops'
import { attemptsOf, placeOf, type EngineState } from '#core/engine/state/engineState'
import { callingZones } from '#core/places/lookUp'
import type { Playbook } from '#core/engine/state/playbook'
import type { Id } from '#core/instant'
import { normalizeEmail } from '#core/text/email'
import { parsePhone, showPhone } from '#core/text/phone'
import type { Prospect, ProspectRow } from '#shared/api/prospects'
import { db } from '../../db/pool'
import { load } from '../../engine/load'
import { playbook } from '../../engine/playbook'
import { scheduledFor } from './delayedActions'
import { limitedTo, mustSee, visible } from '../access/access'
import { notFound, Refusal } from '../access/errors'
import { JOINED, ROW, searchCondition } from '../lists/prospectRows'
import type { Viewer } from '../access/viewer'
import { firstRow, sql } from '../../db/sql'

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
  const parts = emptyParts([limitedTo(viewer)])
  const all = [visible('p', '$1')]
  const add = (sql: (parameter: string) => string, value: unknown) => all.push(sql(parts.parameter(value)))
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
  if (search) all.push(searchCondition(search, parts))
  return { where: all.join(' and '), values: parts.values }
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
          p.title, p.time_zone as "timeZone", p.country, p.region, p.city, p.source, p.version,
          p.postal_code as "postalCode",
          p.rating, p.score, p.rated_by_score as "ratedByScore", p.status, p.custom,
          p.time_zone_is_manual as "timeZoneIsManual", ms(p.created_at) as "createdAt", p.email_types as "emailTypes",
          (
            select coalesce(json_object_agg(kind, count), '{}')
            from (select kind, count(*) as count from touches t where t.prospect_id = p.id group by kind) k
          ) as "touchCounts",
          (
            select json_build_object('dialer', k.dialer, 'since', ms(k.exported_at))
            from call_export_people x
              join call_exports k on k.id = x.export_id and k.ended_at is null
            where x.prospect_id = p.id and x.result_at is null
            order by k.exported_at desc
            limit 1
          ) as "atDialer",
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
                  'id', n.id, 'number', n.number, 'kind', n.kind, 'status', n.status, 'tags', n.tags,
                  'textConsent', n.text_consent
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
                  'id', a.id, 'title', a.title, 'startAt', ms(a.start_at), 'endAt', ms(a.end_at),
                  'timeZone', a.time_zone, 'status', a.status, 'place', a.place
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
  const scheduled = await scheduledFor(id, book)
  const { readerCountry, phones, ...rest } = row as Prospect & { readerCountry: string }
  return {
    ...rest,
    id,
    scheduled,
    timeZoneFrom: state.prospect[id]!.timeZoneFrom,
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
export function contacts(
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

/** The zone someone lives in by their address, else by their number, else the team's. */
export function placeBy(
  place: { country: string | null; region: string | null; number: string | null },
  home: { country: string; timeZone: string },
): Placed {
  return placePerson(
    { country: place.country, region: place.region, numbers: place.number ? [place.number] : [] },
    home,
  )
}
