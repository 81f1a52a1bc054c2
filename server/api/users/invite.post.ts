import { inviteUser } from '#shared/api/accounts'
import { answer } from '../../http/answer'
import { inviteUser as work } from '../../services/accounts/invite'

export default answer(inviteUser, ({ viewer, body }) => work(viewer, body))
