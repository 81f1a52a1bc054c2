import { addKey } from '#shared/api/settings'
import { answer } from '../../http/answer'
import { addKey as add } from '../../services/sessions'

export default answer(addKey, ({ viewer, body }) => add(viewer, body.name))
