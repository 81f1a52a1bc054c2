import { previewEmail } from '#shared/api/email/templates'
import { answer } from '../../http/answer'
import { previewEmail as preview } from '../../services/templates/templates'

export default answer(previewEmail, ({ viewer, body }) => preview(viewer, body))
