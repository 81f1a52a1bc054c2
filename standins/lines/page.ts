const escape = (text: string) =>
  text.replace(/&/g, '&amp;').replace(/</g, '&lt;').replace(/>/g, '&gt;').replace(/"/g, '&quot;')

/** What the page shows of a call that a recipient makes to us. */
export interface ShownCall {
  id: string
  number: string
  status: string
}

const WORDS: Record<string, string> = { ringing: 'It rings …', answered: 'They answered.', ended: 'The call is over.' }

function callForm(number: string, label: string): string {
  return `<form method="post" action="/incoming" style="display: inline">
    <input type="hidden" name="from" value="${escape(number)}"><button>${label}</button></form>`
}

/** The page on which recipients call back: numbers that were called, messages they got, and a call under way. */
export function telephonesPage(
  called: readonly string[],
  left: readonly { id: string; number: string }[],
  current: ShownCall | null,
): string {
  const isLive = current && current.status !== 'ended'
  const state = current
    ? `<p role="status"><b>${escape(current.number)}</b>: ${WORDS[current.status] ?? current.status}</p>`
    : ''
  const hangUp = isLive
    ? `<form method="post" action="/hang-up"><input type="hidden" name="id" value="${current.id}">
       <button>Hang up</button></form>`
    : ''
  const voicemail = left
    .map(
      ({ id, number }) =>
        `<li>${escape(number)} <audio controls preload="none" src="/calls/${id}/message"></audio></li>`,
    )
    .join('')
  const rows = called.map((number) => `<li>${escape(number)} ${callForm(number, 'Call back')}</li>`).join('')
  return `<!doctype html><html lang="en"><meta charset="utf-8"><title>Recipients’ phones: calls</title>
    ${isLive ? `<meta http-equiv="refresh" content="2; url=/?call=${current.id}">` : ''}
    <body style="font: 15px sans-serif; max-width: 640px; margin: 32px auto; background: #f7f4ec; color: #1f2b27">
    <h1>Recipients’ phones: calls</h1>${state}${hangUp}
    <h2>Called from Uphill</h2><ul>${rows || '<li>Nobody yet.</li>'}</ul>
    <h2>Voicemail</h2><ul>${voicemail || '<li>No messages yet.</li>'}</ul>
    <h2>Call from any number</h2>
    <form method="post" action="/incoming">
      <label>Number <input name="from" placeholder="+12125550143" required pattern="\\+[1-9][0-9]{1,14}"></label>
      <button>Call Uphill</button>
    </form>`
}
