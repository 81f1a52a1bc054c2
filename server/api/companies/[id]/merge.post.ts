import { mergeCompanies } from '#shared/api/duplicates'
import { answer } from '../../../http/answer'
import { mergeCompanies as merge } from '../../../services/duplicates/companyMerges'

export default answer(mergeCompanies, ({ viewer, params, body }) => merge(viewer, body.id, params.id, body.duplicateId))
