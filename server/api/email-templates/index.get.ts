import { listEmailTemplates } from '#shared/api/email/templates'
import { answer } from '../../http/answer'
import { listEmailTemplates as list } from '../../services/templates/templates'

export default answer(listEmailTemplates, ({ viewer, query }) => list(viewer, query))
