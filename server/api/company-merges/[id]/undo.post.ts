import { undoCompanyMerge } from '#shared/api/duplicates'
import { answer } from '../../../http/answer'
import { undoCompanyMerge as undo } from '../../../services/duplicates/companyMerges'

export default answer(undoCompanyMerge, ({ viewer, params }) => undo(viewer, params.id))
