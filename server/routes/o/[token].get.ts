import { defineEventHandler, getRouterParam, setResponseHeader } from 'h3'
import { noteOpened } from '../../services/email/messages'

const PICTURE = Buffer.from('R0lGODlhAQABAIAAAAAAAP///yH5BAEAAAAALAAAAAABAAEAAAIBRAA7', 'base64')

/** The one-pixel picture in our mail: asking for it says that the mail was looked at. It is given whatever happens. */
export default defineEventHandler(async (event) => {
  setResponseHeader(event, 'content-type', 'image/gif')
  setResponseHeader(event, 'cache-control', 'no-store')
  await noteOpened(getRouterParam(event, 'token') ?? '').catch(() => {})
  return PICTURE
})
