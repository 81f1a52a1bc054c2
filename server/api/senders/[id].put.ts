import { editSender } from '#shared/api/email/sending'
import { answer } from '../../http/answer'
import { editSender as work } from '../../services/sending/senders'

export default answer(editSender, ({ params, body }) => work(params.id, body))
