import { RateLimiterMemory, RateLimiterRes } from 'rate-limiter-flexible'
import { Refusal } from '../services/access/errors'

/**
 * How many requests a minute are answered for one user or key, and for one address where nobody has signed in.
 * RATE_LIMIT changes the first; a fifth of it is the second.
 */
const PER_MINUTE = Number(process.env.RATE_LIMIT ?? 3_000)

const users = new RateLimiterMemory({ points: PER_MINUTE, duration: 60 })
const addresses = new RateLimiterMemory({ points: Math.ceil(PER_MINUTE / 5), duration: 60 })

/**
 * Counts a request of a user or key; of an address where there is neither. Each web process counts by itself. Throws
 * Refusal with the seconds to wait (RFC 6585, 429; RFC 9110, Retry-After) where there are too many.
 */
export async function countRequest(who: { user: string } | { address: string }): Promise<void> {
  try {
    await ('user' in who ? users.consume(who.user) : addresses.consume(who.address))
  } catch (full) {
    if (!(full instanceof RateLimiterRes)) throw full
    throw tooMany(Math.max(1, Math.ceil(full.msBeforeNext / 1_000)))
  }
}

/** Too many requests: how many seconds to wait. */
function tooMany(
  seconds: number,
  message = `Too many requests. Try again in ${seconds} ${seconds === 1 ? 'second' : 'seconds'}`,
): Refusal {
  return new Refusal('throttled', message, [], undefined, seconds)
}
