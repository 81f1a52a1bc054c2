import { listBatches as listBatches } from '#shared/api/lists'
import { answer } from '../../../../http/answer'
import { listBatches as work } from '../../../../services/lists/batches'

export default answer(listBatches, ({ viewer, params }) => work(viewer, params.id))
