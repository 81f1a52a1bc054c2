import { setCompanyStatus } from '#shared/api/companies'
import { answer } from '../../../http/answer'
import { setCompanyStatus as set } from '../../../services/companies/companies'

export default answer(setCompanyStatus, ({ viewer, params, body }) => set(viewer, params.id, body))
