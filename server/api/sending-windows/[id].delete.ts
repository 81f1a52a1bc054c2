import { removeSendingWindow } from '#shared/api/email/sending'
import { answer } from '../../http/answer'
import { removeSendingWindow as work } from '../../services/sending/windows'

export default answer(removeSendingWindow, ({ params }) => work(params.id))
