import { undoBulk } from '#shared/api/bulk'
import { answer } from '../../../http/answer'
import { undoBulk as work } from '../../../services/bulk/bulkUndo'

export default answer(undoBulk, ({ viewer, params, body }) => work(viewer, params.id, body))
