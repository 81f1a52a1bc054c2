import { env } from '../../environment'
import { Refusal } from '../../services/access/errors'

/** What a line can say of a call. Words for the final answers of RFC 3261: 200, 486, 404, 408. */
export type LineState = 'ringing' | 'answered' | 'voicemail' | 'busy' | 'not_in_service' | 'no_answer' | 'ended'

/** A way to ring someone. */
export interface Line {
  /** Starts ringing an E.164 number; gives the line's name for the call. */
  dial(number: string): Promise<string>
  status(ref: string): Promise<{ status: LineState; since: number }>
  hangUp(ref: string): Promise<void>
}

/** The line at LINE_URL, spoken to over HTTP and JSON. Throws Refusal where there is none or it does not answer. */
export function line(): Line {
  const base = env().lineUrl
  if (!base) {
    throw new Refusal('refused', 'No dialer is connected. Call from your own phone and log the outcome here')
  }
  const ask = async (path: string, init?: RequestInit): Promise<Response> => {
    const response = await fetch(`${base}${path}`, { ...init, signal: AbortSignal.timeout(4_000) }).catch(() => null)
    if (!response?.ok) {
      throw new Refusal('unavailable', 'The dialer does not answer. Call from your own phone and log the outcome here')
    }
    return response
  }
  return {
    async dial(number) {
      const response = await ask('/calls', {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ to: number }),
      })
      return ((await response.json()) as { id: string }).id
    },
    async status(ref) {
      return (await (await ask(`/calls/${encodeURIComponent(ref)}`)).json()) as { status: LineState; since: number }
    },
    async hangUp(ref) {
      await ask(`/calls/${encodeURIComponent(ref)}`, { method: 'DELETE' })
    },
  }
}
