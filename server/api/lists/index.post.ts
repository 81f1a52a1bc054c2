import { addList } from '#shared/api/lists'
import { answer } from '../../http/answer'
import { addList as work } from '../../services/lists/lists'

export default answer(addList, ({ viewer, body }) => work(viewer, body))
