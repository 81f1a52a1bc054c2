import { bulkToDos } from '#shared/api/bulk'
import { answer } from '../../../http/answer'
import { bulkToDos as work } from '../../../services/bulk/bulkToDos'

export default answer(bulkToDos, ({ viewer, params, query }) => work(viewer, params.id, query))
