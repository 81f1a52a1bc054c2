import { listSendingWindows } from '#shared/api/email/sending'
import { answer } from '../../http/answer'
import { listSendingWindows as work } from '../../services/sending/windows'

export default answer(listSendingWindows, () => work())
