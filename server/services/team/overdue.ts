import type { Role } from '#core/enumerations'
import { manages } from '#core/roles'
import type { Id } from '#core/instant'
import { db, type Db } from '../../db/pool'
import { firstRow, sql } from '../../db/sql'
import { Refusal } from '../access/errors'

/** How much a user has overdue: open work that was due before their day began; new people are never overdue. */
export interface Overdue {
  name: string
  count: number
  /** What the team allows a rep; null for any number. */
  most: number | null
  tooMany: boolean
}

/** What a user has overdue; null where there is no such user. */
export async function overdueOf(userId: Id, client: Db = db()): Promise<Overdue | null> {
  const row = await firstRow(
    client.query<Omit<Overdue, 'tooMany'> & { role: Role }>({
      name: 'overdue-of',
      text: sql`
        select
          u.name, u.role, t.most_overdue as most,
          (
            select count(*)::int
            from tasks k
            where k.owner_id = u.id
              and k.status = 'open'
              and k.kind <> 'first_contact'
              and k.due_at < date_trunc('day', world_now() at time zone u.time_zone) at time zone u.time_zone
          ) as count
        from users u
          cross join team t
        where u.id = $1
      `,
      values: [userId],
    }),
  )
  if (!row) return null
  const { role, ...found } = row
  return { ...found, tooMany: !manages({ role }) && found.most !== null && found.count > found.most }
}

/**
 * Throws at the field where a rep has more overdue than the team allows: they get nobody new until it is dealt with.
 */
export async function mustTakeNew(userId: Id, field: string, client: Db = db()): Promise<void> {
  const overdue = await overdueOf(userId, client)
  if (!overdue?.tooMany) return
  const { name, count, most } = overdue
  const message =
    `${name} has ${count} overdue, more than ${most}, and gets nobody new until they are dealt with: ` +
    'choose someone else'
  throw new Refusal('refused', message, [{ field, message }])
}
