import { sendTestEmail } from '#shared/api/email/testEmails'
import { answer } from '../../http/answer'
import { sendToSelf } from '../../services/email/systemEmails'

export default answer(sendTestEmail, ({ viewer, body }) => sendToSelf(viewer, body))
