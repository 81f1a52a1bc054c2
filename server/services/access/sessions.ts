import type { DateStyle, DialerKind } from '#core/enumerations'
import { createHash, randomBytes } from 'node:crypto'
import type { KeyRights } from '#core/enumerations'
import type { Id } from '#core/instant'
import type { Me, User } from '#shared/api/session'
import { newId } from '#shared/newId'
import { db, type Db } from '../../db/pool'
import { notFound, Refusal } from './errors'
import { matchesPassword, NOBODY } from './passwords'
import { useCode } from './secondFactor'
import { firstRow, sql } from '../../db/sql'
import type { Viewer } from './viewer'

const SESSION_DAYS = 14

/** Tries in a quarter of an hour: from one address, and from one address for one email (OWASP ASVS 5.0, 6.3.1). */
const TRIES_OF_ADDRESS = 40

const TRIES_OF_BOTH = 10

/**
 * From how many tries for one email on, wherever they come from, each is slowed down, and by how much at the most, in
 * ms.
 */
const SLOWED_FROM = 5

const SLOWEST = 4_000

const digest = (token: string) => createHash('sha256').update(token).digest()

interface UserRow extends Omit<User, 'id'> {
  id: string
  dateStyle: DateStyle
  callsWith: DialerKind
  sees_all: boolean
  mustChangePassword: boolean
}

const USER = sql`
  u.id, u.name, u.email, u.role, u.time_zone as "timeZone",
  u.date_style as "dateStyle", u.signature, u.must_change_password as "mustChangePassword",
  u.notify_by_email as "notifyByEmail", u.calls_with as "callsWith",
  (u.role in ('manager', 'admin') or u.role = 'rep' and t.shares_all) as sees_all
`

function viewer({ sees_all: seesAll, ...user }: UserRow, session: Buffer | null): Viewer {
  return { ...user, seesAll, session }
}

/** What a user may know of themselves. */
export function asUser({ id, name, email, role, timeZone, ...own }: Viewer): Me {
  const { dateStyle, callsWith = 'dialer', signature = '', notifyByEmail = false, mustChangePassword } = own
  return { id, name, email, role, timeZone, dateStyle, callsWith, signature, notifyByEmail, mustChangePassword }
}

/** An active user as they would be signed in, for what is done for them; null for anyone else. */
export async function viewerOf(userId: Id, on: Db = db()): Promise<Viewer | null> {
  const row = await firstRow(
    on.query<UserRow>(
      sql`
        select ${USER}
        from users u
          cross join team t
        where u.id = $1 and u.active
      `,
      [userId],
    ),
  )
  return row ? viewer(row, null) : null
}

/**
 * Signs someone in; gives the secret token of the session. `code` is of the second factor, where there is one. Throws
 * Refusal where the pair is wrong, a code is missing, or it was tried too often.
 */
export async function signIn(given: {
  email: string
  password: string
  code?: string
  agent: string
  address: string
}): Promise<{ token: string; maxAge: number; viewer: Viewer }> {
  const email = given.email.trim().toLowerCase()
  await countTry(email, given.address)
  const row = await firstRow(
    db().query<UserRow & { password_hash: string; second_factor: string | null }>(
      sql`
        select ${USER}, u.password_hash, u.second_factor
        from users u
          cross join team t
        where u.email = $1 and u.active
      `,
      [email],
    ),
  )
  const right = await matchesPassword(given.password, row?.password_hash ?? (await NOBODY))
  if (!row || !right) throw new Refusal('not_signed_in', 'The email address or the password is wrong')
  const { password_hash: _, second_factor: secondFactor, ...user } = row
  if (secondFactor) {
    if (!given.code) {
      throw new Refusal('second_factor', 'Enter the code from your authenticator app', [
        { field: 'code', message: 'Enter the code from your authenticator app' },
      ])
    }
    if (!(await useCode(row.id, given.code))) {
      throw new Refusal('second_factor', 'This code is wrong or has been used', [
        { field: 'code', message: 'This code is wrong or has been used' },
      ])
    }
  }
  const token = randomBytes(32).toString('base64url')
  await db().query(
    sql`
      with swept as (
        delete from sessions
        where expires_at < now()
      ),
      forgotten as (
        delete from sign_in_attempts
        where email = $4 or at < now() - interval '1 day'
      )
      insert into sessions (token_hash, user_id, expires_at, agent, address)
      values ($1, $2, now() + make_interval(days => $5), $3, $6)
    `,
    [digest(token), row.id, given.agent.slice(0, 200), email, SESSION_DAYS, given.address],
  )
  return { token, maxAge: SESSION_DAYS * 86_400, viewer: viewer(user, digest(token)) }
}

interface TriesRow {
  of_address: number
  of_both: number
  of_email: number
  wait: number
}

/**
 * Notes a try before it is judged, so that many at once are counted. One address that tries too often has to wait; an
 * email that is tried from many places is not locked, only slowed, so that nobody can keep its owner out.
 */
async function countTry(email: string, address: string): Promise<void> {
  const tries = await firstRow(
    db().query<TriesRow>(
      sql`
        with noted as (
          insert into sign_in_attempts (email, address)
          values ($1, $2)
          returning id
        ),
        recent as (
          select email, address, at
          from sign_in_attempts
          where at > now() - interval '15 minutes' and (email = $1 or address = $2)
        )
        select
          count(*) filter (where address = $2) as of_address,
          count(*) filter (where email = $1 and address = $2) as of_both,
          count(*) filter (where email = $1) as of_email,
          greatest(1, ceil(900 - extract(epoch from now() - min(at))))::int as wait
        from recent, noted
      `,
      [email, address],
    ),
  )
  const { of_address: ofAddress, of_both: ofBoth, of_email: ofEmail, wait } = tries!
  if ((ofBoth ?? 0) >= TRIES_OF_BOTH || (ofAddress ?? 0) >= TRIES_OF_ADDRESS) {
    throw new Refusal(
      'throttled',
      'Too many wrong passwords from here. Wait 15 minutes and try again',
      [],
      undefined,
      wait ?? 900,
    )
  }
  const slowed = (ofEmail ?? 0) - SLOWED_FROM
  if (slowed > 0) {
    await new Promise((resolve) => setTimeout(resolve, Math.min(SLOWEST, 250 * 2 ** Math.min(slowed, 10))))
  }
}

/** Whose session the token is; null for none, an ended, an outdated or an idle one. Asked at every request. */
export async function viewerOfToken(token: string, on: Db = db()): Promise<Viewer | null> {
  const hash = digest(token)
  // Seen is written down once a minute at the most.
  const row = await firstRow(
    on.query<UserRow>({
      name: 'viewer-of-token',
      text: sql`
        with seen as (
          update sessions
          set last_seen_at = now()
          where token_hash = $1
            and last_seen_at < now() - interval '1 minute'
            and last_seen_at > now() - interval '15 days'
            and last_seen_at > now() - make_interval(mins => (select idle_minutes from team))
        )
        select ${USER}
        from sessions s
          join users u on u.id = s.user_id
          cross join team t
        where s.token_hash = $1
          and s.expires_at > now()
          and s.last_seen_at > now() - make_interval(mins => t.idle_minutes)
          and u.active
      `,
      values: [hash],
    }),
  )
  return row ? viewer(row, hash) : null
}

/** Whose API key it is; null for an unknown, revoked or expired one. */
export async function viewerOfKey(key: string, on: Db = db()): Promise<Viewer | null> {
  const row = await firstRow(
    on.query<UserRow & { rights: KeyRights }>({
      name: 'viewer-of-key',
      text: sql`
        with used as (
          update api_keys
          set last_used_at = now()
          where key_hash = $1 and (last_used_at is null or last_used_at < now() - interval '1 minute')
        )
        select ${USER}, k.rights
        from api_keys k
          join users u on u.id = k.user_id
          cross join team t
        where k.key_hash = $1 and k.revoked_at is null and k.expires_at > now() and u.active
      `,
      values: [digest(key)],
    }),
  )
  if (!row) return null
  const { rights, ...user } = row
  return { ...viewer(user, null), mustChangePassword: false, rights }
}

/** Ends the session that asks. */
export async function signOut(who: Viewer): Promise<void> {
  if (who.session) await db().query(sql`delete from sessions where token_hash = $1`, [who.session])
}

/** Ends every other session of the user; gives how many. */
export async function signOutElsewhere(who: Viewer, on: Db = db()): Promise<number> {
  const { rowCount } = await on.query(sql`delete from sessions where user_id = $1 and token_hash is distinct from $2`, [
    who.id,
    who.session,
  ])
  return rowCount ?? 0
}

interface SessionRow {
  id: string
  agent: string
  address: string
  startedAt: number
  lastSeenAt: number
  current: boolean
}

/** The caller's sessions that are open, the latest first. */
export async function listSessions(who: Viewer) {
  const { rows } = await db().query<SessionRow>(
    sql`
      select
        s.id, s.agent, s.address, ms(s.started_at) as "startedAt", ms(s.last_seen_at) as "lastSeenAt",
        s.token_hash is not distinct from $2 as current
      from sessions s
        cross join team t
      where s.user_id = $1
        and s.expires_at > now()
        and s.last_seen_at > now() - make_interval(mins => t.idle_minutes)
      order by s.last_seen_at desc
    `,
    [who.id, who.session],
  )
  return rows
}

/** Ends one of the caller's sessions. */
export async function endSession(who: Viewer, id: string): Promise<void> {
  const { rowCount } = await db().query(sql`delete from sessions where id = $1 and user_id = $2`, [id, who.id])
  if (!rowCount) throw notFound('session')
}

interface KeyRow {
  id: string
  name: string
  hint: string
  rights: KeyRights
  createdAt: number
  expiresAt: number
  lastUsedAt: number | null
  revoked: boolean
}

/** The caller's API keys, newest first. */
export async function listKeys(who: Viewer) {
  const { rows } = await db().query<KeyRow>(
    sql`
      select
        id, name, hint, rights, ms(created_at) as "createdAt", ms(expires_at) as "expiresAt",
        ms(last_used_at) as "lastUsedAt", revoked_at is not null as revoked
      from api_keys
      where user_id = $1
      order by created_at desc
    `,
    [who.id],
  )
  return { keys: rows }
}

/**
 * Creates an API key; it may do no more than its user, and ends after `days`. The key itself is given once and not
 * kept.
 */
export async function addKey(
  who: Viewer,
  name: string,
  rights: KeyRights = 'manage',
  days = 365,
): Promise<{ id: string; key: string }> {
  if (who.rights && who.rights !== 'manage') throw new Refusal('not_allowed', 'This API key may not create keys')
  const id = newId()
  const key = `uphill_${randomBytes(24).toString('base64url')}`
  await db().query(
    sql`
      insert into api_keys (id, user_id, name, key_hash, hint, rights, expires_at)
      values ($1, $2, $3, $4, $5, $6, now() + make_interval(days => $7))
    `,
    [id, who.id, name, digest(key), key.slice(-4), rights, days],
  )
  return { id, key }
}

/** Revokes one of the caller's keys, at once. */
export async function revokeKey(who: Viewer, id: string): Promise<void> {
  const { rowCount } = await db().query(
    sql`
      update api_keys
      set revoked_at = coalesce(revoked_at, now())
      where id = $1 and user_id = $2
    `,
    [id, who.id],
  )
  if (!rowCount) throw notFound('key')
}
