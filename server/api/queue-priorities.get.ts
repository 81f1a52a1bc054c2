import { getQueuePriorities } from '#shared/api/settings/queue'
import { answer } from '../http/answer'
import { getQueuePriorities as read } from '../services/desk/priorities'

export default answer(getQueuePriorities, ({ viewer }) => read(viewer))
