import { addEmailTemplate } from '#shared/api/email/templates'
import { answer } from '../../http/answer'
import { addEmailTemplate as add } from '../../services/templates/templates'

export default answer(addEmailTemplate, ({ viewer, body }) => add(viewer, body))
