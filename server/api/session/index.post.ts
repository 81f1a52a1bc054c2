import { getHeader, setCookie } from 'h3'
import { signIn } from '#shared/api/session'
import { answer, COOKIE } from '../../http/answer'
import { clientAddress } from '../../http/client'
import { asUser, signIn as start } from '../../services/access/sessions'

export default answer(signIn, async ({ body, event }) => {
  const { token, maxAge, viewer } = await start({
    ...body,
    agent: getHeader(event, 'user-agent') ?? '',
    address: clientAddress(event),
  })
  setCookie(event, COOKIE, token, { httpOnly: true, secure: true, sameSite: 'lax', path: '/', maxAge })
  return { user: asUser(viewer) }
})
