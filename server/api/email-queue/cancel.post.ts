import { cancelEmails } from '#shared/api/email/sending'
import { answer } from '../../http/answer'
import { cancelEmails as work } from '../../services/sending/queue'

export default answer(cancelEmails, ({ viewer, body }) => work(viewer, body.messageIds))
