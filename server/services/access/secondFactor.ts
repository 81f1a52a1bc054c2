import { createCipheriv, createDecipheriv, createHash, randomBytes } from 'node:crypto'
import { Secret, TOTP } from 'otpauth'
import { renderSVG } from 'uqr'
import type { Id } from '#core/instant'
import { db } from '../../db/pool'
import { env } from '../../environment'
import { Refusal } from './errors'
import { matchesPassword } from './passwords'
import type { Viewer } from './viewer'
import { firstRow, sql } from '../../db/sql'

const PERIOD = 30
/** How many periods a clock may be off, each way. */
const WINDOW = 1

/** A time-based one-time password as authenticator apps make them (RFC 6238: SHA-1, six digits, thirty seconds). */
function totp(secret: string, label = 'Uphill'): TOTP {
  return new TOTP({
    issuer: 'Uphill',
    label,
    algorithm: 'SHA1',
    digits: 6,
    period: PERIOD,
    secret: Secret.fromBase32(secret),
  })
}

const sealKey = () => createHash('sha256').update(`second factor:${env().secret}`).digest()

function seal(secret: string): string {
  const iv = randomBytes(12)
  const cipher = createCipheriv('aes-256-gcm', sealKey(), iv)
  return Buffer.concat([iv, cipher.update(secret, 'utf8'), cipher.final(), cipher.getAuthTag()]).toString('base64')
}

function unseal(sealed: string): string {
  const bytes = Buffer.from(sealed, 'base64')
  const decipher = createDecipheriv('aes-256-gcm', sealKey(), bytes.subarray(0, 12))
  decipher.setAuthTag(bytes.subarray(-16))
  return decipher.update(bytes.subarray(12, -16), undefined, 'utf8') + decipher.final('utf8')
}

/** The period a code belongs to at a moment of the machine's clock (ms), or null where it is wrong. */
export function periodOfCode(secret: string, code: string, at: number): number | null {
  const delta = totp(secret).validate({ token: code.replace(/\D/g, ''), timestamp: at, window: WINDOW })
  return delta === null ? null : Math.floor(at / 1_000 / PERIOD) + delta
}

async function checkOwnPassword(who: Viewer, password: string, field = 'password'): Promise<void> {
  const row = await firstRow(
    db().query<{ password_hash: string }>(sql`select password_hash from users where id = $1`, [who.id]),
  )
  if (!row || !(await matchesPassword(password, row.password_hash))) {
    throw new Refusal('invalid', 'The password is wrong', [{ field, message: 'The password is wrong' }])
  }
}

/**
 * Begins to set up a second factor: a new secret, its otpauth address and the QR code of it. Nothing holds until
 * `confirmSecondFactor`.
 */
export async function startSecondFactor(
  who: Viewer,
  password: string,
): Promise<{ secret: string; uri: string; picture: string }> {
  await checkOwnPassword(who, password)
  const secret = new Secret({ size: 20 }).base32
  const uri = totp(secret, who.email).toString()
  return { secret, uri, picture: renderSVG(uri) }
}

/** Turns the second factor on, once a code shows that the app has the secret. */
export async function confirmSecondFactor(who: Viewer, secret: string, code: string): Promise<void> {
  const period = periodOfCode(secret, code, Date.now())
  if (period === null) {
    throw new Refusal('invalid', 'Wrong code. Check the clock of your phone', [
      { field: 'code', message: 'Wrong code. Check the clock of your phone' },
    ])
  }
  await db().query(sql`update users set second_factor = $2, second_factor_step = $3 where id = $1`, [
    who.id,
    seal(secret),
    period,
  ])
}

/** Turns the second factor off. */
export async function removeSecondFactor(who: Viewer, password: string): Promise<void> {
  await checkOwnPassword(who, password)
  await db().query(sql`update users set second_factor = null, second_factor_step = null where id = $1`, [who.id])
}

/** Uses a code up; gives whether it was right. No code works twice (RFC 6238, 5.2). */
export async function useCode(userId: Id, code: string): Promise<boolean> {
  const row = await firstRow(
    db().query<{ second_factor: string | null }>(sql`select second_factor from users where id = $1`, [userId]),
  )
  const period = row?.second_factor ? periodOfCode(unseal(row.second_factor), code, Date.now()) : null
  if (period === null) return false
  const { rowCount } = await db().query(
    sql`
      update users
      set second_factor_step = $2
      where id = $1 and (second_factor_step is null or second_factor_step < $2)
    `,
    [userId, period],
  )
  return rowCount === 1
}
