import { addKey } from '#shared/api/accounts'
import { answer } from '../../http/answer'
import { addKey as add } from '../../services/access/sessions'

export default answer(addKey, ({ viewer, body }) => add(viewer, body.name, body.rights, body.days))
