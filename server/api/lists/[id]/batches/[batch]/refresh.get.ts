import { previewRefresh } from '#shared/api/lists'
import { answer } from '../../../../../http/answer'
import { previewRefresh as work } from '../../../../../services/lists/batches'

export default answer(previewRefresh, ({ viewer, params }) => work(viewer, params.id, params.batch))
