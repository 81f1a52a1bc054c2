import { orderLists } from '#shared/api/lists'
import { answer } from '../../http/answer'
import { orderLists as work } from '../../services/lists/lists'

export default answer(orderLists, ({ viewer, body }) => work(viewer, body.ids, body.before))
