import { addSendingWindow } from '#shared/api/email/sending'
import { answer } from '../../http/answer'
import { addSendingWindow as work } from '../../services/sending/windows'

export default answer(addSendingWindow, ({ body }) => work(body))
