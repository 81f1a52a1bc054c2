import type { SendingWindow as CoreWindow } from '#core/calendar/sendingWindow'
import type { Id } from '#core/instant'
import type { SendingWindow } from '#shared/api/email/sending'
import { newId } from '#shared/newId'
import { breaksUnique, db, transaction, type Db } from '../../db/pool'
import { firstRow, sql } from '../../db/sql'
import { playbookChanged } from '../../engine/playbook'
import { notFound, Refusal } from '../access/errors'

const NO_WINDOW = 'This sending window is no longer there'

type Content = Pick<SendingWindow, 'name' | 'days' | 'from' | 'to' | 'clock' | 'holidays'>

/** Sending windows by name, the default one first, each with the cadences that use it. */
export async function listSendingWindows(): Promise<{ windows: SendingWindow[] }> {
  const { rows } = await db().query<SendingWindow>(sql`
    select
      w.id, w.version, w.is_default as "isDefault", w.name, w.days, w.opens as "from", w.closes as "to", w.clock,
      w.holidays,
      (
        select coalesce(json_agg(json_build_object('id', c.id, 'name', c.name) order by c.name), '[]')
        from cadences c
        where c.window_id = w.id and c.status <> 'archived'
      ) as cadences
    from sending_windows w
    order by w.is_default desc, lower(w.name)
  `)
  return { windows: rows }
}

/** A window as cadences know it; the default one for null. Throws at the field where it is not there. */
export async function readWindow(id: Id | null): Promise<CoreWindow> {
  const row = await firstRow(
    db().query<CoreWindow>(
      sql`
        select json_build_object('days', days, 'from', opens, 'to', closes) as hours, clock, holidays
        from sending_windows
        where id = coalesce($1, default_window_id())
      `,
      [id],
    ),
  )
  if (!row) throw new Refusal('invalid', NO_WINDOW, [{ field: 'windowId', message: NO_WINDOW }])
  return row
}

function nameTaken(error: unknown): never {
  if (!breaksUnique(error, 'sending_windows_by_name')) throw error
  const message = 'Another sending window has this name'
  throw new Refusal('conflict', message, [{ field: 'name', message }])
}

/** Adds a window. Throws at the name where another one has it. */
export async function addSendingWindow({ name, days, from, to, clock, holidays }: Content): Promise<{ id: Id }> {
  const id = newId()
  await db()
    .query(
      sql`
        insert into sending_windows (id, name, days, opens, closes, clock, holidays)
        values ($1, $2, $3, $4, $5, $6, $7)
      `,
      [id, name, days, from, to, clock, holidays],
    )
    .catch(nameTaken)
  return { id }
}

/**
 * Changes a window for all cadences that use it. Emails that wait for it are looked at again at once; one that has its
 * moment loses it where that lies outside the window by then.
 */
export async function editSendingWindow(
  id: Id,
  { version, isDefault, name, days, from, to, clock, holidays }: Content & { version: number; isDefault: boolean },
): Promise<{ version: number }> {
  return transaction(async (client) => {
    const row = await firstRow(
      client.query<{ version: number }>(sql`select version from sending_windows where id = $1 for update`, [id]),
    )
    if (!row) throw notFound('sending window')
    if (row.version !== version) {
      throw new Refusal('conflict', 'Changed by someone else. Load it again', [], { version: row.version })
    }
    if (isDefault) await client.query(sql`update sending_windows set is_default = false where is_default`)
    await client
      .query(
        sql`
          update sending_windows
          set
            name = $2, days = $3, opens = $4, closes = $5, clock = $6, holidays = $7,
            is_default = is_default or $8, version = version + 1
          where id = $1
        `,
        [id, name, days, from, to, clock, holidays, isDefault],
      )
      .catch(nameTaken)
    await playbookChanged(client)
    await askAgain(client, id)
    return { version: version + 1 }
  })
}

/** Emails that wait for the window ask again now. */
async function askAgain(client: Db, windowId: Id): Promise<void> {
  await client.query(
    sql`
      update scheduled_actions a
      set at = world_now(), first_at = coalesce(a.first_at, a.at)
      from email_messages m
        join enrollments e on e.id = m.enrollment_id
        join cadences c on c.id = e.cadence_id
      where a.ref_id = m.id
        and a.kind = 'email'
        and a.at > world_now()
        and c.window_id = $1
        and m.status = 'queued'
        and not m.slotted
    `,
    [windowId],
  )
}

/** Deletes a window. Throws where it is the default one or a cadence uses it. */
export async function removeSendingWindow(id: Id): Promise<void> {
  await transaction(async (client) => {
    const row = await firstRow(
      client.query<{ isDefault: boolean }>(
        sql`select is_default as "isDefault" from sending_windows where id = $1 for update`,
        [id],
      ),
    )
    if (!row) throw notFound('sending window')
    if (row.isDefault) throw new Refusal('refused', 'The default window stays: make another one the default first')
    const used = await firstRow(
      client.query<{ names: string[] | null }>(
        sql`select array_agg(name order by name) as names from cadences where window_id = $1 and status <> 'archived'`,
        [id],
      ),
    )
    if (used?.names) throw new Refusal('refused', `Cadences use this window: ${used.names.join(', ')}`)
    await client.query(sql`update cadences set window_id = default_window_id() where window_id = $1`, [id])
    await client.query(sql`delete from sending_windows where id = $1`, [id])
  })
}
