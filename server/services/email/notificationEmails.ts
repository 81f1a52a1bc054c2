import { randomUUID } from 'node:crypto'
import type { Id } from '#core/instant'
import { db, transaction } from '../../db/pool'
import { sql } from '../../db/sql'
import { env } from '../../environment'
import { viewerOf } from '../access/sessions'
import type { Viewer } from '../access/viewer'
import { queueSystemEmail } from './systemEmails'
import { listNotifications } from '../notifications/notifications'

/** Read notifications are forgotten after so many days, all of them after twice as many. */
const KEPT_DAYS = 60

/**
 * Emails users who want it what they have not read for five minutes, one email each; gives how many were emailed. What
 * was emailed once is not emailed again.
 */
export async function emailNotifications(): Promise<number> {
  const due = await transaction(async (client) => {
    const { rows } = await client.query<{ userId: Id; ids: Id[] }>(
      sql`
        with due as (
          select n.id, n.user_id
          from notifications n
            join users u on u.id = n.user_id and u.notify_by_email and u.active
          where n.read_at is null and n.emailed_at is null and n.at < world_now() - interval '5 minutes'
          limit 500
          for update of n skip locked
        ),
        marked as (
          update notifications n
          set emailed_at = world_now()
          from due d
          where n.id = d.id
          returning n.id, n.user_id
        )
        select user_id as "userId", array_agg(id) as ids
        from marked
        group by user_id
      `,
    )
    return rows
  })
  for (const { userId, ids } of due) {
    const viewer = await viewerOf(userId)
    if (viewer) await emailTo(viewer, new Set(ids))
  }
  return due.length
}

async function emailTo(viewer: Viewer, ids: ReadonlySet<Id>): Promise<void> {
  const { notifications } = await listNotifications(viewer, null)
  const lines = notifications
    .filter((one) => one.ids.some((id) => ids.has(id)))
    .map(({ sentence, to }) => `${sentence}${to ? `: ${env().url}${to}` : ''}`)
  if (!lines.length) return
  const [first] = lines.length === 1 ? notifications.map((one) => one.sentence) : []
  await queueSystemEmail(viewer, randomUUID(), {
    kind: 'notifications',
    to: viewer.email,
    subject: first ?? `${lines.length} new notifications`,
    body: `${lines.join('\n\n')}\n\nYou get these emails because your account asks for them: ${env().url}/account`,
  })
}

/** Deletes notifications that are long past. */
export async function forgetOldNotifications(): Promise<void> {
  await db().query(
    sql`
      delete from notifications
      where at < world_now() - make_interval(days => $1)
        and (read_at is not null or at < world_now() - make_interval(days => 2 * $1))
    `,
    [KEPT_DAYS],
  )
}
