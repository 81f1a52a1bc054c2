import { removeList } from '#shared/api/lists'
import { answer } from '../../../http/answer'
import { removeList as work } from '../../../services/lists/lists'

export default answer(removeList, ({ viewer, params }) => work(viewer, params.id))
