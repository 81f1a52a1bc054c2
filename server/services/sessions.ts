import { createHash, randomBytes, randomUUID, scrypt, timingSafeEqual } from 'node:crypto'
import { promisify } from 'node:util'
import type { User } from '#shared/api/session'
import { db, type Db } from '../db/pool'
import { notFound, Refusal } from './errors'

/** Whoever asks: a user, by a session or an API key. */
export interface Viewer extends User {
  /** Whether everybody's people are to be seen: managers, and reps of a team that shares all. */
  seesAll: boolean
  /** The session's key in the database; null for an API key. */
  session: Buffer | null
}

const SESSION_DAYS = 14
/** Wrong passwords in a quarter of an hour before an address has to wait (OWASP ASVS 5.0, 6.3.1: brute force is slowed). */
const TRIES = 10

const digest = (token: string) => createHash('sha256').update(token).digest()
const derive = promisify<string, Buffer, number, { N: number, r: number, p: number, maxmem: number }, Buffer>(scrypt)
const COST = { N: 1 << 15, r: 8, p: 1, maxmem: 64 << 20 }

/** Hashes a password with scrypt and a salt of its own: "scrypt$N$salt$key", base64. */
export async function hashPassword(password: string): Promise<string> {
  const salt = randomBytes(16)
  const key = await derive(password.normalize('NFKC'), salt, 32, COST)
  return `scrypt$${COST.N}$${salt.toString('base64')}$${key.toString('base64')}`
}

async function matches(password: string, hash: string): Promise<boolean> {
  const [, n, salt, key] = hash.split('$')
  const expected = Buffer.from(key ?? '', 'base64')
  const given = await derive(password.normalize('NFKC'), Buffer.from(salt ?? '', 'base64'), 32, { ...COST, N: Number(n) || COST.N })
  return expected.length === given.length && timingSafeEqual(expected, given)
}

// What an unknown address is compared with, so that it takes as long as a known one.
const NOBODY = hashPassword(randomUUID())

interface UserRow extends Omit<User, 'id'> { id: string, sees_all: boolean }
const USER = `u.id, u.name, u.email, u.role, u.zone, (u.role <> 'rep' or t.shares_all) as sees_all`

function viewer({ sees_all: seesAll, ...user }: UserRow, session: Buffer | null): Viewer {
  return { ...user, seesAll, session }
}

/** Signs somebody in; gives the secret token of the session. Throws Refusal where the pair is wrong or tried too often. */
export async function signIn(email: string, password: string, agent: string): Promise<{ token: string, maxAge: number, viewer: Viewer }> {
  const address = email.trim().toLowerCase()
  const { rows: [tries] } = await db().query<{ count: number }>(`select count(*) as count from sign_in_failures where email = $1 and at > now() - interval '15 minutes'`, [address])
  if (tries!.count >= TRIES) throw new Refusal('throttled', 'Too many wrong passwords. Wait a quarter of an hour and try again')
  const { rows: [row] } = await db().query<UserRow & { password_hash: string }>(`select ${USER}, u.password_hash from users u cross join team t where u.email = $1 and u.active`, [address])
  const right = await matches(password, row?.password_hash ?? await NOBODY)
  if (!row || !right) {
    await db().query('insert into sign_in_failures (email) values ($1)', [address])
    throw new Refusal('not_signed_in', 'The email address or the password is wrong')
  }
  const token = randomBytes(32).toString('base64url')
  await db().query(`with swept as (delete from sessions where expires_at < now()), forgotten as (delete from sign_in_failures where email = $4 or at < now() - interval '1 day')
    insert into sessions (token_hash, user_id, expires_at, agent) values ($1, $2, now() + make_interval(days => $5), $3)`, [digest(token), row.id, agent.slice(0, 200), address, SESSION_DAYS])
  const { password_hash: _, ...user } = row
  return { token, maxAge: SESSION_DAYS * 86_400, viewer: viewer(user, digest(token)) }
}

/** Whose session the token is; null for none, an ended or an outdated one. Asked at every request. */
export async function viewerOfToken(token: string, on: Db = db()): Promise<Viewer | null> {
  const hash = digest(token)
  const { rows: [row] } = await on.query<UserRow>({
    name: 'viewer-of-token', text: `select ${USER} from sessions s join users u on u.id = s.user_id cross join team t where s.token_hash = $1 and s.expires_at > now() and u.active`, values: [hash],
  })
  return row ? viewer(row, hash) : null
}

/** Whose API key it is; null for an unknown or revoked one. */
export async function viewerOfKey(key: string, on: Db = db()): Promise<Viewer | null> {
  const { rows: [row] } = await on.query<UserRow>({
    name: 'viewer-of-key', text: `select ${USER} from api_keys k join users u on u.id = k.user_id cross join team t where k.key_hash = $1 and k.revoked_at is null and u.active`, values: [digest(key)],
  })
  return row ? viewer(row, null) : null
}

/** Ends the session that asks. */
export async function signOut(who: Viewer): Promise<void> {
  if (who.session) await db().query('delete from sessions where token_hash = $1', [who.session])
}

/** Ends every other session of the user; gives how many. */
export async function signOutElsewhere(who: Viewer): Promise<number> {
  const { rowCount } = await db().query('delete from sessions where user_id = $1 and token_hash is distinct from $2', [who.id, who.session])
  return rowCount ?? 0
}

/** The caller's API keys, newest first. */
export async function listKeys(who: Viewer) {
  const { rows } = await db().query<{ id: string, name: string, hint: string, createdAt: number, revoked: boolean }>(`select id, name, hint, ms(created_at) as "createdAt", revoked_at is not null as revoked from api_keys where user_id = $1 order by created_at desc`, [who.id])
  return { keys: rows }
}

/** Makes an API key with the caller's rights. The key itself is given once and not kept. */
export async function addKey(who: Viewer, name: string): Promise<{ id: string, key: string }> {
  const id = randomUUID()
  const key = `uphill_${randomBytes(24).toString('base64url')}`
  await db().query('insert into api_keys (id, user_id, name, key_hash, hint) values ($1, $2, $3, $4, $5)', [id, who.id, name, digest(key), key.slice(-4)])
  return { id, key }
}

/** Revokes one of the caller's keys, at once. */
export async function revokeKey(who: Viewer, id: string): Promise<void> {
  const { rowCount } = await db().query('update api_keys set revoked_at = coalesce(revoked_at, now()) where id = $1 and user_id = $2', [id, who.id])
  if (!rowCount) throw notFound('key')
}
