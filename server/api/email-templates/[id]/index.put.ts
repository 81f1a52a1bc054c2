import { editEmailTemplate } from '#shared/api/email/templates'
import { answer } from '../../../http/answer'
import { editEmailTemplate as edit } from '../../../services/templates/templates'

export default answer(editEmailTemplate, ({ viewer, params, body }) => edit(viewer, params.id, body))
