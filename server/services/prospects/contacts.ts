import { logEvent } from '../../engine/eventLog'
import type { EmailAddressStatus } from '#core/enumerations'
import type { Id } from '#core/instant'
import { normalizeEmail } from '#core/text/email'
import { newId } from '#shared/newId'
import { breaksUnique, db, transaction, type Db } from '../../db/pool'
import { recordEvents } from '../../engine/recordEvents'
import { mustSee } from '../access/access'
import { notFound, Refusal, refusedBy } from '../access/errors'
import type { Viewer } from '../access/viewer'
import { sql } from '../../db/sql'

/** Logs that what is known of a person was edited; the names of the fields alone. */
export async function logEdit(client: Db, viewer: Viewer, prospectId: Id, fields: readonly string[]): Promise<void> {
  await client.query(sql`update prospects set version = version + 1 where id = $1`, [prospectId])
  await logEvent(client, { kind: 'prospectEdited', prospectId, actorId: viewer.id, payload: { fields } })
}

/** Puts a number or an address before the person's others. */
export async function putFirst(client: Db, table: 'phones' | 'email_addresses', prospectId: Id, id: Id): Promise<void> {
  await client.query(
    sql`
      update ${table} x
      set position = place.n
      from (
        select y.id, row_number() over (order by y.id <> $2, y.position, y.id) - 1 as n
        from ${table} y
        where y.prospect_id = $1
      ) place
      where x.id = place.id
    `,
    [prospectId, id],
  )
}

/** Edits what belongs to one person and means nothing to the engine, one edit after the other. */
export async function editAlone(prospectId: Id, edit: (client: Db) => Promise<void>): Promise<void> {
  await transaction(async (client) => {
    await client.query(sql`select from prospects where id = $1 for no key update`, [prospectId])
    await edit(client)
  })
}

async function withAddress(
  viewer: Viewer,
  prospectId: Id,
  emailAddressId: Id,
  to: EmailAddressStatus | undefined,
  rest: (client: Db) => Promise<void>,
): Promise<void> {
  await mustSee(viewer, prospectId)
  const { rowCount } = await db().query(sql`select from email_addresses where id = $1 and prospect_id = $2`, [
    emailAddressId,
    prospectId,
  ])
  if (!rowCount) throw notFound('address')
  if (to === undefined) return editAlone(prospectId, rest)
  await recordEvents(
    [
      {
        id: newId(),
        kind: 'addressStatusSet',
        prospectId,
        actorId: viewer.id,
        causedByEventId: null,
        emailAddressId,
        to,
      },
    ],
    {
      alsoWrite: async (client, { results: [result] }) => {
        if (result!.problems.length) throw refusedBy(result!.problems)
        await rest(client)
      },
    },
  )
}

/** Corrects an email address, says whether it works, or puts it first. One that is corrected is taken to work. */
export async function editEmail(
  viewer: Viewer,
  prospectId: Id,
  emailAddressId: Id,
  edit: { address?: string; status?: EmailAddressStatus; first?: boolean },
): Promise<void> {
  const address = edit.address === undefined ? undefined : normalizeEmail(edit.address)
  if (address === null) {
    throw new Refusal('invalid', 'Enter a valid email address', [
      { field: 'address', message: 'Enter a valid email address' },
    ])
  }
  await withAddress(viewer, prospectId, emailAddressId, edit.status ?? (address ? 'ok' : undefined), async (client) => {
    try {
      if (address) {
        await client.query(sql`update email_addresses set address = $2 where id = $1`, [emailAddressId, address])
      }
    } catch (error) {
      if (breaksUnique(error, 'email_addresses_by_address')) {
        throw new Refusal('conflict', 'Another prospect has this email address', [
          { field: 'address', message: 'Another prospect has this email address' },
        ])
      }
      throw error
    }
    if (edit.first) await putFirst(client, 'email_addresses', prospectId, emailAddressId)
    await logEdit(
      client,
      viewer,
      prospectId,
      Object.keys(edit).map((name) => `email ${name}`),
    )
  })
}

/** Removes an email address. One that was written to stays in the history, marked as not working. */
export async function removeEmail(viewer: Viewer, prospectId: Id, emailAddressId: Id): Promise<{ removed: boolean }> {
  let removed = false
  await withAddress(viewer, prospectId, emailAddressId, 'bounced', async (client) => {
    const { rowCount } = await client.query(
      sql`
        delete from email_addresses e
        where e.id = $1 and not exists (select from email_messages m where m.email_address_id = e.id)
      `,
      [emailAddressId],
    )
    removed = rowCount === 1
    await logEdit(client, viewer, prospectId, ['email'])
  })
  return { removed }
}
