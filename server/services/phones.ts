import { randomUUID } from 'node:crypto'
import type { PhoneStanding } from '#core/engine/situation'
import type { Id } from '#core/instant'
import { tidy } from '#core/text/names'
import { transaction, type Db } from '../db/pool'
import { happen } from '../engine/happen'
import { mustSee } from './access'
import { notFound, refusedBy } from './errors'
import type { Viewer } from './sessions'

interface PhoneEdit { kind?: string, standing?: PhoneStanding, tags?: readonly string[] }

/** Corrects what is known of a number: its type, its status, what the team says of it. The status decides whether it is called, so that it goes through the engine. */
export async function editPhone(viewer: Viewer, prospectId: Id, phoneId: Id, edit: PhoneEdit): Promise<void> {
  await mustSee(viewer, prospectId)
  const { standing } = edit
  if (standing === undefined) return transaction(client => correct(client, viewer, prospectId, phoneId, edit))
  await happen([{ id: randomUUID(), kind: 'phoneStandingSet', prospectId, actorId: viewer.id, causeId: null, phoneId, to: standing }], { inside: async (client, { results: [result], before }) => {
    if (before.phone[phoneId]?.prospectId !== prospectId) throw notFound('number')
    if (result!.problems.length) throw refusedBy(result!.problems)
    await correct(client, viewer, prospectId, phoneId, edit)
  } })
}

async function correct(client: Db, viewer: Viewer, prospectId: Id, phoneId: Id, { kind, tags: given, ...edit }: PhoneEdit): Promise<void> {
  await client.query('select from prospects where id = $1 for no key update', [prospectId])
  const tags = given && [...new Set(given.map(tidy).filter(Boolean))].sort((a, b) => a.localeCompare(b))
  const { rowCount } = await client.query('update phones set kind = coalesce($3, kind), tags = coalesce($4, tags) where id = $2 and prospect_id = $1', [prospectId, phoneId, kind ?? null, tags ?? null])
  if (!rowCount) throw notFound('number')
  await client.query('update prospects set version = version + 1 where id = $1', [prospectId])
  await client.query(`insert into happenings (id, at, kind, prospect_id, actor_id, data) values ($1, world_now(), 'prospectEdited', $2, $3, $4)`,
    [randomUUID(), prospectId, viewer.id, JSON.stringify({ fields: Object.keys({ ...(kind && { kind }), ...(tags && { tags }), ...edit }).map(name => `phone ${name}`) })])
}
