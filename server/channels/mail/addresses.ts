import { createHash, createHmac, timingSafeEqual } from 'node:crypto'
import { env } from '../../environment'

function seal(purpose: string, id: string): string {
  return createHmac('sha256', env().secret).update(`${purpose}:${id}`).digest('hex').slice(0, 16)
}

/**
 * A token that only we can have made for this id and purpose; letters and digits, safe in addresses that lose their
 * case.
 */
export function signedToken(purpose: string, id: string): string {
  return `${id.replaceAll('-', '')}.${seal(purpose, id)}`
}

/** The id in a token made for the purpose, or null for one we did not make. */
export function readToken(purpose: string, token: string): string | null {
  const match = /^([0-9a-f]{8})([0-9a-f]{4})([0-9a-f]{4})([0-9a-f]{4})([0-9a-f]{12})\.([0-9a-f]{16})$/.exec(
    token.toLowerCase(),
  )
  if (!match) return null
  const id = match.slice(1, 6).join('-')
  return timingSafeEqual(Buffer.from(seal(purpose, id)), Buffer.from(match[6]!)) ? id : null
}

/** Where answers to a message come back to us. */
export function replyAddress(messageId: string): string {
  return `reply.${signedToken('reply', messageId)}@${env().mailDomain}`
}

/** The message that an address of ours belongs to, or null. */
export function messageOfAddress(address: string): string | null {
  const match = /^reply\.([^@]+)@/i.exec(address.trim())
  return match ? readToken('reply', match[1]!) : null
}

/** Where a test email comes back to us. */
export function testAddress(id: string): string {
  return `test.${signedToken('test', id)}@${env().mailDomain}`
}

/** The test email that an address of ours belongs to, or null. */
export function testOfAddress(address: string): string | null {
  const match = /^test\.([^@]+)@/i.exec(address.trim())
  return match ? readToken('test', match[1]!) : null
}

/**
 * The Message-ID of RFC 5322 for a message: derived from the enrollment and the step, so that a second sending of the
 * same step could be recognized by the receiver; from the message itself where there is no step.
 */
export function headerId(message: { id: string; enrollmentId: string | null; stepId: string | null }): string {
  const key = message.enrollmentId ? `${message.enrollmentId}/${message.stepId}` : message.id
  return `<${createHash('sha256').update(key).digest('hex').slice(0, 32)}@${env().mailDomain}>`
}
