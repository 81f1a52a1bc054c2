import { setCompanyStanding } from '#shared/api/prospects'
import { answer } from '../../../http/answer'
import { setCompanyStanding as set } from '../../../services/companies'

export default answer(setCompanyStanding, ({ viewer, params, body }) => set(viewer, params.id, body))
