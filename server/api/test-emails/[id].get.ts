import { getTestEmail } from '#shared/api/email/testEmails'
import { answer } from '../../http/answer'
import { getTestEmail as work } from '../../services/email/systemEmails'

export default answer(getTestEmail, ({ viewer, params }) => work(viewer, params.id))
