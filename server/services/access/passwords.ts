import { randomBytes, scrypt, timingSafeEqual } from 'node:crypto'
import { promisify } from 'node:util'
import { dictionary } from '@zxcvbn-ts/language-common'
import { nameKey } from '#core/text/names'
import { Refusal } from './errors'

interface ScryptOptions {
  N: number
  r: number
  p: number
  maxmem: number
}

const derive = promisify<string, Buffer, number, ScryptOptions, Buffer>(scrypt)
const COST = { N: 1 << 15, r: 8, p: 1, maxmem: 64 << 20 }

/** Hashes a password with scrypt and a salt of its own: "scrypt$N$salt$key", base64. */
export async function hashPassword(password: string): Promise<string> {
  const salt = randomBytes(16)
  const key = await derive(password.normalize('NFKC'), salt, 32, COST)
  return `scrypt$${COST.N}$${salt.toString('base64')}$${key.toString('base64')}`
}

/** Whether a password is the one that was hashed; takes as long where it is not. */
export async function matchesPassword(password: string, hash: string): Promise<boolean> {
  const [, n, salt, key] = hash.split('$')
  const expected = Buffer.from(key ?? '', 'base64')
  const given = await derive(password.normalize('NFKC'), Buffer.from(salt ?? '', 'base64'), 32, {
    ...COST,
    N: Number(n) || COST.N,
  })
  return expected.length === given.length && timingSafeEqual(expected, given)
}

/** What an unknown address is compared with, so that it takes as long as a known one. */
export const NOBODY = hashPassword(randomBytes(16).toString('hex'))

const COMMON = new Set<string>(dictionary['passwords-common'] as string[])

/** Whether a password is on the list of common ones, also with digits or signs around it. */
function isCommon(password: string): boolean {
  const plain = password.toLowerCase()
  const bare = plain.replace(/^[^a-z]+|[^a-z]+$/g, '')
  return COMMON.has(plain) || (COMMON.has(bare) && plain.length - bare.length <= 4) || /^(.{1,3})\1+$/.test(plain)
}

/**
 * Throws at the field unless a password may be used: not one of the common ones, not the user's own name or address
 * (OWASP ASVS 5.0, 6.2.4 and 6.2.11). How long it must be is the endpoint's matter.
 */
export function checkPassword(password: string, user: { name: string; email: string }, field = 'password'): void {
  const refuse = (message: string) => new Refusal('invalid', message, [{ field, message }])
  if (isCommon(password)) throw refuse('This password is too common. Choose another')
  const plain = nameKey(password).replaceAll(' ', '')
  const own = [
    ...nameKey(user.name).split(' '),
    nameKey(user.name).replaceAll(' ', ''),
    nameKey(user.email.split('@')[0]!).replaceAll(' ', ''),
  ].filter((word) => word.length >= 4)
  if (own.some((word) => plain.includes(word) && plain.length - word.length < 6)) {
    throw refuse('This password is made of your name. Choose another')
  }
}
