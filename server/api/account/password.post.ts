import { changePassword } from '#shared/api/accounts'
import { answer } from '../../http/answer'
import { changePassword as change } from '../../services/accounts/accounts'

export default answer(changePassword, ({ viewer, body }) => change(viewer, body.current, body.next))
