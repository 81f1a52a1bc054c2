import { defineEventHandler, getQuery, getRouterParam, sendRedirect, setResponseHeader, setResponseStatus } from 'h3'
import { messageOfClick } from '../../channels/mail/clicks'
import { noteClicked } from '../../services/email/messages'

/** A link of our mail: the click is counted, and the reader is led on where the email itself said, and nowhere else. */
export default defineEventHandler(async (event) => {
  setResponseHeader(event, 'cache-control', 'no-store')
  setResponseHeader(event, 'referrer-policy', 'no-referrer')
  const { to } = getQuery(event)
  const url = typeof to === 'string' ? to : ''
  const messageId = messageOfClick(getRouterParam(event, 'token') ?? '', url)
  if (!messageId) {
    setResponseStatus(event, 404)
    return 'This link is not complete. Open it from the email itself.'
  }
  if (event.method === 'GET') await noteClicked(messageId, url).catch(() => {})
  return sendRedirect(event, url, 302)
})
