import { getHeader, setCookie } from 'h3'
import { signIn } from '#shared/api/session'
import { answer, COOKIE } from '../../http/answer'
import { signIn as start } from '../../services/sessions'

export default answer(signIn, async ({ body, event }) => {
  const { token, maxAge, viewer } = await start(body.email, body.password, getHeader(event, 'user-agent') ?? '')
  setCookie(event, COOKIE, token, { httpOnly: true, secure: true, sameSite: 'lax', path: '/', maxAge })
  return { user: { id: viewer.id, name: viewer.name, email: viewer.email, role: viewer.role, zone: viewer.zone } }
})
