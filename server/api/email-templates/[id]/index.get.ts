import { getEmailTemplate } from '#shared/api/email/templates'
import { answer } from '../../../http/answer'
import { getEmailTemplate as read } from '../../../services/templates/templates'

export default answer(getEmailTemplate, ({ viewer, params }) => read(viewer, params.id))
