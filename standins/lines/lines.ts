import { randomUUID } from 'node:crypto'
import { createServer } from 'node:http'

/** How a number behaves when it is called. */
export type Behavior = 'answered' | 'voicemail' | 'busy' | 'not_in_service' | 'no_answer'
const BEHAVIORS: readonly Behavior[] = ['answered', 'voicemail', 'busy', 'not_in_service', 'no_answer']

interface Call {
  number: string
  startedAt: number
  behavior: Behavior
  endedAt: number | null
}

/**
 * How a number behaves unless it was behaviors otherwise, by its last digit, so that a demonstration can be planned:
 * 0 to 3 answer, 4 to 6 go to voicemail, 7 is busy, 8 rings on, 9 is not in service.
 */
export function usualBehavior(number: string): Behavior {
  const digit = Number(number.at(-1))
  if (digit <= 3) return 'answered'
  if (digit <= 6) return 'voicemail'
  if (digit === 7) return 'busy'
  return digit === 8 ? 'no_answer' : 'not_in_service'
}

/**
 * What a call is in, `now` milliseconds on the machine's clock. Ringing lasts `ringMs`; one that nobody answers twice
 * as long.
 */
export function statusOf(
  call: Call,
  ringMs: number,
  now: number,
): { status: 'ringing' | 'ended' | Behavior; since: number } {
  if (call.endedAt !== null) return { status: 'ended', since: call.endedAt }
  const isShort = call.behavior === 'busy' || call.behavior === 'not_in_service'
  const long = call.behavior === 'answered' ? ringMs : ringMs * 2
  const rings = isShort ? ringMs / 4 : long
  const turned = call.startedAt + rings
  return now < turned ? { status: 'ringing', since: call.startedAt } : { status: call.behavior, since: turned }
}

/**
 * Serves simulated phone lines over HTTP and JSON on loopback: POST /calls rings, GET tells, DELETE hangs up, PUT
 * /numbers/… says how a number behaves.
 */
export function serveLines(port: number, ringMs: number): Promise<void> {
  const calls = new Map<string, Call>()
  const behaviors = new Map<string, Behavior>()
  const server = createServer((request, response) => {
    const parts: Buffer[] = []
    request.on('data', (part: Buffer) => parts.push(part))
    request.on('end', () => {
      const answer = (status: number, value: unknown) =>
        response.writeHead(status, { 'content-type': 'application/json' }).end(JSON.stringify(value))
      const [, section, name] = (request.url ?? '/').split('/').map(decodeURIComponent)
      const body = Buffer.concat(parts).toString('utf8')
      const call = name ? calls.get(name) : undefined
      if (section === 'calls' && request.method === 'POST') {
        const { to } = JSON.parse(body || '{}') as { to?: string }
        if (!to || !/^\+[1-9]\d{1,14}$/.test(to)) return answer(400, { error: 'A call needs a number in E.164' })
        const id = randomUUID()
        calls.set(id, {
          number: to,
          startedAt: Date.now(),
          behavior: behaviors.get(to) ?? usualBehavior(to),
          endedAt: null,
        })
        return answer(201, { id })
      }
      if (section === 'calls' && call && request.method === 'GET') {
        return answer(200, statusOf(call, ringMs, Date.now()))
      }
      if (section === 'calls' && call && request.method === 'DELETE') {
        call.endedAt ??= Date.now()
        return answer(200, statusOf(call, ringMs, Date.now()))
      }
      if (section === 'numbers' && name && request.method === 'PUT' && BEHAVIORS.includes(body as Behavior)) {
        behaviors.set(name, body as Behavior)
        return answer(200, { number: name, behavior: body })
      }
      answer(404, { error: 'There is no such call' })
    })
  })
  return new Promise((resolve) => server.listen(port, '127.0.0.1', () => resolve()))
}
