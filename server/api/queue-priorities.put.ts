import { editQueuePriorities } from '#shared/api/settings/queue'
import { answer } from '../http/answer'
import { editQueuePriorities as edit } from '../services/desk/priorities'

export default answer(editQueuePriorities, ({ viewer, body }) => edit(viewer, body.priorities))
