import { z } from 'zod'
import { env } from '../../environment'

/** What became of handing a text over. */
export type TextDelivery =
  | { status: 'taken' }
  /** Refused for good. */
  | { status: 'refused'; error: string }
  /** Not taken now: it may be tried again, under the same id. */
  | { status: 'later'; error: string }

const refusal = z.object({ error: z.object({ message: z.string().max(500) }) })

/**
 * Hands a text message to the gateway (docs/text-gateway.md). What is handed over twice under one id is sent once, so
 * that it is tried again where there was no answer. Never throws.
 */
export async function handOverText(message: { id: string; to: string; text: string }): Promise<TextDelivery> {
  const settings = env().textGateway
  if (!settings) return { status: 'refused', error: 'No gateway for texts is connected' }
  const response = await fetch(`${settings.url}/messages`, {
    method: 'POST',
    headers: { 'content-type': 'application/json', authorization: `Bearer ${settings.token}` },
    body: JSON.stringify({ ...message, from: settings.from }),
    signal: AbortSignal.timeout(10_000),
  }).catch(() => null)
  if (response?.ok) return { status: 'taken' }
  if (!response || response.status === 429 || response.status >= 500) {
    return { status: 'later', error: 'The gateway for texts does not answer' }
  }
  const answer = refusal.safeParse(await response.json().catch(() => null))
  return { status: 'refused', error: answer.data?.error.message ?? `The gateway refused it (${response.status})` }
}
