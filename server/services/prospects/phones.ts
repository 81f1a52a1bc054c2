import type { PhoneStatus, TextConsent } from '#core/enumerations'
import type { Id } from '#core/instant'
import { tidy } from '#core/text/names'
import { parsePhone } from '#core/text/phone'
import { newId } from '#shared/newId'
import { breaksUnique, db, type Db } from '../../db/pool'
import { recordEvents, type NewEvent } from '../../engine/recordEvents'
import { mustSee } from '../access/access'
import { notFound, Refusal, refusedBy } from '../access/errors'
import { editAlone, logEdit, putFirst } from './contacts'
import type { Viewer } from '../access/viewer'
import { firstRow, sql } from '../../db/sql'

interface PhoneEdit {
  number?: string
  kind?: string
  status?: PhoneStatus
  tags?: readonly string[]
  textConsent?: 'given' | 'declined'
  first?: boolean
}

/**
 * Does something to a number; where its status is set, or whether it gets texts, through the engine, which decides what
 * is called and texted.
 */
async function withStatus(
  viewer: Viewer,
  prospectId: Id,
  phoneId: Id,
  to: { status?: PhoneStatus | undefined; textConsent?: TextConsent | undefined },
  rest: (client: Db) => Promise<void>,
): Promise<void> {
  await mustSee(viewer, prospectId)
  const { rowCount } = await db().query(sql`select from phones where id = $1 and prospect_id = $2`, [
    phoneId,
    prospectId,
  ])
  if (!rowCount) throw notFound('number')
  const about = { prospectId, actorId: viewer.id, causedByEventId: null, phoneId }
  const events: NewEvent[] = [
    ...(to.status ? [{ ...about, id: newId(), kind: 'phoneStatusSet' as const, to: to.status }] : []),
    ...(to.textConsent ? [{ ...about, id: newId(), kind: 'textConsentSet' as const, to: to.textConsent }] : []),
  ]
  if (!events.length) return editAlone(prospectId, rest)
  await recordEvents(events, {
    alsoWrite: async (client, { results }) => {
      const problems = results.flatMap((result) => result.problems)
      if (problems.length) throw refusedBy(problems)
      await rest(client)
    },
  })
}

/**
 * Corrects a number: itself, its type, its status, what the team says of it, or whether it comes first. One that is
 * corrected has yet to be confirmed.
 */
export async function editPhone(viewer: Viewer, prospectId: Id, phoneId: Id, edit: PhoneEdit): Promise<void> {
  const number = edit.number === undefined ? undefined : await readNumber(edit.number, prospectId)
  const status = edit.status ?? (number ? 'unverified' : undefined)
  await withStatus(viewer, prospectId, phoneId, { status, textConsent: edit.textConsent }, async (client) => {
    const tags = edit.tags && [...new Set(edit.tags.map(tidy).filter(Boolean))].sort((a, b) => a.localeCompare(b))
    try {
      await client.query(
        sql`
          update phones
          set number = coalesce($3, number), kind = coalesce($4, kind), tags = coalesce($5, tags)
          where id = $2 and prospect_id = $1
        `,
        [prospectId, phoneId, number ?? null, edit.kind ?? null, tags ?? null],
      )
    } catch (error) {
      if (breaksUnique(error, 'phones_by_prospect')) {
        throw new Refusal('conflict', 'This number is already listed', [
          { field: 'number', message: 'This number is already listed' },
        ])
      }
      throw error
    }
    if (edit.first) await putFirst(client, 'phones', prospectId, phoneId)
    await logEdit(
      client,
      viewer,
      prospectId,
      Object.keys(edit).map((name) => `phone ${name}`),
    )
  })
}

/** Removes a number. One that was called stays in the history, marked as wrong. */
export async function removePhone(viewer: Viewer, prospectId: Id, phoneId: Id): Promise<{ removed: boolean }> {
  let removed = false
  await withStatus(viewer, prospectId, phoneId, { status: 'wrong' }, async (client) => {
    const { rowCount } = await client.query(
      sql`
        delete from phones n
        where n.id = $1
          and not exists (select from touches t where t.phone_id = n.id)
          and not exists (select from calls c where c.phone_id = n.id)
          and not exists (select from text_messages m where m.phone_id = n.id)
      `,
      [phoneId],
    )
    removed = rowCount === 1
    await logEdit(client, viewer, prospectId, ['phone'])
  })
  return { removed }
}

async function readNumber(raw: string, prospectId: Id): Promise<string> {
  const row = await firstRow(
    db().query<{ country: string }>(
      sql`
        select coalesce(p.country, t.country) as country
        from prospects p
          cross join team t
        where p.id = $1
      `,
      [prospectId],
    ),
  )
  const phone = parsePhone(raw, row?.country ?? null)
  if (!phone) {
    throw new Refusal('invalid', 'Enter a valid phone number', [
      { field: 'number', message: 'Enter a valid phone number' },
    ])
  }
  return phone.number
}
