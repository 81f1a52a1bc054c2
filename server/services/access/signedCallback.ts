import { Webhook, WebhookVerificationError } from 'standardwebhooks'
import type { z } from 'zod'
import { Refusal } from './errors'

/**
 * Reads a callback that is signed as Standard Webhooks 1.0 says. Throws Refusal not_found where no secret is set,
 * not_allowed where the signature is wrong or too old, and invalid where it is no such callback (`what`).
 */
export function readCallback<S extends z.ZodType>(
  secret: string | null | undefined,
  { headers, raw }: { headers: Record<string, string>; raw: string },
  schema: S,
  what: string,
): z.output<S> {
  if (!secret) throw new Refusal('not_found', 'There is no such address')
  let given: unknown
  try {
    given = new Webhook(secret).verify(raw, headers)
  } catch (error) {
    const unsigned = error instanceof WebhookVerificationError
    throw new Refusal(unsigned ? 'not_allowed' : 'invalid', unsigned ? 'The signature is wrong' : 'This is not JSON')
  }
  const callback = schema.safeParse(given)
  if (!callback.success) throw new Refusal('invalid', `This is not a callback about a ${what}`)
  return callback.data
}
