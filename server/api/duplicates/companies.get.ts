import { findDuplicateCompanies } from '#shared/api/duplicates'
import { answer } from '../../http/answer'
import { findDuplicateCompanies as find } from '../../services/duplicates/companyMerges'

export default answer(findDuplicateCompanies, async ({ viewer }) => ({ pairs: await find(viewer) }))
