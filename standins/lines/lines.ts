import { randomUUID } from 'node:crypto'
import { createServer, type IncomingMessage, type ServerResponse } from 'node:http'
import type { AddressInfo } from 'node:net'
import { writeWav } from '../../core/audio/audioLength'
import { callBack, type CallbackSettings } from '../callback'
import { telephonesPage } from './page'

/** How a number behaves when it is called. */
export type Behavior = 'answered' | 'voicemail' | 'busy' | 'rejected' | 'not_in_service' | 'no_answer'
const BEHAVIORS: readonly Behavior[] = ['answered', 'voicemail', 'busy', 'rejected', 'not_in_service', 'no_answer']

interface Call {
  number: string
  startedAt: number
  /** What becomes of it; `waits` for one that a recipient makes, until it is answered. */
  behavior: Behavior | 'waits'
  /** When a recipient's call was answered. */
  answeredAt: number | null
  endedAt: number | null
  /** The message that was left. */
  message?: { mediaType: string; content: Buffer }
  /** What was said to them because no caller was put through. */
  said?: string
  isRecorded?: boolean
  /** With what each change of its status is posted; undefined where none is. */
  reference?: string
  /** Of one of several lines: what is said where no caller is put through in time. */
  screened?: { reference: string; withinMs: number; otherwiseSay: string; isConnected: boolean; isEndSent: boolean }
}

/**
 * How a number behaves unless it was set to do otherwise, by its last digit, so that a demonstration can be planned: 0
 * to 3 answer, 4 to 6 go to voicemail, 7 is busy, 8 rings on (88 rejects the call), 9 is not in service.
 */
export function usualBehavior(number: string): Behavior {
  const digit = Number(number.at(-1))
  if (digit <= 3) return 'answered'
  if (digit <= 6) return 'voicemail'
  if (digit === 7) return 'busy'
  if (number.endsWith('88')) return 'rejected'
  return digit === 8 ? 'no_answer' : 'not_in_service'
}

/**
 * What a call is in, `now` milliseconds on the machine's clock. Ringing lasts `ringMs`; one that nobody answers twice
 * as long. A call that a recipient makes rings until it is answered.
 */
export function statusOf(
  call: Call,
  ringMs: number,
  now: number,
): { status: 'ringing' | 'ended' | Behavior; since: number } {
  if (call.endedAt !== null) return { status: 'ended', since: call.endedAt }
  if (call.behavior === 'waits') {
    return call.answeredAt === null
      ? { status: 'ringing', since: call.startedAt }
      : { status: 'answered', since: call.answeredAt }
  }
  const isShort = ['busy', 'rejected', 'not_in_service'].includes(call.behavior)
  const long = call.behavior === 'answered' ? ringMs : ringMs * 2
  const rings = isShort ? ringMs / 4 : long
  const turned = call.startedAt + rings
  return now < turned ? { status: 'ringing', since: call.startedAt } : { status: call.behavior, since: turned }
}

export interface ExchangeSettings extends CallbackSettings {
  port: number
  /** How long a ring lasts, in milliseconds. */
  ringMs: number
  /** How long a recipient who calls waits for an answer, in milliseconds. */
  patienceMs: number
}

/** What was asked of a call. */
interface Asked {
  to?: string
  record?: boolean
  reference?: string
  screen?: { reference: string; withinMs: number; otherwiseSay: string }
}

/** The exchange that runs, for who started it. */
export interface Exchange {
  port: number
  /** A recipient calls; gives the id of the call. */
  comeIn: (from: string) => string
  /** A recipient hangs up. */
  end: (id: string) => void
  /** The calls that were made, with what was heard by those for whom nobody was put through. */
  made: () => { id: string; number: string; said: string | null; isConnected: boolean }[]
  close: () => Promise<void>
}

/** What is heard on a recorded call of the stand-in: a low hum, as long as the call was (ms), for a minute at most. */
function hum(length: number): Uint8Array {
  const rate = 4_000
  const samples = new Float32Array(Math.ceil((Math.min(length, 60_000) / 1_000) * rate))
  return writeWav(
    samples.map((_, index) => 0.2 * Math.sin((2 * Math.PI * 220 * index) / rate)),
    rate,
  )
}

const isNumber = (text: string | null | undefined): text is string => /^\+[1-9]\d{1,14}$/.test(text ?? '')

async function bytesOf(request: IncomingMessage): Promise<Buffer> {
  const parts: Buffer[] = []
  for await (const part of request) parts.push(part as Buffer)
  return Buffer.concat(parts)
}

/**
 * Serves a simulated exchange over HTTP and JSON on loopback, as docs/dialer.md has it. PUT /numbers/… says how a
 * number behaves; GET / shows the recipients' telephones, from which they call back.
 */
export function serveLines(settings: ExchangeSettings): Promise<Exchange> {
  const { ringMs } = settings
  const calls = new Map<string, Call>()
  const behaviors = new Map<string, Behavior>()
  const called: string[] = []
  const timers = new Set<NodeJS.Timeout>()

  /** Runs something in `ms` milliseconds, unless the exchange is closed by then. */
  function later(ms: number, run: () => void): void {
    const timer = setTimeout(() => {
      timers.delete(timer)
      run()
    }, ms)
    timers.add(timer)
  }
  /** Says that one of several lines is over, once. */
  function sayEnded(id: string, result: Behavior | 'completed' | 'abandoned'): void {
    const { screened } = calls.get(id)!
    if (!screened || screened.isEndSent) return
    screened.isEndSent = true
    void callBack(settings, { type: 'call.ended', id, reference: screened.reference, result })
  }
  /** Looks what became of one of several lines when it turns: it is put through in time, or hears why not. */
  function turn(id: string): void {
    const call = calls.get(id)!
    const { screened, behavior } = call
    if (!screened || call.endedAt !== null) return
    const { reference, withinMs } = screened
    if (behavior === 'answered') {
      void callBack(settings, { type: 'call.answered', id, reference })
      later(withinMs, () => {
        if (call.endedAt !== null || screened.isConnected) return
        call.said = screened.otherwiseSay
        call.endedAt = Date.now()
        sayEnded(id, 'abandoned')
      })
    } else if (behavior === 'voicemail') {
      void callBack(settings, { type: 'call.voicemail', id, reference })
      later(ringMs * 8, () => end(id))
    } else end(id)
  }

  /** Says that a call is in another state, where that was asked for. */
  function sayChanged(id: string): void {
    const reference = calls.get(id)?.reference
    if (reference) void callBack(settings, { type: 'call.changed', id, reference })
  }
  function end(id: string): void {
    const call = calls.get(id)
    if (!call || call.endedAt !== null) return
    const before = statusOf(call, ringMs, Date.now())
    call.endedAt = Date.now()
    sayChanged(id)
    if (call.isRecorded && before.status === 'answered') {
      call.answeredAt = before.since
      void callBack(settings, { type: 'call.recorded', id })
    }
    if (call.behavior === 'waits') void callBack(settings, { type: 'call.ended', id })
    else if (before.status === 'ringing') sayEnded(id, 'no_answer')
    else if (before.status !== 'ended') sayEnded(id, call.screened?.isConnected ? 'completed' : before.status)
  }
  /** A recipient calls; gives the id of the call. */
  function comeIn(from: string): string {
    const id = randomUUID()
    calls.set(id, { number: from, startedAt: Date.now(), behavior: 'waits', answeredAt: null, endedAt: null })
    void callBack(settings, { type: 'call.incoming', id, from })
    setTimeout(() => {
      if (calls.get(id)?.answeredAt === null) end(id)
    }, settings.patienceMs)
    return id
  }

  async function serve(request: IncomingMessage, response: ServerResponse): Promise<unknown> {
    const answer = (status: number, value: unknown) =>
      response.writeHead(status, { 'content-type': 'application/json' }).end(JSON.stringify(value))
    const moveTo = (path: string) => response.writeHead(303, { location: path }).end()
    const url = new URL(request.url ?? '/', 'http://exchange')
    const [, section, name, part] = url.pathname.split('/').map(decodeURIComponent)
    const bytes = await bytesOf(request)
    const body = bytes.toString('utf8')
    const call = name ? calls.get(name) : undefined
    const state = () => answer(200, statusOf(call!, ringMs, Date.now()))
    if (section === '' && request.method === 'GET') {
      const id = url.searchParams.get('call') ?? ''
      const shown = calls.get(id)
      const current = shown && { id, number: shown.number, status: statusOf(shown, ringMs, Date.now()).status }
      response.writeHead(200, { 'content-type': 'text/html; charset=utf-8' })
      const left = [...calls].flatMap(([id, one]) => (one.message ? [{ id, number: one.number }] : []))
      return response.end(telephonesPage(called, left, current ?? null))
    }
    if (section === 'calls' && !name && request.method === 'POST') {
      const { to, record, reference, screen } = JSON.parse(body || '{}') as Asked
      if (!isNumber(to)) return answer(400, { error: 'A call needs a number in E.164' })
      const id = randomUUID()
      const behavior = behaviors.get(to) ?? usualBehavior(to)
      const asked = { isRecorded: record === true, ...(reference && { reference }) }
      const made: Call = { number: to, startedAt: Date.now(), behavior, answeredAt: null, endedAt: null, ...asked }
      calls.set(id, made)
      // Ringing is over a known time after the call was made, unless it is hung up before.
      const turned = statusOf(made, ringMs, Date.now() + ringMs * 4).since - Date.now() + 1
      if (reference) {
        later(turned, () => {
          if (made.endedAt === null) sayChanged(id)
        })
      }
      if (screen) {
        made.screened = { ...screen, isConnected: false, isEndSent: false }
        later(turned, () => turn(id))
      }
      if (!called.includes(to)) called.unshift(to)
      return answer(201, { id })
    }
    if (section === 'calls' && call && part === 'answer' && request.method === 'POST') {
      if (call.behavior !== 'waits' || call.endedAt !== null) return answer(409, { error: 'The call is over' })
      call.answeredAt ??= Date.now()
      return state()
    }
    if (section === 'calls' && call && part === 'connect' && request.method === 'POST') {
      const isThere = call.endedAt === null && statusOf(call, ringMs, Date.now()).status === 'answered'
      if (!call.screened || !isThere) return answer(409, { error: 'The call is over' })
      call.screened.isConnected = true
      return state()
    }
    if (section === 'calls' && call && part === 'play' && request.method === 'POST') {
      const mediaType = request.headers['content-type'] ?? ''
      if (statusOf(call, ringMs, Date.now()).status !== 'voicemail') {
        return answer(409, { error: 'No box is on the line' })
      }
      if (!/^audio\/(?:wav|ogg)$/.test(mediaType)) return answer(415, { error: 'A message is WAV or OGG' })
      call.message = { mediaType, content: bytes }
      setTimeout(() => end(name!), ringMs)
      return answer(202, {})
    }
    if (section === 'calls' && call && part === 'recording' && request.method === 'DELETE') {
      call.isRecorded = false
      return answer(200, {})
    }
    if (section === 'calls' && call?.isRecorded && call.answeredAt !== null && part === 'recording') {
      response.writeHead(200, { 'content-type': 'audio/wav' })
      return response.end(hum((call.endedAt ?? Date.now()) - call.answeredAt))
    }
    if (section === 'calls' && call?.message && part === 'message' && request.method === 'GET') {
      response.writeHead(200, { 'content-type': call.message.mediaType })
      return response.end(call.message.content)
    }
    if (section === 'calls' && call && !part && request.method === 'GET') return state()
    if (section === 'calls' && call && !part && request.method === 'DELETE') {
      end(name!)
      return state()
    }
    if (section === 'incoming' && request.method === 'POST') {
      const from = new URLSearchParams(body).get('from')
      if (!isNumber(from)) return answer(400, { error: 'A call needs a number in E.164' })
      return moveTo(`/?call=${comeIn(from)}`)
    }
    if (section === 'hang-up' && request.method === 'POST') {
      const id = new URLSearchParams(body).get('id') ?? ''
      end(id)
      return moveTo(`/?call=${encodeURIComponent(id)}`)
    }
    if (section === 'numbers' && name && request.method === 'PUT' && BEHAVIORS.includes(body as Behavior)) {
      behaviors.set(name, body as Behavior)
      return answer(200, { number: name, behavior: body })
    }
    return answer(404, { error: 'There is no such call' })
  }
  const server = createServer((request, response) => {
    serve(request, response).catch(() => response.writeHead(400).end())
  })
  return new Promise((resolve) =>
    server.listen(settings.port, '127.0.0.1', () =>
      resolve({
        port: (server.address() as AddressInfo).port,
        comeIn,
        end,
        made: () =>
          [...calls].map(([id, { number, said, screened }]) => ({
            id,
            number,
            said: said ?? null,
            isConnected: screened?.isConnected ?? false,
          })),
        close: () => {
          timers.forEach(clearTimeout)
          return new Promise((ended) => server.close(() => ended()))
        },
      }),
    ),
  )
}
