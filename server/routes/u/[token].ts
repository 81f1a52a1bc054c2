import { defineEventHandler, getRouterParam, setResponseHeader, setResponseStatus } from 'h3'
import { optOut, readOptOut } from '../../services/email/messages'

const escape = (text: string) => text.replace(/&/g, '&amp;').replace(/</g, '&lt;')
const page = (
  title: string,
  body: string,
) => `<!doctype html><html lang="en"><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>${escape(title)}</title>
<style>body{font:16px/1.5 system-ui,sans-serif;background:#F7F4EC;color:#1F2B27;margin:15vh auto;max-width:28rem;padding:0 1rem}button{font:inherit;background:#1E5B4C;color:#fff;border:0;border-radius:6px;padding:.6rem 1rem}</style><h1>${escape(title)}</h1>${body}`

/**
 * The opt-out of commercial mail. A look at it changes nothing, so that link checkers stop nobody's mail; a POST does,
 * also the one-click POST of RFC 8058, without sign-in and without questions.
 */
export default defineEventHandler(async (event) => {
  setResponseHeader(event, 'content-type', 'text/html; charset=utf-8')
  const found = await readOptOut(getRouterParam(event, 'token') ?? '')
  if (!found) {
    setResponseStatus(event, 404)
    return page(
      'This link does not work',
      '<p>It may have been cut off. Answer the mail with a word instead; that works too.</p>',
    )
  }
  if (event.method === 'POST' && !found.done) await optOut(found.prospectId)
  if (event.method === 'POST' || found.done) {
    return page('Done', `<p>You will get no more mail from ${escape(found.team)}.</p>`)
  }
  return page(`No more mail from ${found.team}?`, '<form method="post"><button>Stop the mail</button></form>')
})
