import { editUser } from '#shared/api/settings/settings'
import { answer } from '../../../http/answer'
import { editUser as edit } from '../../../services/settings/settings'

export default answer(editUser, ({ viewer, params, body }) => edit(viewer, params.id, body))
