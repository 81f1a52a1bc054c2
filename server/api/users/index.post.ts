import { addUser } from '#shared/api/settings'
import { answer } from '../../http/answer'
import { addUser as add } from '../../services/settings'

export default answer(addUser, ({ viewer, body }) => add(viewer, body))
