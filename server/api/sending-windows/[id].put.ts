import { editSendingWindow } from '#shared/api/email/sending'
import { answer } from '../../http/answer'
import { editSendingWindow as work } from '../../services/sending/windows'

export default answer(editSendingWindow, ({ params, body }) => work(params.id, body))
