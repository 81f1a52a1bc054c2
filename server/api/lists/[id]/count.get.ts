import { listCount } from '#shared/api/lists'
import { answer } from '../../../http/answer'
import { countList } from '../../../services/lists/lists'

export default answer(listCount, ({ viewer, params }) => countList(viewer, params.id))
