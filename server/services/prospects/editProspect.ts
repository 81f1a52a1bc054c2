import { onlyCalls } from '#core/roles'
import { logEvent, logTexts } from '../../engine/eventLog'
import type { ProspectStatus } from '#core/enumerations'
import { tidyRegion } from '#core/places/lookUp'
import type { Id } from '#core/instant'
import { nameKey } from '#core/text/names'
import type { RatingGiven } from '#shared/api/prospects'
import { newId } from '#shared/newId'
import { transaction, type Db } from '../../db/pool'
import { sayUserChanged } from '../../db/userChanges'
import { recordEvents } from '../../engine/recordEvents'
import { mayArchive, mustBeOnTeam, mustSee } from '../access/access'
import { mustTakeNew } from '../team/overdue'
import { differences } from '../bulk/bulkValues'
import { readCustom } from '../fields/customFields'
import { Refusal, refusedBy } from '../access/errors'
import { sourceNamed } from '../fields/sources'
import { notifyOwner } from '../notifications/notifications'
import type { Viewer } from '../access/viewer'
import { firstRow, sql } from '../../db/sql'
import { contacts, placeBy } from './prospects'
import { addEmail } from './addProspect'

/** What can be corrected by hand; progress is not among it. */
export interface ProspectEdit {
  version: number
  firstName?: string
  lastName?: string
  title?: string | null
  city?: string | null
  region?: string | null
  country?: string | null
  timeZone?: string | null
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

/** Corrects what is known of a person. Throws a conflict with the version that holds where someone was faster. */
export async function editProspect(viewer: Viewer, id: Id, edit: ProspectEdit): Promise<{ version: number }> {
  const { status } = edit
  if (onlyCalls(viewer)) mustBeDetails(edit)
  if (status === undefined) return transaction((client) => correct(client, viewer, id, edit))
  // The status decides what goes to the person at all, so that it goes through the engine.
  let corrected = { version: edit.version }
  await mustSee(viewer, id)
  mayArchive(viewer, status)
  const event = {
    id: newId(),
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

/** What callers may fill in of the person in hand: what a gate asks them for. */
const DETAILS = new Set([
  ...['version', 'firstName', 'lastName', 'title', 'city', 'region', 'country', 'postalCode'],
  ...['custom', 'addEmail', 'addPhone'],
])
function mustBeDetails(edit: ProspectEdit): void {
  const field = Object.keys(edit).find((key) => !DETAILS.has(key))
  if (field) {
    throw new Refusal('not_allowed', 'Callers can only fill in details', [{ field, message: 'Not for callers' }])
  }
}

interface CorrectedRow {
  owner_id: Id | null
  was: Record<string, unknown>
  version: number
  erased: boolean
  first_name: string
  last_name: string
  country: string | null
  region: string | null
  timeZone: string
  time_zone_is_manual: boolean
  home: string
  home_time_zone: string
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
          p.owner_id, p.region, p.time_zone as "timeZone", p.time_zone_is_manual, t.country as home,
          t.time_zone as home_time_zone,
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
  // A rep may take a prospect up themselves.
  if (fields.ownerId && fields.ownerId !== row!.owner_id && fields.ownerId !== viewer.id) {
    await mustTakeNew(fields.ownerId, 'ownerId', client)
  }
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
      [newId(), id, phone],
    )
  }
  const byHand = fields.timeZone === undefined ? undefined : fields.timeZone !== null
  if (fields.region) fields.region = tidyRegion(fields.region, fields.country ?? row!.country ?? row!.home)
  // Where nobody has said otherwise, the clock follows address and number.
  const follows =
    byHand === false ||
    (byHand === undefined &&
      !row!.time_zone_is_manual &&
      (fields.country !== undefined || fields.region !== undefined || phone !== null))
  const placed = follows
    ? placeBy(
        {
          country: fields.country === undefined ? row!.country : fields.country,
          region: fields.region === undefined ? row!.region : fields.region,
          number: row!.number ?? phone,
        },
        { country: row!.home, timeZone: row!.home_time_zone },
      )
    : null
  const timeZone = placed?.timeZone ?? fields.timeZone ?? undefined
  const timeZoneFrom = placed?.timeZoneFrom ?? (byHand ? 'given' : undefined)
  const columns: Record<string, unknown> = {
    first_name: fields.firstName,
    last_name: fields.lastName,
    title: fields.title,
    city: fields.city,
    region: fields.region,
    country: fields.country,
    time_zone: timeZone,
    time_zone_from: timeZoneFrom,
    time_zone_is_manual: byHand,
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
    if (fields.ownerId && fields.ownerId !== row!.owner_id) await notifyOwner(client, id, fields.ownerId, viewer.id)
    await client.query(sql`update tasks set owner_id = $2 where prospect_id = $1 and status = 'open'`, [
      id,
      fields.ownerId,
    ])
    sayUserChanged(client, 'queue', [fields.ownerId, row!.owner_id].filter(Boolean) as Id[])
  }
  if (timeZone && timeZone !== row!.timeZone) {
    await client.query(sql`update tasks set time_zone = $2 where prospect_id = $1 and status = 'open'`, [id, timeZone])
  }
  const fieldsChanged = [
    ...set.map(([column]) => column),
    ...(email ? ['email'] : []),
    ...(phone ? ['phone'] : []),
    ...Object.keys(custom ?? {}),
  ]
  const eventId = await logEvent(client, {
    kind: 'prospectEdited',
    prospectId: id,
    actorId: viewer.id,
    payload: { fields: fieldsChanged },
  })
  const { custom: ownBefore, ...before } = row!.was
  const changes = differences(
    { ...before, ...(ownBefore as object) },
    { ...Object.fromEntries(set), ...custom, ...(email && { email }), ...(phone && { phone }) },
  )
  // What it was and is says who someone is: it stands beside the log.
  if (Object.keys(changes).length) await logTexts(client, eventId, id, { changes })
  return { version: after!.version }
}
