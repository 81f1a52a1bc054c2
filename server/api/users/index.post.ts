import { addUser } from '#shared/api/settings/settings'
import { answer } from '../../http/answer'
import { addUser as add } from '../../services/settings/settings'

export default answer(addUser, ({ viewer, body }) => add(viewer, body))
