import type { Id } from '#core/instant'
import { newId } from '#shared/newId'
import { db, transaction, type Db } from '../../db/pool'
import { firstRow, sql } from '../../db/sql'
import { env } from '../../environment'
import { viewerOf } from '../access/sessions'
import { queueSystemEmail } from './systemEmails'
import { listNotifications } from '../notifications/notifications'

/** Read notifications are forgotten after so many days, all of them after twice as many. */
const KEPT_DAYS = 60

/** A user who wants emails and has notifications unread for five minutes; locked, so that one email holds them all. */
const NEXT_USER_SQL = sql`
  select u.id
  from users u
  where u.notify_by_email
    and u.active
    and exists (
      select
      from notifications n
      where n.user_id = u.id
        and n.read_at is null
        and n.emailed_at is null
        and n.at < world_now() - interval '5 minutes'
    )
  limit 1
  for no key update of u skip locked
`
const MARK_SQL = sql`
  update notifications n
  set emailed_at = world_now()
  where n.user_id = $1
    and n.read_at is null
    and n.emailed_at is null
    and n.at < world_now() - interval '5 minutes'
  returning n.id
`

/**
 * Emails users who want it what they have not read for five minutes, one email each, however many workers do it at
 * once; gives how many users were dealt with. What was emailed once is not emailed again.
 */
export async function emailNotifications(): Promise<number> {
  let emailed = 0
  while (await transaction(emailNextUser)) emailed++
  return emailed
}

async function emailNextUser(client: Db): Promise<boolean> {
  const user = await firstRow(client.query<{ id: Id }>(NEXT_USER_SQL))
  const viewer = user && (await viewerOf(user.id, client))
  if (!viewer) return false
  const { rows } = await client.query<{ id: Id }>(MARK_SQL, [viewer.id])
  const ids = new Set(rows.map((row) => row.id))
  const { notifications } = await listNotifications(viewer, null, client)
  const due = notifications.filter((one) => one.ids.some((id) => ids.has(id)))
  if (due.length) {
    const lines = due.map(({ sentence, to }) => `${sentence}${to ? `: ${env().url}${to}` : ''}`)
    await queueSystemEmail(
      viewer,
      newId(),
      {
        kind: 'notifications',
        to: viewer.email,
        subject: due.length === 1 ? due[0]!.sentence : `${due.length} new notifications`,
        body: `${lines.join('\n\n')}\n\nYou get these emails because your account asks for them: ${env().url}/account`,
      },
      client,
    )
  }
  return ids.size > 0
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
