import { deactivateUser } from '#shared/api/accounts'
import { answer } from '../../../http/answer'
import { deactivateUser as deactivate } from '../../../services/accounts/accounts'

export default answer(deactivateUser, ({ viewer, params, body }) => deactivate(viewer, params.id, body))
