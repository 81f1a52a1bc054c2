import { queue } from '#shared/api/desk'
import { answer } from '../../http/answer'
import { queue as read } from '../../services/desk/desk'

export default answer(queue, ({ viewer, query }) => read(viewer, query.limit, query.list))
