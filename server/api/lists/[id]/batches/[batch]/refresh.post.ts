import { refreshBatch as refreshBatch } from '#shared/api/lists'
import { answer } from '../../../../../http/answer'
import { refreshBatch as work } from '../../../../../services/lists/batches'

export default answer(refreshBatch, ({ viewer, params }) => work(viewer, params.id, params.batch))
