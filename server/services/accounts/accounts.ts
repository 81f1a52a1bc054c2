import type { DateStyle, DialerKind } from '#core/enumerations'
import { createHash, randomBytes } from 'node:crypto'
import type { Id } from '#core/instant'
import { db, transaction } from '../../db/pool'
import { sayUserChanged } from '../../db/userChanges'
import { env } from '../../environment'
import { startBulk } from '../bulk/bulk'
import { notFound, Refusal } from '../access/errors'
import { checkPassword, hashPassword, matchesPassword } from '../access/passwords'
import { listSessions, signOutElsewhere } from '../access/sessions'
import { type Viewer } from '../access/viewer'
import { editUser } from '../settings/settings'
import { firstRow, sql } from '../../db/sql'

/** How long a reset link works, in hours; that of an invitation works for a week. */
const RESET_HOURS = 24
export const INVITE_HOURS = 168

const digest = (token: string) => createHash('sha256').update(token).digest()

/** The caller's account: whether a second factor is set up, and the open sessions. */
export async function getAccount(who: Viewer) {
  const row = await firstRow(
    db().query<{ secondFactor: boolean; idleMinutes: number }>(
      sql`
        select u.second_factor is not null as "secondFactor", t.idle_minutes as "idleMinutes"
        from users u
          cross join team t
        where u.id = $1
      `,
      [who.id],
    ),
  )
  return { ...row!, sessions: await listSessions(who) }
}

/** What users decide for themselves. */
export interface AccountChange {
  timeZone?: string
  signature?: string
  dateStyle?: DateStyle
  callsWith?: DialerKind
  notifyByEmail?: boolean
}

/**
 * Changes what the caller decides for themselves: the zone they work by, how they read dates and call, and what ends
 * their emails.
 */
export async function editAccount(
  who: Viewer,
  { timeZone, signature, dateStyle, callsWith, notifyByEmail }: AccountChange,
): Promise<void> {
  await db().query(
    sql`
      -- Sending windows open by the clocks of senders.
      with zone as (
        update team
        set playbook_version = playbook_version + 1
        where exists (select from users where id = $1 and time_zone <> $2)
      )
      update users
      set
        time_zone = coalesce($2, time_zone), signature = coalesce($3, signature),
        date_style = coalesce($4, date_style), notify_by_email = coalesce($5, notify_by_email),
        calls_with = coalesce($6, calls_with),
        version = version + 1
      where id = $1
    `,
    [
      who.id,
      timeZone ?? null,
      signature === undefined ? null : signature.trim(),
      dateStyle ?? null,
      notifyByEmail ?? null,
      callsWith ?? null,
    ],
  )
}

/**
 * Changes the caller's password; every other session of theirs ends. Throws at the field where the current one is wrong
 * or the new one may not be used.
 */
export async function changePassword(who: Viewer, current: string, next: string): Promise<void> {
  const row = await firstRow(
    db().query<{ password_hash: string; name: string; email: string }>(
      sql`select password_hash, name, email from users where id = $1`,
      [who.id],
    ),
  )
  if (!row || !(await matchesPassword(current, row.password_hash))) {
    throw new Refusal('invalid', 'The current password is wrong', [
      { field: 'current', message: 'The current password is wrong' },
    ])
  }
  if (current === next) {
    throw new Refusal('invalid', 'Choose a password that differs from the current one', [
      { field: 'next', message: 'Choose a password that differs from the current one' },
    ])
  }
  checkPassword(next, row, 'next')
  const hash = await hashPassword(next)
  await transaction(async (client) => {
    await client.query(
      sql`
        update users
        set password_hash = $2, must_change_password = false, version = version + 1
        where id = $1
      `,
      [who.id, hash],
    )
    await client.query(sql`delete from password_resets where user_id = $1`, [who.id])
    await signOutElsewhere(who, client)
  })
}

/**
 * Creates a link with which someone sets a new password, once, within a day. Links made before stop working. Only an
 * admin does it for an admin.
 */
export async function makeResetLink(
  viewer: Viewer,
  userId: Id,
  hours = RESET_HOURS,
): Promise<{ url: string; expiresAt: number }> {
  const user = await firstRow(
    db().query<{ role: string; active: boolean }>(sql`select role, active from users where id = $1`, [userId]),
  )
  if (!user) throw notFound('user')
  if (!user.active) throw new Refusal('refused', 'This user is deactivated')
  if (user.role === 'admin' && viewer.role !== 'admin') {
    throw new Refusal('not_allowed', 'Only an admin can change an admin')
  }
  const token = randomBytes(32).toString('base64url')
  const made = await firstRow(
    db().query<{ expires_at: number }>(
      sql`
        with before as (
          delete from password_resets
          where user_id = $2
        )
        insert into password_resets (token_hash, user_id, by_id, expires_at)
        values ($1, $2, $3, now() + make_interval(hours => $4))
        returning ms(expires_at) as expires_at
      `,
      [digest(token), userId, viewer.id, hours],
    ),
  )
  // After the sign: it is sent to no server and stands in no log.
  return { url: `${env().url}/reset-password#${token}`, expiresAt: made!.expires_at }
}

/**
 * Sets a new password with a reset link. It works once; all sessions of the user end. Gives the email address to sign
 * in with.
 */
export async function resetPassword(token: string, password: string): Promise<{ email: string }> {
  const user = await firstRow(
    db().query<{ id: Id; name: string; email: string }>(
      sql`
        select u.id, u.name, u.email
        from password_resets r
          join users u on u.id = r.user_id
        where r.token_hash = $1 and r.used_at is null and r.expires_at > now() and u.active
      `,
      [digest(token)],
    ),
  )
  const linkExpired = () => new Refusal('refused', 'This link has been used or has expired. Ask for a new one')
  if (!user) throw linkExpired()
  checkPassword(password, user)
  const hash = await hashPassword(password)
  return transaction(async (client) => {
    const { rowCount } = await client.query(
      sql`
        update password_resets
        set used_at = now()
        where token_hash = $1 and used_at is null
      `,
      [digest(token)],
    )
    if (!rowCount) throw linkExpired()
    await client.query(
      sql`
        update users
        set password_hash = $2, must_change_password = false, version = version + 1
        where id = $1
      `,
      [user.id, hash],
    )
    await client.query(sql`delete from sessions where user_id = $1`, [user.id])
    await client.query(sql`delete from sign_in_attempts where email = $1`, [user.email])
    return { email: user.email }
  })
}

interface UserWork {
  people: number
  openTasks: number
  queuedEmails: number
  enrollments: number
  keys: number
}

/** What someone has, to be handed over before they leave. */
export async function getUserWork(userId: Id): Promise<UserWork> {
  const row = await firstRow(
    db().query<UserWork>(
      sql`
        select
          (select count(*) from prospects where owner_id = u.id and merged_into is null) as people,
          (select count(*) from tasks where owner_id = u.id and status = 'open') as "openTasks",
          (
            select count(*)
            from email_messages m
              join scheduled_actions a on a.ref_id = m.id
            where m.sender_id = u.id
          ) as "queuedEmails",
          (
            select count(*)
            from enrollments e
              join prospects p on p.id = e.prospect_id
            where p.owner_id = u.id and e.status <> 'ended'
          ) as enrollments,
          (select count(*) from api_keys where user_id = u.id and revoked_at is null and expires_at > now()) as keys
        from users u
        where u.id = $1
      `,
      [userId],
    ),
  )
  if (!row) throw notFound('user')
  return row
}

/**
 * Deactivates someone: their sessions and keys end at once. Their people are assigned to `handOverTo` by a bulk action
 * of the id given, with open tasks; tasks with other people's prospects and email that waits go along. Gives how many
 * people are handed over.
 */
export async function deactivateUser(
  viewer: Viewer,
  userId: Id,
  { id, handOverTo }: { id: Id; handOverTo: Id | null },
): Promise<{ handedOver: number }> {
  const work = await getUserWork(userId)
  if (handOverTo === userId) {
    throw new Refusal('invalid', 'Choose another user', [{ field: 'handOverTo', message: 'Choose another user' }])
  }
  if (!handOverTo && (work.people || work.openTasks || work.queuedEmails)) {
    throw new Refusal('invalid', 'Choose who takes over their prospects and tasks', [
      { field: 'handOverTo', message: 'Choose who takes over their prospects and tasks' },
    ])
  }
  if (handOverTo) {
    const heir = await firstRow(db().query(sql`select from users where id = $1 and active`, [handOverTo]))
    if (!heir) {
      throw new Refusal('invalid', 'There is no such user', [{ field: 'handOverTo', message: 'There is no such user' }])
    }
  }
  await editUser(viewer, userId, { active: false })
  if (!handOverTo) return { handedOver: 0 }
  const { touches } = work.people
    ? await startBulk(viewer, {
        id,
        action: { type: 'assign', to: [handOverTo] },
        leaving: true,
        filter: { field: 'owner', test: { op: 'anyOf', values: [userId] } },
      })
    : { touches: 0 }
  await transaction(async (client) => {
    await client.query(sql`update tasks set owner_id = $2 where owner_id = $1 and status = 'open'`, [
      userId,
      handOverTo,
    ])
    await client.query(
      sql`
        update email_messages m
        set sender_id = $2
        from scheduled_actions a
        where a.ref_id = m.id and m.sender_id = $1 and m.status in ('queued', 'held')
      `,
      [userId, handOverTo],
    )
    sayUserChanged(client, 'queue', [handOverTo])
  })
  return { handedOver: touches }
}
