import { editUser } from '#shared/api/settings'
import { answer } from '../../../http/answer'
import { editUser as edit } from '../../../services/settings'

export default answer(editUser, ({ viewer, params, body }) => edit(viewer, params.id, body))
