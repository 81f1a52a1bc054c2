import { createServer, type IncomingMessage, type ServerResponse } from 'node:http'
import nodemailer from 'nodemailer'
import type { Letter, Mailroom } from './mailroom'
import { deliveryReport } from './report'

const escape = (text: string) =>
  text.replace(/&/g, '&amp;').replace(/</g, '&lt;').replace(/>/g, '&gt;').replace(/"/g, '&quot;')

const STYLE = `*{box-sizing:border-box}body{margin:0;font:15px/1.5 "Liberation Sans",system-ui,sans-serif;color:#20262b;background:#eceff1}header{background:#37474f;color:#fff;padding:12px 24px;display:flex;gap:24px;align-items:baseline}
header a{color:#cfd8dc}main{max-width:900px;margin:20px auto;padding:0 16px}.list{background:#fff;border:1px solid #cfd8dc;border-radius:4px}.list a{display:grid;grid-template-columns:230px 1fr auto;gap:16px;padding:10px 16px;border-top:1px solid #eceff1;color:inherit;text-decoration:none}
.list a:first-child{border:0}.list a:hover,.list a:focus{background:#f5f7f8}.new{font-weight:700}.dim{color:#607d8b}.letter{background:#fff;border:1px solid #cfd8dc;border-radius:4px;padding:20px 24px}h1{font-size:20px;margin:0 0 4px}
textarea{width:100%;min-height:110px;font:inherit;padding:8px;border:1px solid #b0bec5;border-radius:4px}button{font:inherit;border:0;border-radius:4px;background:#37474f;color:#fff;padding:8px 16px;margin:8px 8px 0 0;cursor:pointer}pre{background:#f5f7f8;padding:12px;overflow:auto;font-size:12px}input{font:inherit;padding:6px 8px;border:1px solid #b0bec5;border-radius:4px;width:280px}`

function page(title: string, body: string): string {
  return `<!doctype html><html lang="en"><meta charset="utf-8"><title>${escape(title)}</title><style>${STYLE}</style><header><strong>Recipients’ mailbox</strong><span>a simulated mail server; what you see is what the recipient sees</span><a href="/">All mail</a></header><main>${body}</main></html>`
}

const when = (at: number) => new Date(at).toISOString().slice(0, 16).replace('T', ' ')

function list(letters: readonly Letter[], search: string): string {
  const rows = letters
    .map(
      (letter) =>
        `<a href="/mail/${letter.id}" class="${letter.opened ? '' : 'new'}"><span>${escape(letter.to)}</span><span>${escape(letter.subject || '(no subject)')} <span class="dim">from ${escape(letter.fromName)}${letter.answered ? ', answered' : ''}</span></span><span class="dim">${when(letter.at)}</span></a>`,
    )
    .join('')
  return page(
    'Mail',
    `<form><input name="for" aria-label="Search" placeholder="Search a name, an address, a subject" value="${escape(search)}"> <button>Search</button></form><p class="dim">${letters.length} shown</p><div class="list">${rows || '<p style="padding:16px">No mail has come yet.</p>'}</div>`,
  )
}

function show(letter: Letter): string {
  const calendar = letter.calendar ? `<h2>Invitation</h2><pre>${escape(letter.calendar)}</pre>` : ''
  return page(
    letter.subject,
    `<div class="letter"><h1>${escape(letter.subject || '(no subject)')}</h1><p class="dim">from ${escape(letter.fromName)} &lt;${escape(letter.from)}&gt; to ${escape(letter.to)}</p>${letter.html || `<p>${escape(letter.text)}</p>`}${calendar}</div>
    <form method="post" action="/mail/${letter.id}/reply"><p><label for="text">Answer as ${escape(letter.to)}</label></p><textarea id="text" name="text" required></textarea><button>Send the answer</button></form>
    <form method="post" action="/mail/${letter.id}/away"><button>Send an automatic “I am away”</button></form>
    <form method="post" action="/mail/${letter.id}/bounce"><button>Return it as undeliverable</button></form>`,
  )
}

/** What may be sent from a mailbox page: an answer, an automatic one, a report that the mail could not be delivered. */
type Answer = 'reply' | 'away' | 'bounce'

/** Answers a letter by real SMTP to our listener, threaded by In-Reply-To and References (RFC 5322). */
async function answer(letter: Letter, kind: Answer, text: string, port: number): Promise<void> {
  const transport = nodemailer.createTransport({ host: '127.0.0.1', port, ignoreTLS: true })
  if (kind === 'bounce') {
    await transport.sendMail({ envelope: { from: '', to: [letter.envelopeFrom] }, raw: deliveryReport(letter) })
    return
  }
  await transport.sendMail({
    from: letter.to,
    to: letter.replyTo,
    subject: `Re: ${letter.subject}`,
    inReplyTo: letter.messageId,
    references: [letter.messageId],
    text: text || 'I am away until Monday.',
    ...(kind === 'away' && { headers: { 'Auto-Submitted': 'auto-replied' } }),
  })
}

async function bodyOf(request: IncomingMessage): Promise<string> {
  let body = ''
  for await (const part of request) {
    body += String(part)
    if (body.length > 1_000_000) throw new Error('Too large')
  }
  return body
}

/** Opening a letter asks for the pictures in it, as a mail program would. */
async function open(letter: Letter): Promise<void> {
  if (letter.opened) return
  letter.opened = true
  for (const [, url] of letter.html.matchAll(/<img[^>]+src="(https?:\/\/[^"]+)"/g)) {
    await fetch(url!, { signal: AbortSignal.timeout(2_000) }).catch(() => {})
  }
}

/** Shows the mail to anyone who looks, and lets them answer; also tells programs what was taken. Loopback only. */
export function serveMailbox(room: Mailroom, port: number, mailInPort: number): Promise<void> {
  const handle = async (request: IncomingMessage, response: ServerResponse): Promise<void> => {
    const url = new URL(request.url ?? '/', 'http://127.0.0.1')
    const html = (body: string, status = 200) =>
      response.writeHead(status, { 'content-type': 'text/html; charset=utf-8' }).end(body)
    const json = (value: unknown) =>
      response.writeHead(200, { 'content-type': 'application/json' }).end(JSON.stringify(value))
    const [, section, id, action] = url.pathname.split('/')
    const search = url.searchParams.get('for')?.toLowerCase() ?? ''
    if (url.pathname === '/') {
      return void html(
        list(
          room.letters
            .filter((letter) => `${letter.to} ${letter.subject} ${letter.fromName}`.toLowerCase().includes(search))
            .reverse()
            .slice(0, 200),
          search,
        ),
      )
    }
    if (url.pathname === '/taken') return void json({ taken: room.taken.has(url.searchParams.get('id') ?? '') })
    if (url.pathname === '/count') {
      return void json({
        letters: [...room.taken.values()].reduce((a, b) => a + b, 0),
        twice: [...room.taken.values()].filter((count) => count > 1).length,
      })
    }
    if (url.pathname === '/letters') {
      return void json(
        room.letters
          .filter((letter) => letter.to.includes(search))
          .slice(-500)
          .map(({ raw: _, ...letter }) => letter),
      )
    }
    if (url.pathname === '/closed' && request.method === 'POST') {
      room.closed = (await bodyOf(request)) === 'yes'
      return void json({ closed: room.closed })
    }
    const letter = section === 'mail' ? room.find(id ?? '') : undefined
    if (!letter) return void html(page('Not here', '<p>There is no such mail.</p>'), 404)
    if (!action) {
      await open(letter)
      return void html(show(letter))
    }
    if (request.method !== 'POST' || !['reply', 'away', 'bounce'].includes(action)) {
      return void html(page('Not here', '<p>That cannot be done.</p>'), 404)
    }
    await answer(letter, action as Answer, new URLSearchParams(await bodyOf(request)).get('text') ?? '', mailInPort)
    letter.answered = true
    response.writeHead(303, { location: '/' }).end()
  }
  const server = createServer((request, response) => {
    handle(request, response).catch((error: Error) =>
      response
        .writeHead(500, { 'content-type': 'text/html; charset=utf-8' })
        .end(page('Something went wrong', `<p>${escape(error.message)}</p>`)),
    )
  })
  return new Promise((resolve) => server.listen(port, '127.0.0.1', () => resolve()))
}
