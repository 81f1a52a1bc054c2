import { listCompanyMerges } from '#shared/api/duplicates'
import { answer } from '../../http/answer'
import { listCompanyMerges as list } from '../../services/duplicates/companyMerges'

export default answer(listCompanyMerges, async () => ({ merges: await list() }))
