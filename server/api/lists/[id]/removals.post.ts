import { removeFromList } from '#shared/api/lists'
import { answer } from '../../../http/answer'
import { removeFromList as work } from '../../../services/lists/batches'

export default answer(removeFromList, ({ viewer, params, body }) => work(viewer, params.id, body.prospectIds))
