import { listEmailQueue } from '#shared/api/email/sending'
import { answer } from '../../http/answer'
import { listEmailQueue as work } from '../../services/sending/queue'

export default answer(listEmailQueue, ({ viewer, query }) => work(viewer, query))
