import { getTestEmail } from '#shared/api/testEmails'
import { answer } from '../../http/answer'
import { getTestEmail as work } from '../../services/email/systemEmails'

export default answer(getTestEmail, ({ viewer, params }) => work(viewer, params.id))
