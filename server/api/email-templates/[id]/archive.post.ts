import { archiveEmailTemplate } from '#shared/api/email/templates'
import { answer } from '../../../http/answer'
import { archiveEmailTemplate as archive } from '../../../services/templates/templates'

export default answer(archiveEmailTemplate, ({ viewer, params, body }) => archive(viewer, params.id, body.archived))
