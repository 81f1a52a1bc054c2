import { listLists } from '#shared/api/lists'
import { answer } from '../../http/answer'
import { listLists as work } from '../../services/lists/lists'

export default answer(listLists, ({ viewer }) => work(viewer))
