import { writeEmail } from '#shared/api/desk/desk'
import { answer } from '../../../http/answer'
import { writeEmail as write } from '../../../services/email/messages'

export default answer(writeEmail, ({ viewer, params, body }) => write(viewer, params.id, body))
