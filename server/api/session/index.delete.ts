import { deleteCookie } from 'h3'
import { signOut } from '#shared/api/session'
import { answer, COOKIE } from '../../http/answer'
import { signOut as end } from '../../services/access/sessions'

export default answer(signOut, async ({ viewer, event }) => {
  await end(viewer)
  deleteCookie(event, COOKIE, { httpOnly: true, secure: true, sameSite: 'lax', path: '/' })
})
