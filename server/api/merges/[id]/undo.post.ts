import { undoMerge } from '#shared/api/duplicates'
import { answer } from '../../../http/answer'
import { undoMerge as work } from '../../../services/duplicates/undoMerge'

export default answer(undoMerge, ({ viewer, params }) => work(viewer, params.id))
