import { editList } from '#shared/api/lists'
import { answer } from '../../../http/answer'
import { editList as work } from '../../../services/lists/lists'

export default answer(editList, ({ viewer, params, body }) => work(viewer, params.id, body))
