import { queue } from '#shared/api/desk/queue'
import { answer } from '../../http/answer'
import { queue as read } from '../../services/desk/queue'

export default answer(queue, ({ viewer, query: { limit, list, ...choice } }) => read(viewer, limit, choice, list))
