import { listSenders } from '#shared/api/email/sending'
import { answer } from '../../http/answer'
import { listSenders as work } from '../../services/sending/senders'

export default answer(listSenders, ({ viewer }) => work(viewer))
