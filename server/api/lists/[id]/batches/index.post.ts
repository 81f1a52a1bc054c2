import { addToList } from '#shared/api/lists'
import { answer } from '../../../../http/answer'
import { addToList as work } from '../../../../services/lists/batches'

export default answer(addToList, ({ viewer, params, body }) => work(viewer, params.id, body))
