import { randomUUID } from 'node:crypto'
import { createServer, type IncomingMessage, type ServerResponse } from 'node:http'
import { callBack, type CallbackSettings } from '../callback'

/** A text message as the gateway or its recipient has it. */
interface Text {
  id: string
  /** The number of the recipient, in E.164. */
  number: string
  direction: 'out' | 'in'
  text: string
  at: number
}

/** Callbacks are reports of delivery, and answers. */
export interface GatewaySettings extends CallbackSettings {
  port: number
  /** What a sender has to show. */
  token: string
}

const escape = (text: string) =>
  text.replace(/&/g, '&amp;').replace(/</g, '&lt;').replace(/>/g, '&gt;').replace(/"/g, '&quot;')

function page(texts: readonly Text[], number: string): string {
  const numbers = [...new Set(texts.map((text) => text.number))]
  const list = numbers.map((one) => `<li><a href="/?for=${encodeURIComponent(one)}">${escape(one)}</a></li>`).join('')
  const lines = texts
    .filter((text) => text.number === number)
    .map((text) => `<p><b>${text.direction === 'out' ? 'They wrote' : 'You answered'}</b><br>${escape(text.text)}</p>`)
    .join('')
  const form = `<form method="post" action="/answers"><input type="hidden" name="from" value="${escape(number)}">
    <p><label>Answer<br><textarea name="text" rows="3" cols="40" required></textarea></label></p>
    <button>Send the answer</button></form>`
  return `<!doctype html><html lang="en"><meta charset="utf-8"><title>Recipients’ phones: texts</title>
    <body style="font: 15px sans-serif; max-width: 640px; margin: 32px auto; background: #f7f4ec; color: #1f2b27">
    <h1>${number ? escape(number) : 'Recipients’ phones: texts'}</h1>
    ${number ? lines + form + '<p><a href="/">All phones</a></p>' : `<ul>${list || '<li>No texts yet.</li>'}</ul>`}`
}

async function bodyOf(request: IncomingMessage): Promise<string> {
  const parts: Buffer[] = []
  for await (const part of request) parts.push(part as Buffer)
  return Buffer.concat(parts).toString('utf8')
}

/**
 * Serves a simulated gateway for text messages on loopback: POST /messages takes one, GET / shows the recipients’
 * phones, where they read and answer. Numbers that end in 9 are not delivered.
 */
export function serveTexts(settings: GatewaySettings): Promise<{ texts: Text[]; close: () => Promise<void> }> {
  const texts: Text[] = []
  const json = (response: ServerResponse, status: number, value: unknown) =>
    response.writeHead(status, { 'content-type': 'application/json' }).end(JSON.stringify(value))

  async function take(request: IncomingMessage, response: ServerResponse): Promise<void> {
    if (request.headers.authorization !== `Bearer ${settings.token}`) {
      return void json(response, 401, { error: { code: 'not_allowed', message: 'The token is wrong' } })
    }
    const { id, to, text } = JSON.parse(await bodyOf(request)) as { id?: string; to?: string; text?: string }
    if (!id || !to || !text || !/^\+[1-9]\d{1,14}$/.test(to)) {
      return void json(response, 400, { error: { code: 'invalid', message: 'A text needs an id, a number and words' } })
    }
    json(response, 202, { id })
    // The same id once more is the same text.
    if (texts.some((one) => one.id === id)) return
    const arrives = !to.endsWith('9')
    if (arrives) texts.push({ id, number: to, direction: 'out', text, at: Date.now() })
    setTimeout(
      () =>
        void callBack(
          settings,
          arrives
            ? { type: 'text.delivered', id }
            : { type: 'text.failed', id, error: 'The number does not take texts' },
        ),
      200,
    )
  }

  const server = createServer((request, response) => {
    const url = new URL(request.url ?? '/', 'http://gateway')
    const work = async () => {
      if (request.method === 'POST' && url.pathname === '/messages') return take(request, response)
      if (request.method === 'POST' && url.pathname === '/answers') {
        const form = new URLSearchParams(await bodyOf(request))
        const [from, text] = [form.get('from') ?? '', form.get('text') ?? '']
        texts.push({ id: randomUUID(), number: from, direction: 'in', text, at: Date.now() })
        await callBack(settings, { type: 'text.received', from, text })
        return void response.writeHead(303, { location: `/?for=${encodeURIComponent(from)}` }).end()
      }
      if (url.pathname === '/texts') {
        return void json(
          response,
          200,
          texts.filter((text) => text.number === url.searchParams.get('for')),
        )
      }
      response.writeHead(200, { 'content-type': 'text/html; charset=utf-8' })
      response.end(page(texts, url.searchParams.get('for') ?? ''))
    }
    work().catch(() => json(response, 400, { error: { code: 'invalid', message: 'This cannot be read' } }))
  })
  return new Promise((resolve) =>
    server.listen(settings.port, '127.0.0.1', () =>
      resolve({ texts, close: () => new Promise((ended) => server.close(() => ended())) }),
    ),
  )
}
