import type { DialerKind } from '#core/enumerations'
import type { Id } from '#core/instant'
import { telUri } from '#core/text/phone'
import { env } from '../../environment'
import { Refusal } from '../../services/access/errors'

/**
 * What is known of a call. Words for the final answers of RFC 3261: 200, 486, 404, 408, 603; `own_phone` while it is
 * made on a phone that says nothing.
 */
export type CallStatus =
  'ringing' | 'answered' | 'voicemail' | 'busy' | 'rejected' | 'not_in_service' | 'no_answer' | 'ended' | 'own_phone'

/** A call that has been started: the line's name for it, or the link by which the user's own phone dials it. */
export interface Started {
  ref: string | null
  uri: string | null
}

/** A way to call someone. */
export interface Dialer {
  kind: DialerKind
  /** Whether it calls back when a call is in another state. */
  reports: boolean
  /** Starts a call to an E.164 number, which is known here by `id`. */
  dial(id: Id, number: string, isRecorded: boolean): Promise<Started>
  /** How the call goes; `since` is in the machine's time, for a stopwatch. */
  status(call: { ref: string | null; startedAt: number; endedAt: number | null }): Promise<CallState>
  hangUp(ref: string | null): Promise<void>
  /** Plays a message into the voicemail box that has answered; the call ends with it. */
  play(ref: string | null, message: { mediaType: string; content: Buffer }): Promise<void>
}
interface CallState {
  status: CallStatus
  since: number
}

/** The user's own phone: it is given the number by a tel: link (RFC 3966), and says nothing of the call. */
const ownPhone: Dialer = {
  kind: 'own_phone',
  reports: false,
  dial: async (_, number) => ({ ref: null, uri: telUri(number) }),
  status: async ({ startedAt, endedAt }) =>
    endedAt === null ? { status: 'own_phone', since: startedAt } : { status: 'ended', since: endedAt },
  hangUp: async () => {},
  play: async () => {
    throw new Refusal('refused', 'Messages are left by the dialer; on your own phone, leave it yourself')
  },
}

/** The exchange at `base`, spoken to over HTTP and JSON. Throws Refusal where it does not answer. */
function exchange(base: string): Dialer {
  const ask = async (path: string, init?: RequestInit): Promise<Response> => {
    const response = await fetch(`${base}${path}`, { ...init, signal: AbortSignal.timeout(4_000) }).catch(() => null)
    if (!response?.ok) {
      throw new Refusal('unavailable', 'The dialer does not answer. Call from your own phone and log the outcome here')
    }
    return response
  }
  const reports = Boolean(env().lineSecret)
  const at = (ref: string | null) => `/calls/${encodeURIComponent(ref ?? '')}`
  return {
    kind: 'dialer',
    reports,
    async dial(id, number, isRecorded) {
      const response = await ask('/calls', {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({
          to: number,
          ...(reports && { reference: id }),
          ...(isRecorded && { record: true, announce: true }),
        }),
      })
      return { ref: ((await response.json()) as { id: string }).id, uri: null }
    },
    async status({ ref }) {
      return (await (await ask(at(ref))).json()) as CallState
    },
    async hangUp(ref) {
      await ask(at(ref), { method: 'DELETE' })
    },
    async play(ref, { mediaType, content }) {
      const body = new Uint8Array(content)
      await ask(`${at(ref)}/play`, { method: 'POST', headers: { 'content-type': mediaType }, body })
    },
  }
}

/** Calls that come in: answered and ended at the exchange. */
interface IncomingLine {
  /** Puts the caller through; gives whether they were still there. */
  answer(ref: string): Promise<boolean>
  /** Ends it; one that is over is left as it is. */
  hangUp(ref: string): Promise<void>
}

/** The exchange, for the calls it announces; null where none is connected. */
export function incomingLine(): IncomingLine | null {
  const base = env().lineUrl
  if (!base) return null
  const ask = (path: string, method: 'POST' | 'DELETE') =>
    fetch(`${base}/calls/${path}`, { method, signal: AbortSignal.timeout(4_000) }).catch(() => null)
  return {
    answer: async (ref) => Boolean((await ask(`${encodeURIComponent(ref)}/answer`, 'POST'))?.ok),
    hangUp: async (ref) => void (await ask(encodeURIComponent(ref), 'DELETE')),
  }
}

/** Recordings at the exchange. */
interface RecordingLine {
  /** The answer with the sound of a call, or without; null where the exchange does not answer. */
  fetch(ref: string): Promise<Response | null>
  /** Stops a recording and deletes it there; gives whether that is certain. */
  remove(ref: string): Promise<boolean>
}

/** The recordings of the exchange; null where none is connected. */
export function recordingLine(): RecordingLine | null {
  const base = env().lineUrl
  if (!base) return null
  const ask = (ref: string, method: 'GET' | 'DELETE', ms: number) =>
    fetch(`${base}/calls/${encodeURIComponent(ref)}/recording`, { method, signal: AbortSignal.timeout(ms) }).catch(
      () => null,
    )
  return {
    fetch: (ref) => ask(ref, 'GET', 120_000),
    remove: async (ref) => {
      const response = await ask(ref, 'DELETE', 4_000)
      return response !== null && (response.ok || response.status === 404)
    },
  }
}

/** A call of several lines: our id of it, and what is said to who answers and is not put through in time. */
export interface ScreenedCall {
  id: string
  number: string
  isRecorded: boolean
  withinMs: number
  otherwiseSay: string
}

/** The exchange, for calls that are put through to a caller once they are answered. */
interface LinePool {
  /** Starts a call; gives the exchange's name of it, or null where it was not taken. */
  dial(call: ScreenedCall): Promise<string | null>
  /** Puts the caller through; gives whether they were still there. */
  connect(ref: string): Promise<boolean>
  hangUp(ref: string): Promise<void>
  /** Plays a message into the voicemail box that has answered; gives whether it was taken. */
  play(ref: string, message: { mediaType: string; content: Buffer }): Promise<boolean>
}

/** The exchange's lines; null where none is connected, or none that calls back. */
export function linePool(): LinePool | null {
  const base = env().lineUrl
  if (!base || !env().lineSecret) return null
  const ask = (path: string, init: RequestInit) =>
    fetch(`${base}/calls${path}`, { ...init, signal: AbortSignal.timeout(4_000) }).catch(() => null)
  const at = (ref: string) => `/${encodeURIComponent(ref)}`
  return {
    async dial({ id, number, isRecorded, withinMs, otherwiseSay }) {
      const screen = { reference: id, withinMs, otherwiseSay }
      const response = await ask('', {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ to: number, screen, ...(isRecorded && { record: true, announce: true }) }),
      })
      return response?.ok ? ((await response.json()) as { id: string }).id : null
    },
    connect: async (ref) => Boolean((await ask(`${at(ref)}/connect`, { method: 'POST' }))?.ok),
    hangUp: async (ref) => void (await ask(at(ref), { method: 'DELETE' })),
    async play(ref, { mediaType, content }) {
      const headers = { 'content-type': mediaType }
      const response = await ask(`${at(ref)}/play`, { method: 'POST', headers, body: new Uint8Array(content) })
      return Boolean(response?.ok)
    },
  }
}

/** The dialer a call is made with: the exchange at LINE_URL, or the own phone, also where no exchange is connected. */
export function dialer(kind: DialerKind): Dialer {
  const base = env().lineUrl
  return kind === 'dialer' && base ? exchange(base) : ownPhone
}
